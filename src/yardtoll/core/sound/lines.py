"""Sound levels against load, each without its background and brought to one metre."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from yardtoll.core.output.entries import EntryField, Fields, number_in, word_in

if TYPE_CHECKING:
    from yardtoll.core.sound.levels import SoundResult

QUIET_DB, LOUD_DB = 48.0, 60.0
"""At one metre (common practice, no source)."""
DOING = (
    ("idle", "idle"),
    ("load", "under load"),
    ("charging", "charging"),
    ("both", "charging under load"),
)
FANS = (("off", "fans off"), ("on", "fans on"))
BY = (("meter", "sound level meter"), ("phone", "phone"), ("recording", "recording"))
FIELDS = (
    EntryField(key="doing", title="Doing", choices=DOING, needed=True, default="load"),
    EntryField(key="load_w", title="At", unit="W"),
    EntryField(key="level_db", title="Level", unit="dB(A)", low=-20, high=200, decimals=1,
               needed=True),
    EntryField(key="background_db", title="Background", unit="dB(A)", low=-20, high=200,
               decimals=1),
    EntryField(key="distance_m", title="Distance", unit="m", low=0.01, high=100, decimals=2,
               needed=True, default=1.0),
    EntryField(key="fans", title="Fans", choices=FANS, in_list=False),
    EntryField(key="by", title="Read by", choices=BY, default="phone"),
    EntryField(key="within_db", title="Instrument within ±", unit="dB", high=20, decimals=1,
               in_list=False),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class LevelLine:
    """One level.

    Attributes:
        at_1m_db: without background where that is known; a bound where it is not told apart.
        at_most: the background is too close: the station alone is at most so loud.
        within_db: limits of error of the instrument; None where they are not stated.
        recorded: of a recording; None for a level that was read.
    """

    doing: str
    load_w: float | None
    level_db: float
    distance_m: float
    at_1m_db: float
    at_most: bool
    no_background: bool
    within_db: float | None
    recorded: SoundResult | None = None
    by: str = ""
    fans: str = ""

    @property
    def words(self) -> str:
        """Like "charging at 600 W"."""
        doing = dict(DOING).get(self.doing, self.doing)
        return f"{doing} at {self.load_w:.0f} W" if self.load_w else doing


@dataclass(frozen=True, kw_only=True)
class Levels:
    """All levels; ``loudest`` and ``quietest`` are at one metre."""

    lines: tuple[LevelLine, ...]
    loudest: LevelLine | None
    quietest: LevelLine | None


def level_line(line: Fields, recorded: SoundResult | None = None) -> LevelLine | None:
    """A line with what its recording shows; None without a level."""
    from yardtoll.core.sound.levels import LEAST_ABOVE_DB, analyse_level

    level_db = number_in(line, "level_db")
    if recorded is not None and recorded.level_db is not None:
        level_db = recorded.level_db
    distance_m = number_in(line, "distance_m") or 1.0
    if level_db is None or distance_m <= 0:
        return None
    background = number_in(line, "background_db")
    found = analyse_level(level_db, distance_m, background)
    at_1m_db = found.at_1m_db if found.at_1m_db is not None else level_db
    close = background is not None and found.without_background_db is None
    if close:
        # Under 3 dB apart, the station alone is at least 3 dB under what was read with it.
        at_1m_db = level_db - LEAST_ABOVE_DB + 20 * math.log10(distance_m)
    return LevelLine(
        doing=word_in(line, "doing") or "load",
        load_w=number_in(line, "load_w"),
        level_db=level_db,
        distance_m=distance_m,
        at_1m_db=at_1m_db,
        at_most=close,
        no_background=background is None,
        within_db=number_in(line, "within_db"),
        recorded=recorded,
        by=word_in(line, "by"),
        fans=word_in(line, "fans"),
    )


def all_levels(lines: Sequence[LevelLine]) -> Levels:
    """What the lines say together."""
    return Levels(
        lines=tuple(lines),
        loudest=max(lines, key=lambda line: line.at_1m_db, default=None),
        quietest=min(lines, key=lambda line: line.at_1m_db, default=None),
    )
