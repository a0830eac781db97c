"""Instrument profiles: the commands of one kind of meter, held in a TOML file.

A meter is read in one of two ways. With a ``buffer`` it records by itself and hands over what it
has recorded since the last question, times included. Without one it is asked for each quantity in
turn, and the time of asking counts.
"""

import tomllib
from importlib import resources
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from yardtoll.bench.errors import ProfileError
from yardtoll.core.electrical.quantities import Quantity

TIME_COLUMN = "time"


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class BufferProfile(_Strict):
    """A recording the meter keeps.

    Attributes:
        query: asks for what was recorded since the last time.
        columns: what the numbers of one record are, in order; one is "time" in s.
        record_separator: between records; numbers within one are parted by commas.
    """

    query: str
    columns: tuple[str, ...]
    record_separator: Annotated[str, Field(min_length=1)] = ";"

    @model_validator(mode="after")
    def _known_columns(self) -> "BufferProfile":
        allowed = {TIME_COLUMN, *(q.value for q in Quantity)}
        unknown = [c for c in self.columns if c not in allowed]
        if unknown or TIME_COLUMN not in self.columns:
            raise ValueError(f'columns must hold "time" and else only {sorted(allowed)}')
        return self


class DirectProfile(_Strict):
    """One quantity asked for by itself; the answer times ``scale`` is in the fixed unit."""

    query: str
    scale: float = 1.0


class Profile(_Strict):
    """The commands of one kind of meter."""

    name: str
    identify: str = "*IDN?"
    setup: tuple[str, ...] = ()
    zero: str | None = None
    timeout_ms: Annotated[int, Field(gt=0)] = 2000
    termination: str = "\n"
    buffer: BufferProfile | None = None
    direct: dict[Quantity, DirectProfile] = {}

    @model_validator(mode="after")
    def _can_be_read(self) -> "Profile":
        if self.buffer is None and not self.direct:
            raise ValueError("a profile needs a buffer or at least one direct quantity")
        return self


def load_profile(path: Path) -> Profile:
    """Read a profile from a TOML file.

    Raises:
        ProfileError: the file is missing, no TOML, or no profile.
    """
    try:
        return _parse(path.name, path.read_text("utf-8"))
    except OSError as error:
        raise ProfileError(f"{path} cannot be read: {error.strerror}") from None


def shipped_profiles() -> dict[str, Profile]:
    """The profiles that come with the program, by file name without ending."""
    folder = resources.files("yardtoll.bench") / "profiles"
    return {
        entry.name.removesuffix(".toml"): _parse(entry.name, entry.read_text("utf-8"))
        for entry in sorted(folder.iterdir(), key=lambda e: e.name)
        if entry.name.endswith(".toml")
    }


def _parse(name: str, text: str) -> Profile:
    try:
        return Profile.model_validate(tomllib.loads(text))
    except tomllib.TOMLDecodeError as error:
        raise ProfileError(f"{name} is no TOML: {error}") from None
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or "the profile"
        raise ProfileError(f"{name}: {where}: {first['msg']}") from None
