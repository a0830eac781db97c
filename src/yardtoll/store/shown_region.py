"""Quantities, clock times and days as shown: the way they are written where the reader lives.

Like the time zone, the region is one for the whole program: the window sets it from the user's
choice. What is kept, and what a shell prints, does not depend on it.
"""

from collections.abc import Iterable
from datetime import date, datetime

from yardtoll.core.region import INTERNATIONAL, Region, in_region

_region = [INTERNATIONAL]
_as_written: list[tuple[str, ...]] = [()]


def show_for(region: Region) -> None:
    """Show everything as a region's readers expect it from now on."""
    _region[0] = region


def shown_region() -> Region:
    """The region that everything is shown for."""
    return _region[0]


def keep_as_written(names: Iterable[str]) -> None:
    """Names that no figure is looked for in, such as those of stations."""
    _as_written[0] = tuple(names)


def shown(text: str) -> str:
    """A text in the units and with the decimal sign of the region."""
    return in_region(text, _region[0], _as_written[0])


def clock(at: datetime, *, seconds: bool = False) -> str:
    """Like "18:40" or "6:40 pm"."""
    if not _region[0].twelve_hours:
        return f"{at:%H:%M:%S}" if seconds else f"{at:%H:%M}"
    return f"{at:%-I:%M:%S} {at:%p}".lower() if seconds else f"{at:%-I:%M} {at:%p}".lower()


def day(at: date) -> str:
    """A calendar day in figures, such as "2026-05-14" or "05/14/2026"."""
    return at.strftime(_region[0].day)
