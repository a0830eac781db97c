"""Loads carried at and above the rating: steps, surges, what ended them.

A step is a steady stretch of power. What ended the last of it is often known only to who stood
there; without that, a fall to nothing is a trip only from above the rating, and an empty battery's
only where most of the rated energy has gone.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.stretches import stretches
from yardtoll.core.electrical.trace import Code, FloatArray, Notice, Trace
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError

_NEW_SHARE, _NEW_S = 0.03, 5.0
"""A step is new when the level moves by more than this and stays there so long."""
_AT_RATED, _RATED_SHARE = 0.98, 1.02
_HELD_S = 60.0
_SURGE_SHARE, _SURGE_S = 1.20, 10.0
_FAST_ENOUGH_HZ = 5.0
_EMPTY_SHARE = 0.80
_BEFORE_TRIP_S = 2.0
_LOAD_W, _LOAD_SHARE = 2.0, 0.05
_NO_LOAD_S = 60.0
_AT_ONCE = 4096
_CHANGE_S = 1.5
"""A step that is left within so long of the end of the load was left by its fall."""


class StepEnd(StrEnum):
    """What ended one steady stretch of a load."""

    TRIP = "trip"
    HAND = "hand"
    BATTERY = "battery"
    NEXT_STEP = "next_step"
    LOG_END = "log_end"
    UNKNOWN = "unknown"


@dataclass(frozen=True, kw_only=True)
class LoadStep:
    """One steady stretch of power.

    Attributes:
        start_s: on the log's time.
        seconds: half an interval at either edge included.
        share_of_rated: mean W ÷ rated W.
        mean_v: of its volts; None where none were logged.
    """

    start_s: float
    seconds: float
    mean_w: float
    max_w: float
    share_of_rated: float
    ended_by: StepEnd
    mean_v: float | None = None


@dataclass(frozen=True, kw_only=True)
class Trip:
    """The station switched its outlet off under too much load."""

    at_s: float
    from_w: float
    share_of_rated: float
    seconds_above_rated: float


@dataclass(frozen=True, kw_only=True)
class HoldResult:
    """What was carried, how long, and what ended it.

    Attributes:
        longest_at_rated_s: longest stretch at 98 % of the rating or more.
        highest_held_w: of steps of a minute or more; None where there is none.
        surge_w, surge_s: above 120 % for at most ten seconds; None where nothing went there.
        surge_at_least: the log is too slow to have seen the peak.
        sag_ratio: (no-load − volts at rated) ÷ no-load.
    """

    name: str
    rated_w: float
    steps: tuple[LoadStep, ...]
    longest_at_rated_s: float
    highest_held_w: float | None
    surge_w: float | None
    surge_s: float | None
    surge_at_least: bool
    trip: Trip | None
    volts_at_rated: float | None
    sag_ratio: float | None
    energy_wh: float
    notices: tuple[Notice, ...]


def analyse_hold(
    trace: Trace,
    rated_w: float,
    *,
    ended_by: StepEnd | None = None,
    rated_wh: float | None = None,
) -> HoldResult:
    """Work out a log of loads.

    Args:
        ended_by: what ended the last of it, as seen: trip, hand or battery.
        rated_wh: tells an empty battery from a trip.

    Raises:
        UnusableDataError: no power was logged, or none was drawn.
        ValueOutOfRangeError: a rating is not above 0.
    """
    for name, value in (("rated_w", rated_w), ("rated_wh", rated_wh)):
        if value is not None and not (math.isfinite(value) and value > 0):
            raise ValueOutOfRangeError(f"{{{name}}}", value, "above 0")
    power = trace.columns.get(Quantity.POWER)
    if power is None:
        raise UnusableDataError(f"{trace.name} has no power column")
    good = np.isfinite(power)
    time_s, power = trace.time_s[good], np.maximum(power[good], 0.0)
    loaded_w = power[power > _LOAD_W]
    if loaded_w.size == 0:
        raise UnusableDataError(f"{trace.name}: no load was ever on")
    least_w = max(_LOAD_W, _LOAD_SHARE * float(np.median(loaded_w)))
    return _Holding(trace, time_s, power, least_w, rated_w, ended_by, rated_wh).result()


class _Holding:
    """One log, and what is worked out of it."""

    def __init__(
        self, trace: Trace, time_s: FloatArray, power: FloatArray, least_w: float,
        rated_w: float, ended_by: StepEnd | None, rated_wh: float | None,
    ) -> None:  # fmt: skip
        self.trace, self.time_s, self.power = trace, time_s, power
        self.rated_w, self.ended_by, self.rated_wh = rated_w, ended_by, rated_wh
        self.interval_s = float(np.median(np.diff(time_s))) if time_s.size > 1 else 1.0
        self.on = power > least_w
        self.energy_wh = np.concatenate(
            [[0.0], np.cumsum((power[1:] + power[:-1]) / 2 * np.diff(time_s)) / 3600]
        )

    def result(self) -> HoldResult:
        """Everything."""
        loaded = stretches(self.on)
        steps: list[LoadStep] = []
        trip: Trip | None = None
        for number, (first, stop) in enumerate(loaded):
            parts = self._parts(first, stop)
            ends = self._end_of(first, stop, is_last=number == len(loaded) - 1)
            if ends is StepEnd.TRIP and trip is None:
                trip = self._trip(first, stop)
            for place, (begin, end) in enumerate(parts):
                last = place == len(parts) - 1
                steps.append(self._step(begin, end, ends if last else StepEnd.NEXT_STEP))
        surge_w, surge_s = self._surge()
        slow = surge_w is not None and self.interval_s > 1 / _FAST_ENOUGH_HZ * (1 + 1e-9)
        slow = slow or (
            self.interval_s > 1 / _FAST_ENOUGH_HZ * (1 + 1e-9)
            and float(np.max(self.power)) > _SURGE_SHARE * self.rated_w
        )
        notices = []
        if slow:
            said = (
                f"{self.trace.name}: at one sample in {self.interval_s:g} s the peak of an inrush "
                "is not seen: what is shown is at least"
            )
            notices.append(Notice(code=Code.TOO_SLOW_FOR_SURGE, message=said))
        volts_at_rated, sag = self._volts()
        held = [s.mean_w for s in steps if s.seconds >= _HELD_S]
        return HoldResult(
            name=self.trace.name,
            rated_w=self.rated_w,
            steps=tuple(steps),
            longest_at_rated_s=self._longest(self.power >= _AT_RATED * self.rated_w),
            highest_held_w=max(held, default=None),
            surge_w=surge_w,
            surge_s=surge_s,
            surge_at_least=slow,
            trip=trip,
            volts_at_rated=volts_at_rated,
            sag_ratio=sag,
            energy_wh=float(self.energy_wh[-1]),
            notices=tuple(notices),
        )

    def _seconds(self, first: int, stop: int) -> float:
        """From sample to sample, half an interval out at either edge."""
        return float(self.time_s[stop - 1] - self.time_s[first]) + self.interval_s

    def _longest(self, flags: np.ndarray) -> float:
        return max((self._seconds(first, stop) for first, stop in stretches(flags)), default=0.0)

    def _parts(self, first: int, stop: int) -> list[tuple[int, int]]:
        """The steady stretches of one time under load."""
        parts, begin = [], first
        sums = np.concatenate([[0.0], np.cumsum(self.power)])
        while (at := self._next_level(begin, stop, sums)) is not None:
            parts.append((begin, at))
            begin = self._settled(at, stop)
        parts.append((begin, stop))
        if len(parts) > 1 and self._seconds(*parts[0]) < _NEW_S:
            parts = parts[1:]  # the load was still being set
        return parts

    def _next_level(self, begin: int, stop: int, sums: FloatArray) -> int | None:
        """The first sample from which the power stays off the mean since ``begin``."""
        for start in range(begin + 1, stop, _AT_ONCE):
            places = np.arange(start, min(start + _AT_ONCE, stop))
            level = (sums[places] - sums[begin]) / (places - begin)
            moved = np.abs(self.power[places] - level) > _NEW_SHARE * level
            above = self.power[places] > level
            count = int(_NEW_S / self.interval_s)
            for ahead in {1, count // 4, count // 2, count - 1} - {0, -1}:  # a quick look first
                later = np.minimum(places + ahead, self.power.size - 1)
                off = (self.power[later] - level) * np.where(above, 1, -1) > _NEW_SHARE * level
                moved &= off | (self.time_s[later] - self.time_s[places] >= _NEW_S)
            for place in np.flatnonzero(moved):
                if self._stays_off(int(places[place]), stop, float(level[place])):
                    return int(places[place])
        return None

    def _stays_off(self, at: int, stop: int, level: float) -> bool:
        """Whether from here the power is at another level for five seconds."""
        until = int(np.searchsorted(self.time_s, self.time_s[at] + _NEW_S, side="left"))
        if until > stop or until <= at:
            return False
        ahead = self.power[at:until]
        off = (ahead - level) / level
        return bool(np.all(off > _NEW_SHARE) or np.all(off < -_NEW_SHARE))

    def _settled(self, at: int, stop: int) -> int:
        """Past the sample or two that a switch takes from one level to the next."""
        until = min(int(np.searchsorted(self.time_s, self.time_s[at] + _NEW_S)), stop)
        level = float(np.median(self.power[at:until]))
        place = at
        while (
            place < until - 1
            and self.time_s[place] - self.time_s[at] < _CHANGE_S
            and abs(self.power[place] - level) > _NEW_SHARE * level
        ):
            place += 1
        return place

    def _step(self, first: int, stop: int, ended_by: StepEnd) -> LoadStep:
        power = self.power[first:stop]
        mean_w = float(np.mean(power))
        return LoadStep(
            start_s=float(self.time_s[first]),
            seconds=self._seconds(first, stop),
            mean_w=mean_w,
            max_w=float(np.max(power)),
            share_of_rated=mean_w / self.rated_w,
            ended_by=ended_by,
            mean_v=self._mean_v(float(self.time_s[first]), float(self.time_s[stop - 1])),
        )

    def _mean_v(self, begin_s: float, end_s: float) -> float | None:
        volts = self.trace.columns.get(Quantity.VOLTS)
        if volts is None:
            return None
        first, stop = np.searchsorted(self.trace.time_s, [begin_s, end_s + 1e-9])
        there = volts[first:stop][np.isfinite(volts[first:stop])]
        return float(np.mean(there)) if there.size else None

    def _before_end_w(self, first: int, stop: int) -> float:
        """The mean of the last two seconds under load, at the level that was there last.

        A step that trips within them is not mixed with the one before it.
        """
        begin = int(np.searchsorted(self.time_s, self.time_s[stop - 1] - _BEFORE_TRIP_S))
        last = self.power[max(begin, first) : stop]
        level = float(np.max(last))
        return float(np.mean(last[last >= level * (1 - _NEW_SHARE)]))

    def _end_of(self, first: int, stop: int, *, is_last: bool) -> StepEnd:
        if stop == self.power.size:
            is_seen = is_last and self.ended_by is not None
            return self._checked(first, stop, self.ended_by) if is_seen else StepEnd.LOG_END
        if is_last and self.ended_by is not None:
            return self._checked(first, stop, self.ended_by)
        if self._is_over(first, stop):
            return StepEnd.TRIP
        return StepEnd.BATTERY if self._is_empty(stop) else StepEnd.UNKNOWN

    def _checked(self, first: int, stop: int, said: StepEnd | None) -> StepEnd:
        """What was seen, but no trip of an overload that was none."""
        assert said is not None
        if said is StepEnd.TRIP and not self._is_over(first, stop) and self._is_empty(stop):
            return StepEnd.BATTERY
        return said

    def _is_over(self, first: int, stop: int) -> bool:
        return self._before_end_w(first, stop) > _RATED_SHARE * self.rated_w

    def _is_empty(self, stop: int) -> bool:
        gone_wh = float(self.energy_wh[stop - 1])
        return self.rated_wh is not None and gone_wh > _EMPTY_SHARE * self.rated_wh

    def _trip(self, first: int, stop: int) -> Trip:
        above = self.power[first:stop] > self.rated_w
        since = first + (int(np.flatnonzero(~above)[-1]) + 1 if np.any(~above) else 0)
        from_w = (
            self._before_end_w(max(since, first), stop)
            if since < stop
            else float(self.power[stop - 1])
        )
        return Trip(
            at_s=float(self.time_s[stop - 1]) + self.interval_s / 2,
            from_w=from_w,
            share_of_rated=from_w / self.rated_w,
            seconds_above_rated=self._seconds(since, stop) if since < stop else 0.0,
        )

    def _surge(self) -> tuple[float | None, float | None]:
        """The highest short stretch above 120 %, and how long it lasted."""
        short = [
            (float(np.max(self.power[first:stop])), self._seconds(first, stop))
            for first, stop in stretches(self.power > _SURGE_SHARE * self.rated_w)
            if self._seconds(first, stop) <= _SURGE_S
        ]
        return max(short, default=(None, None))

    def _volts(self) -> tuple[float | None, float | None]:
        volts = self.trace.columns.get(Quantity.VOLTS)
        power = self.trace.columns[Quantity.POWER]
        if volts is None:
            return None, None
        there = np.isfinite(volts) & np.isfinite(power)
        near = there & (np.abs(power / self.rated_w - 1) <= 1 - _AT_RATED + 1e-9)
        at_rated = float(np.mean(volts[near])) if np.any(near) else None
        begun_s = float(self.time_s[np.flatnonzero(self.on)[0]])
        before = there & (self.trace.time_s < begun_s) & (self.trace.time_s >= begun_s - _NO_LOAD_S)
        if at_rated is None or not np.any(before):
            return at_rated, None
        no_load = float(np.median(volts[before]))
        return at_rated, (no_load - at_rated) / no_load if no_load > 0 else None


def lowered_volts(volts: float, demand_w: float, held_w: float) -> float:
    """V at which a resistive load of so many W at ``volts`` takes only ``held_w``: P ∝ V².

    Raises:
        ValueOutOfRangeError: a figure is not above 0.
    """
    for name, value in (("volts", volts), ("demand_w", demand_w), ("held_w", held_w)):
        if not value > 0:
            raise ValueOutOfRangeError(name, value, "above 0")
    return volts * math.sqrt(min(held_w / demand_w, 1.0))
