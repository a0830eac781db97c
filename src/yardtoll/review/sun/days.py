"""The coming days' sun: what the panels should give, the hours worth testing in, turning."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta, tzinfo
from functools import cached_property

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.sun.aiming import Aim, AimedDay, aim_at, aimed_by_hand
from yardtoll.core.sun.clear_day import ClearDay, clear_day
from yardtoll.review.sun.arrays import Parts
from yardtoll.review.sun.minutes import minutes_of

DAYS = 7


@dataclass(frozen=True, kw_only=True)
class SunDay:
    """One clear day to come, by the clocks of its zone.

    Attributes:
        zone: None for this computer's.
    """

    day: date
    zone: tzinfo | None
    clear: ClearDay

    @cached_property
    def times(self) -> tuple[datetime, ...]:
        """Every minute of it."""
        return tuple(datetime.fromtimestamp(s, self.zone) for s in self.clear.clock_s.tolist())

    @cached_property
    def hours(self) -> FloatArray:
        """(n,) h of the clock at every minute."""
        return np.array([time.hour + time.minute / 60 for time in self.times])

    @property
    def window(self) -> tuple[tuple[datetime, datetime], ...]:
        """Its hours worth testing in."""
        return tuple(
            (datetime.fromtimestamp(start, self.zone), datetime.fromtimestamp(end, self.zone))
            for start, end in self.clear.window_s
        )


@dataclass(frozen=True, kw_only=True)
class SunOutlook:
    """The coming days under a clear sky.

    Attributes:
        turned: the first day with the panels turned by hand at ``turn_hours``.
        as_they_are, best: at the moment asked for; None while the sun is down.
    """

    days: tuple[SunDay, ...]
    turned: AimedDay
    turn_hours: tuple[int, ...]
    as_they_are: Aim | None
    best: Aim | None


def outlook(
    parts: Parts, now: datetime, first: date, turn_hours: Sequence[int] | None = None
) -> SunOutlook:
    """What a week of clear sky gives, by the computer's clock.

    Args:
        parts: arrays on one input, the first one's cap for all; not empty.
        now: aware.
        first: the day to begin with.
        turn_hours: local hours at which the first array is turned by hand on the first day; None
            for the sun's own noon and three hours to either side.
    """
    zone = now.tzinfo
    days = [first + timedelta(days=i) for i in range(DAYS)]
    (site, array), others = parts[0], parts[1:]
    found = [
        SunDay(day=day, zone=zone, clear=clear_day(site, array, minutes_of(day, zone), others))
        for day in days
    ]
    times = found[0].times
    hours = _round_noon(found[0]) if turn_hours is None else tuple(turn_hours)
    at = sorted({i for hour in hours if (i := _index(times, hour)) is not None})
    as_they_are, best = aim_at(site, array, np.array([now.timestamp()]))
    shines = best.power_w > 0
    return SunOutlook(
        days=tuple(found),
        turned=aimed_by_hand(site, array, found[0].clear.clock_s, at),
        turn_hours=hours,
        as_they_are=as_they_are if shines else None,
        best=best if shines else None,
    )


def _index(times: Sequence[datetime], hour: int) -> int | None:
    """The minute of a local hour; None on a day that leaves it out."""
    return next((i for i, t in enumerate(times) if (t.hour, t.minute) == (hour, 0)), None)


def _round_noon(day: SunDay) -> tuple[int, ...]:
    """Three hours to turn the panels at: in the middle of the day's sun, and to either side."""
    if day.clear.peak_w <= 0:
        return ()
    noon = round(float(np.average(day.hours, weights=day.clear.input_w)))
    return tuple(hour for hour in (noon - 3, noon, noon + 3) if 0 <= hour <= 23)
