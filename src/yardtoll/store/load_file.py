"""A list of loads from a JSON file, checked before it is used."""

from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from yardtoll.core.planning.loads import LoadSetting, LoadSpec
from yardtoll.store.errors import StoreError

LARGEST_BYTES = 5 * 1024 * 1024


class LoadFileError(StoreError):
    """A file of loads cannot be used."""


class _Setting(BaseModel):
    model_config = ConfigDict(extra="forbid")
    name: str = "on"
    watts: float


class _Load(BaseModel):
    model_config = ConfigDict(extra="forbid")
    name: str = Field(min_length=1)
    kind: str = "resistive"
    count: int = Field(1, ge=0)
    settings: list[_Setting] = []
    range_w: Annotated[list[float], Field(min_length=3, max_length=3)] | None = None
    inrush: float = 1.0
    power_factor: float = 1.0


_LOADS = TypeAdapter(list[_Load])


def read_loads(path: Path) -> list[LoadSpec]:
    """The loads of a JSON file: name, kind, count, settings, range_w, inrush, power_factor.

    Raises:
        LoadFileError: it cannot be read or is no list of loads; the message names the place.
        UnusableDataError: a load's figures are not plausible.
    """
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise LoadFileError(f"{path.name} is too large to be a list of loads")
        found = _LOADS.validate_json(path.read_bytes())
    except OSError as error:
        raise LoadFileError(f"{path} cannot be read: {error.strerror}") from None
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        at = _place(first["loc"])
        raise LoadFileError(f"{path.name}{at}: {first['msg'].lower()}") from None
    names = [load.name for load in found]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        raise LoadFileError(f"{path.name}: {twice} is listed twice; give its count instead")
    return [
        LoadSpec(
            name=load.name,
            kind=load.kind,
            count=load.count,
            settings=tuple(LoadSetting(name=s.name, watts=s.watts) for s in load.settings),
            range_w=(load.range_w[0], load.range_w[1], load.range_w[2]) if load.range_w else None,
            inrush=load.inrush,
            power_factor=load.power_factor,
        )
        for load in found
    ]


def _place(location: tuple[int | str, ...]) -> str:
    """Like ", load 2, settings 1, watts"."""
    words: list[str] = []
    for part in location:
        if isinstance(part, int):
            words.append(f"{'load' if not words else words.pop()} {part + 1}")
        else:
            words.append(part)
    # Names of fields are the file's own: they may be anything.
    return " ".join("".join(f", {word}" for word in words).split())[:80]
