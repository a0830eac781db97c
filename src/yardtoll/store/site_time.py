"""Stored times as shown: in the time zone of the bench's site.

Like a language, the zone is one for the whole program: opening a yard sets it, and so does an edit
of its site. What is published names it.
"""

import os
from datetime import UTC, datetime, tzinfo
from pathlib import Path
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from yardtoll.store.records import Site

_LOCALTIME = Path("/etc/localtime")
_shown_in: list[tzinfo | None] = [None]


def system_zone_name() -> str:
    """The computer's time zone by name, such as "Europe/Lisbon"; "UTC" where it has none."""
    named = os.environ.get("TZ", "").lstrip(":")
    if not named and _LOCALTIME.is_symlink():
        _, _, named = str(_LOCALTIME.resolve()).partition("zoneinfo/")
    return named if named and _known(named) is not None else "UTC"


def zone_of(site: Site) -> tzinfo:
    """The site's time zone; the computer's where none is noted, or the name is not known here."""
    return _known(site.time_zone) or _known(system_zone_name()) or UTC


def zone_name(site: Site) -> str:
    """The zone by name, as it is published."""
    return site.time_zone if _known(site.time_zone) is not None else system_zone_name()


def _known(name: str) -> ZoneInfo | None:
    try:
        return ZoneInfo(name) if name else None
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return None


def show_in(zone: tzinfo) -> None:
    """Show all times in a zone from now on."""
    _shown_in[0] = zone


def shown_zone() -> tzinfo:
    """The zone that times are shown in."""
    return _shown_in[0] or _known(system_zone_name()) or UTC


def now() -> datetime:
    """This moment, in the zone that times are shown in."""
    return datetime.now(shown_zone())


def shown_at(at_s: float) -> datetime:
    """A time in s since 1970, as shown."""
    return datetime.fromtimestamp(at_s, shown_zone())


def local(iso: str, zone: tzinfo | None = None) -> datetime:
    """A stored ISO 8601 time in a zone; in the one shown where None."""
    return datetime.fromisoformat(iso).astimezone(zone or shown_zone())


def local_date(iso: str, zone: tzinfo | None = None) -> str:
    """The calendar day of a stored time, as 2026-05-14."""
    return f"{local(iso, zone):%Y-%m-%d}"


def meant_here(naive: datetime) -> datetime:
    """A clock time as typed, taken in the zone that times are shown in."""
    return naive.replace(tzinfo=shown_zone())
