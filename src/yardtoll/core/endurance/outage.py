"""A store through an outage: its own overhead, loads by their hours and duty, sun that comes in.

Between changes everything is constant, so that the moment it is empty is exact. Battery power is
output × (1 + conversion) + overhead, as in the loss split; an outlet that has gone off stays off.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError

DAY_H = 24.0
LONGEST_H = 24.0 * 366
_MOST_STEPS = 200_000
_CLOSE_WH = 1e-9


@dataclass(frozen=True, kw_only=True)
class OutageLoad:
    """One appliance.

    Attributes:
        watts: while it draws.
        duty: share of its time that it draws.
        from_h, to_h: clock hours between which it is on, over midnight where ``to_h`` is the
            earlier; None for always.
        inrush_w: what its start takes for a moment; None where it is not known.
    """

    name: str
    watts: float
    duty: float = 1.0
    from_h: float | None = None
    to_h: float | None = None
    inrush_w: float | None = None

    def __post_init__(self) -> None:
        if not 0 <= self.watts < math.inf:
            raise ValueOutOfRangeError(self.name, self.watts, "0 W or more")
        if not 0 <= self.duty <= 1:
            raise ValueOutOfRangeError(f"duty of {self.name}", self.duty, "from 0 to 1")
        for hour in (self.from_h, self.to_h):
            if hour is not None and not 0 <= hour <= DAY_H:
                raise ValueOutOfRangeError(f"hour of {self.name}", hour, "from 0 to 24")

    @property
    def mean_w(self) -> float:
        """While it is on."""
        return self.watts * self.duty

    def is_on(self, clock_h: float) -> bool:
        """At a clock hour."""
        if self.from_h is None or self.to_h is None:
            return True
        hour = clock_h % DAY_H
        if self.from_h <= self.to_h:
            return self.from_h <= hour < self.to_h
        return hour >= self.from_h or hour < self.to_h


@dataclass(frozen=True, kw_only=True)
class SunSteps:
    """Input from panels after the station's cap, a mean W a step from the beginning on.

    Attributes:
        step_h: h of a step.
        watts: W of each; none after the last.
    """

    step_h: float
    watts: Sequence[float]

    def at(self, hour: float) -> float:
        """W at an hour from the beginning."""
        place = int(hour / self.step_h + 1e-9)
        return self.watts[place] if 0 <= place < len(self.watts) else 0.0


@dataclass(frozen=True, kw_only=True)
class Outage:
    """What is asked.

    Attributes:
        store_wh: full at the beginning, at the battery.
        conversion: share of the output that is lost on its way.
        begins_h: clock hour of the beginning.
        hours: how far is looked.
        heat_wh: taken from the outlet once, at the beginning, such as for a kettle.
    """

    store_wh: float
    overhead_w: float
    loads: tuple[OutageLoad, ...] = ()
    conversion: float = 0.0
    begins_h: float = 0.0
    hours: float = 72.0
    heat_wh: float = 0.0
    sun: SunSteps | None = None

    def __post_init__(self) -> None:
        for name, value, low, high, words in (
            ("store_wh", self.store_wh, 1e-9, 1e9, "above 0"),
            ("overhead_w", self.overhead_w, 0.0, 1e6, "0 or more"),
            ("conversion", self.conversion, 0.0, 10.0, "0 or more"),
            ("hours", self.hours, 1e-9, LONGEST_H, "above 0 and at most a year"),
            ("heat_wh", self.heat_wh, 0.0, 1e9, "0 or more"),
        ):
            if not low <= value <= high:
                raise ValueOutOfRangeError(f"{{{name}}}", value, words)

    def load_w(self, hour: float) -> float:
        """W at the outlet at an hour from the beginning."""
        clock_h = self.begins_h + hour
        return sum(load.mean_w for load in self.loads if load.is_on(clock_h))

    def drain_w(self, hour: float) -> float:
        """W out of the battery while the outlet is on."""
        return self.load_w(hour) * (1 + self.conversion) + self.overhead_w


@dataclass(frozen=True, kw_only=True)
class LeftAt:
    """Wh in the store at an hour from the beginning."""

    hour: float
    wh: float


@dataclass(frozen=True, kw_only=True)
class OutageResult:
    """What comes of it.

    Attributes:
        hours: until it was empty; None where it was not within the hours looked at.
        left: at each whole hour, and at the end.
        total_w: mean out of the battery while it lasted.
        overhead_share: of what went out of the battery.
        left_wh: at the end of the hours looked at; 0 where it was empty before.
        short_wh: of the loads that got nothing after it was empty.
        spilled_wh: of the sun that found the store full.
        taken_wh: what each load took at the outlet, by its name.
        more_wh: of store that would have lasted to the end; 0 where it lasted.
        more_sun_wh: of sun that would have.
    """

    hours: float | None
    left: tuple[LeftAt, ...]
    total_w: float
    overhead_share: float | None
    left_wh: float
    short_wh: float
    spilled_wh: float
    overhead_wh: float
    taken_wh: dict[str, float] = field(default_factory=dict)
    more_wh: float = 0.0
    more_sun_wh: float = 0.0

    @property
    def lasts(self) -> bool:
        """Whether it was never empty."""
        return self.hours is None


def through_outage(asked: Outage) -> OutageResult:
    """Go through it from change to change.

    Raises:
        UnusableDataError: there are more changes than any outage has.
    """
    found = _Passage(asked)
    found.go()
    more_wh = more_sun_wh = 0.0
    if found.empty_h is not None:
        more_sun_wh = max(-_lowest(asked), 0.0)
        more_wh = _more_store(asked, more_sun_wh)
    return found.result(more_wh, more_sun_wh)


class _Passage:
    """One passage through an outage."""

    def __init__(self, asked: Outage) -> None:
        self.asked = asked
        self.left_wh = asked.store_wh
        self.empty_h: float | None = None
        self.short_wh = self.spilled_wh = self.overhead_wh = self.drained_wh = 0.0
        self.taken_wh = {load.name: 0.0 for load in asked.loads}
        self.left = [LeftAt(hour=0.0, wh=asked.store_wh)]
        self._drain_heat()

    def go(self) -> None:
        """Change after change."""
        changes = _changes(self.asked)
        for begin, end in pairwise(changes):
            self._step(begin, end)
            if abs(end - round(end)) < 1e-9 and (self.empty_h is None or end - self.empty_h < 1):
                self.left.append(LeftAt(hour=float(round(end)), wh=self.left_wh))
        if self.left[-1].hour < changes[-1] and self.empty_h is None:
            self.left.append(LeftAt(hour=changes[-1], wh=self.left_wh))

    def _drain_heat(self) -> None:
        """What is taken once, at the beginning."""
        asked = self.asked
        out_wh = asked.heat_wh * (1 + asked.conversion)
        if out_wh <= self.left_wh + _CLOSE_WH:
            self.left_wh -= out_wh
            self.drained_wh += out_wh
        else:
            self.short_wh += asked.heat_wh - self.left_wh / (1 + asked.conversion)
            self.drained_wh += self.left_wh
            self.left_wh, self.empty_h = 0.0, 0.0

    def _step(self, begin: float, end: float) -> None:
        asked, middle = self.asked, (begin + end) / 2
        sun_w = asked.sun.at(middle) if asked.sun is not None else 0.0
        if self.empty_h is not None:
            # The outlet is off: nothing is served, and what the sun brings is kept.
            self._fill(sun_w * (end - begin))
            self.short_wh += asked.load_w(middle) * (end - begin)
            return
        net_w = asked.drain_w(middle) - sun_w
        until = end
        if net_w > 0 and self.left_wh - net_w * (end - begin) < -_CLOSE_WH:
            until = begin + self.left_wh / net_w
            self.empty_h = until
        hours = until - begin
        self._serve(middle, hours)
        if self.empty_h is not None:
            self.left_wh = 0.0
            self.short_wh += asked.load_w(middle) * (end - until)
        else:
            self._fill(-net_w * hours)

    def _serve(self, middle: float, hours: float) -> None:
        asked = self.asked
        self.drained_wh += asked.drain_w(middle) * hours
        self.overhead_wh += asked.overhead_w * hours
        for load in asked.loads:
            if load.is_on(asked.begins_h + middle):
                self.taken_wh[load.name] += load.mean_w * hours

    def _fill(self, energy_wh: float) -> None:
        """Into the store, or out of it; what finds it full is spilled."""
        left = self.left_wh + energy_wh
        self.spilled_wh += max(left - self.asked.store_wh, 0.0)
        self.left_wh = min(max(left, 0.0), self.asked.store_wh)

    def result(self, more_wh: float, more_sun_wh: float) -> OutageResult:
        """What was counted on the way."""
        lasted = self.empty_h if self.empty_h is not None else self.asked.hours
        steady_wh = self.drained_wh - self.asked.heat_wh * (1 + self.asked.conversion)
        total_w = steady_wh / lasted if lasted > 0 else self.asked.drain_w(0.0)
        return OutageResult(
            hours=self.empty_h,
            left=tuple(self.left),
            total_w=total_w,
            overhead_share=self.overhead_wh / self.drained_wh if self.drained_wh > 0 else None,
            left_wh=self.left_wh if self.empty_h is None else 0.0,
            short_wh=self.short_wh,
            spilled_wh=self.spilled_wh,
            overhead_wh=self.overhead_wh,
            taken_wh=self.taken_wh,
            more_wh=more_wh,
            more_sun_wh=more_sun_wh,
        )


def _changes(asked: Outage) -> list[float]:
    """Hours from the beginning at which anything changes: whole hours, loads, sun, the end."""
    hours = {0.0, asked.hours, *(float(h) for h in range(1, math.ceil(asked.hours)))}
    for load in asked.loads:
        if load.from_h is None or load.to_h is None:
            continue
        for edge in (load.from_h, load.to_h):
            at = (edge - asked.begins_h) % DAY_H
            while at < asked.hours:
                hours.add(at)
                at += DAY_H
    if asked.sun is not None:
        count = min(len(asked.sun.watts), math.ceil(asked.hours / asked.sun.step_h))
        if count > _MOST_STEPS:
            raise UnusableDataError("the sun is given in more steps than an outage has")
        hours |= {i * asked.sun.step_h for i in range(1, count + 1)}
    return sorted(h for h in hours if h <= asked.hours)


def _lowest(asked: Outage) -> float:
    """The lowest that the store would come to if it could go below nothing."""
    left = lowest = asked.store_wh - asked.heat_wh * (1 + asked.conversion)
    changes = _changes(asked)
    for begin, end in pairwise(changes):
        middle = (begin + end) / 2
        sun_w = asked.sun.at(middle) if asked.sun is not None else 0.0
        left = min(left + (sun_w - asked.drain_w(middle)) * (end - begin), asked.store_wh)
        lowest = min(lowest, left)
    return lowest


def _more_store(asked: Outage, at_most_wh: float) -> float:
    """The least more of store that never comes to nothing: more store also spills less."""
    if asked.sun is None:
        return at_most_wh
    low, high = 0.0, at_most_wh
    for _ in range(60):
        middle = (low + high) / 2
        bigger = replace(asked, store_wh=asked.store_wh + middle)
        low, high = (low, middle) if _lowest(bigger) >= -_CLOSE_WH else (middle, high)
    return high
