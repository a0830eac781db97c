"""Profiles of instruments: TOML files that come with the program, and the user's own.

A profile names its protocol and holds the commands of one kind of instrument; what they are is the
protocol's driver's to say.
"""

import tomllib
from dataclasses import dataclass
from importlib import resources
from pathlib import Path

import platformdirs
from pydantic import BaseModel, ValidationError

from yardtoll.bench.drivers import DRIVERS
from yardtoll.bench.errors import ProfileError
from yardtoll.bench.instrument import Driver

FIRST_PROTOCOL = "scpi"
"""Of a profile that names none, as the first ones did."""


@dataclass(frozen=True, kw_only=True)
class Profile:
    """One kind of instrument: its protocol's driver, and the commands it is given."""

    name: str
    driver: Driver
    commands: BaseModel


def load_profile(path: Path) -> Profile:
    """Read a profile from a TOML file.

    Raises:
        ProfileError: the file is missing, not TOML, or not a profile.
    """
    try:
        return _parse(path.name, path.read_text("utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        said = getattr(error, "strerror", None) or "it is not text in UTF-8"
        raise ProfileError(f"{path} cannot be read: {said}") from None


def shipped_profiles() -> dict[str, Profile]:
    """The profiles that come with the program, by file name without ending."""
    folder = resources.files("yardtoll.bench") / "profiles"
    return {
        entry.name.removesuffix(".toml"): _parse(entry.name, entry.read_text("utf-8"))
        for entry in sorted(folder.iterdir(), key=lambda e: e.name)
        if entry.name.endswith(".toml")
    }


def user_profile_folder() -> Path:
    """Where a reviewer's own profiles are kept, one TOML file a kind of instrument."""
    return Path(platformdirs.user_config_dir("yardtoll")) / "profiles"


def known_profiles() -> tuple[dict[str, Profile], list[str]]:
    """Profiles by file name without ending, and a sentence for each file that is not a profile.

    A user's file takes the place of a shipped one of the same name.
    """
    found, problems = shipped_profiles(), []
    for path in sorted(user_profile_folder().glob("*.toml")):
        try:
            found[path.stem] = load_profile(path)
        except ProfileError as error:
            problems.append(str(error))
    return found, problems


def profile_named(name: str) -> Profile:
    """One profile.

    Raises:
        ProfileError: there is none of that name, or its file cannot be used.
    """
    found, problems = known_profiles()
    if name not in found:
        own = next((p for p in problems if p.startswith(f"{name}.toml")), "")
        raise ProfileError(own or f"there is no profile {name} in {user_profile_folder()}")
    return found[name]


def _parse(name: str, text: str) -> Profile:
    try:
        stored = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise ProfileError(f"{name} is not TOML: {str(error)[:120]}") from None
    except RecursionError:
        raise ProfileError(f"{name} is not TOML of a profile: it is nested too deeply") from None
    protocol = stored.pop("protocol", FIRST_PROTOCOL)
    driver = DRIVERS.get(protocol) if isinstance(protocol, str) else None
    if driver is None:
        known = ", ".join(DRIVERS)
        raise ProfileError(f"{name}: protocol must be one of {known}")
    title = stored.pop("name", "")
    if not isinstance(title, str) or not title:
        raise ProfileError(f"{name}: name: a profile needs the name of its instrument")
    try:
        return Profile(name=title, driver=driver, commands=driver.commands.model_validate(stored))
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])[:80] or "the profile"
        raise ProfileError(f"{name}: {where}: {first['msg'][:120]}") from None
