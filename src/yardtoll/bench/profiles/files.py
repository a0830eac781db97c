"""The instrument profiles a meter can be given: those shipped, and the user's own."""

from pathlib import Path

import platformdirs

from yardtoll.bench.errors import ProfileError
from yardtoll.bench.profiles.profile import Profile, load_profile, shipped_profiles


def user_profile_folder() -> Path:
    """Where a reviewer's own profiles lie, one TOML file a kind of meter."""
    return Path(platformdirs.user_config_dir("yardtoll")) / "profiles"


def known_profiles() -> tuple[dict[str, Profile], list[str]]:
    """Profiles by file name without ending, and a sentence for each file that is none.

    A user's file goes before a shipped one of the same name.
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
