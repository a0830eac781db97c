"""A store through an outage: its own overhead, loads by their hours and duty, sun that comes in.

Between changes everything is constant, so that the moment it is empty is exact. Battery power is
overhead + output × (1 + conversion) + ohmic × output², as in the loss split. An outlet that has
gone off stays off, until somebody plugs a charger in.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
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
    def is_timed(self) -> bool:
        """Whether it is on between two clock hours only."""
        return self.from_h is not None and self.to_h is not None

    @property
    def mean_w(self) -> float:
        """While it is on."""
        return self.watts * self.duty

    def is_on(self, clock_h: float) -> bool:
        """At a clock hour."""
        return self.from_h is None or self.to_h is None or _within(clock_h, self.from_h, self.to_h)


@dataclass(frozen=True, kw_only=True)
class Feed:
    """Wall or generator power between two clock hours of every day.

    Attributes:
        watts: drawn by the charger.
        efficiency: share of them that comes into the store.
    """

    name: str
    watts: float
    from_h: float
    to_h: float
    efficiency: float = 1.0

    def __post_init__(self) -> None:
        if not 0 < self.watts < math.inf:
            raise ValueOutOfRangeError(self.name, self.watts, "above 0 W")
        if not 0 < self.efficiency <= 1:
            raise ValueOutOfRangeError(self.name, self.efficiency, "above 0 and at most 1")
        for hour in (self.from_h, self.to_h):
            if not 0 <= hour <= DAY_H:
                raise ValueOutOfRangeError(f"hour of {self.name}", hour, "from 0 to 24")

    @property
    def into_store_w(self) -> float:
        """While it is on."""
        return self.watts * self.efficiency

    def is_on(self, clock_h: float) -> bool:
        """At a clock hour."""
        return _within(clock_h, self.from_h, self.to_h)


def _within(clock_h: float, from_h: float, to_h: float) -> bool:
    """Over midnight where the end is the earlier."""
    hour = clock_h % DAY_H
    return from_h <= hour < to_h if from_h <= to_h else hour >= from_h or hour < to_h


@dataclass(frozen=True, kw_only=True)
class SunSteps:
    """Input from panels, a mean W a step from the beginning on.

    Attributes:
        step_h: h of a step.
        watts: W that the panels give in each; none after the last.
        cap_w: the most that the station takes of them; None for no cap.
        share: of the watts that comes through the weather.
        efficiency: share of what the station takes that comes into the store.
    """

    step_h: float
    watts: Sequence[float]
    cap_w: float | None = None
    share: float = 1.0
    efficiency: float = 1.0

    def given(self, hour: float) -> float:
        """W that the panels give at an hour from the beginning."""
        place = int(hour / self.step_h + 1e-9)
        return self.share * self.watts[place] if 0 <= place < len(self.watts) else 0.0

    def over_cap_w(self, hour: float) -> float:
        """W that the station's cap keeps out."""
        return max(self.given(hour) - self.cap_w, 0.0) if self.cap_w is not None else 0.0

    def at(self, hour: float) -> float:
        """W into the store at an hour from the beginning."""
        return self.efficiency * (self.given(hour) - self.over_cap_w(hour))


@dataclass(frozen=True, kw_only=True)
class Outage:
    """What is asked.

    Attributes:
        store_wh: full at the beginning, at the battery.
        conversion: share of the output that is lost on its way.
        ohmic_per_w: of the output's square, the further loss.
        begins_h: clock hour of the beginning.
        hours: how far is looked.
        heat_wh: taken from the outlet once, at the beginning, such as for a kettle.
    """

    store_wh: float
    overhead_w: float
    loads: tuple[OutageLoad, ...] = ()
    conversion: float = 0.0
    ohmic_per_w: float = 0.0
    begins_h: float = 0.0
    hours: float = 72.0
    heat_wh: float = 0.0
    sun: SunSteps | None = None
    feeds: tuple[Feed, ...] = ()

    def __post_init__(self) -> None:
        for name, value, low, high, words in (
            ("store_wh", self.store_wh, 1e-9, 1e9, "above 0"),
            ("overhead_w", self.overhead_w, 0.0, 1e6, "0 or more"),
            ("conversion", self.conversion, 0.0, 10.0, "0 or more"),
            ("ohmic_per_w", self.ohmic_per_w, 0.0, 10.0, "0 or more"),
            ("hours", self.hours, 1e-9, LONGEST_H, "above 0 and at most a year"),
            ("heat_wh", self.heat_wh, 0.0, 1e9, "0 or more"),
        ):
            if not low <= value <= high:
                raise ValueOutOfRangeError(f"{{{name}}}", value, words)

    def loads_on(self, hour: float) -> list[OutageLoad]:
        """Loads that are on at an hour from the beginning."""
        clock_h = self.begins_h + hour
        return [load for load in self.loads if load.is_on(clock_h)]

    def load_w(self, hour: float) -> float:
        """W at the outlet at an hour from the beginning."""
        return sum(load.mean_w for load in self.loads_on(hour))

    def drain_w(self, hour: float) -> float:
        """W out of the battery while the outlet is on."""
        on = self.loads_on(hour)
        output_w = sum(load.mean_w for load in on)
        # Loads that come and go by themselves add their variance to the mean of the square.
        square_w2 = output_w**2 + sum(load.watts**2 * load.duty * (1 - load.duty) for load in on)
        return output_w * (1 + self.conversion) + self.ohmic_per_w * square_w2 + self.overhead_w

    def feeds_on(self, hour: float) -> list[Feed]:
        """Wall or generator power at an hour from the beginning."""
        return [feed for feed in self.feeds if feed.is_on(self.begins_h + hour)]


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
        over_cap_wh: of the sun that the station's cap kept out.
        sun_wh, fed_wh: what came into the store by the sun, and from the wall or a generator.
        taken_wh: what each load took at the outlet, by its name.
        course: the store at every change, and where it was empty.
        off: (from h, to h) of each stretch in which the outlet was off.
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
    over_cap_wh: float = 0.0
    sun_wh: float = 0.0
    fed_wh: float = 0.0
    course: tuple[LeftAt, ...] = ()
    off: tuple[tuple[float, float], ...] = ()

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
        nets = _nets(asked)
        more_sun_wh = max(-_lowest(asked, nets), 0.0)
        more_wh = _more_store(asked, nets, more_sun_wh)
    return found.result(more_wh, more_sun_wh)


class _Passage:
    """One passage through an outage."""

    def __init__(self, asked: Outage) -> None:
        self.asked = asked
        self.left_wh = asked.store_wh
        self.empty_h: float | None = None
        self.is_off = self.is_fed = False
        self.served_h = 0.0
        self.short_wh = self.spilled_wh = self.overhead_wh = self.drained_wh = 0.0
        self.over_cap_wh = self.sun_wh = self.fed_wh = 0.0
        self.taken_wh = {load.name: 0.0 for load in asked.loads}
        self.left = [LeftAt(hour=0.0, wh=asked.store_wh)]
        self._drain_heat()
        self.course = [LeftAt(hour=0.0, wh=self.left_wh)]
        self.off: list[tuple[float, float]] = []

    def go(self) -> None:
        """Change after change."""
        changes = changes_of(self.asked)
        for begin, end in pairwise(changes):
            self._step(begin, end)
            self.course.append(LeftAt(hour=end, wh=self.left_wh))
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
            self.left_wh, self.empty_h, self.is_off = 0.0, 0.0, True

    def _step(self, begin: float, end: float) -> None:
        asked, middle = self.asked, (begin + end) / 2
        sun_w = asked.sun.at(middle) if asked.sun is not None else 0.0
        if asked.sun is not None:
            self.over_cap_wh += asked.sun.over_cap_w(middle) * (end - begin)
        feed_w = sum(feed.into_store_w for feed in asked.feeds_on(middle))
        if feed_w > 0 and not self.is_fed:
            # Whoever plugs the charger in switches the outlet on again.
            self.is_off = False
        self.is_fed = feed_w > 0
        drain_w = 0.0 if self.is_off else asked.drain_w(middle)
        net_w, until = drain_w - sun_w - feed_w, end
        if self.left_wh - net_w * (end - begin) < -_CLOSE_WH:
            until = begin + self.left_wh / net_w
        if not self.is_off:
            self._serve(middle, until - begin)
        self._fill(sun_w * (until - begin), feed_w * (until - begin), drain_w * (until - begin))
        if until < end:
            self.is_off = True
            self.empty_h = until if self.empty_h is None else self.empty_h
            self.course.append(LeftAt(hour=until, wh=0.0))
            self._fill(sun_w * (end - until), feed_w * (end - until), 0.0)
            self._stay_off(middle, until, end)
        elif self.is_off:
            # The outlet is off: nothing is served, and what the sun brings is kept.
            self._stay_off(middle, begin, end)

    def _stay_off(self, middle: float, begin: float, end: float) -> None:
        self.short_wh += self.asked.load_w(middle) * (end - begin)
        if self.off and self.off[-1][1] == begin:
            self.off[-1] = (self.off[-1][0], end)
        else:
            self.off.append((begin, end))

    def _serve(self, middle: float, hours: float) -> None:
        asked = self.asked
        self.served_h += hours
        self.drained_wh += asked.drain_w(middle) * hours
        self.overhead_wh += asked.overhead_w * hours
        for load in asked.loads_on(middle):
            self.taken_wh[load.name] += load.mean_w * hours

    def _fill(self, sun_wh: float, fed_wh: float, drained_wh: float) -> None:
        """Into the store, and out of it; a full one turns the charger down before the sun."""
        left = self.left_wh + sun_wh + fed_wh - drained_wh
        over = max(left - self.asked.store_wh, 0.0)
        spilled = max(over - fed_wh, 0.0)
        self.spilled_wh += spilled
        self.sun_wh += sun_wh - spilled
        self.fed_wh += fed_wh - (over - spilled)
        self.left_wh = min(max(left, 0.0), self.asked.store_wh)

    def result(self, more_wh: float, more_sun_wh: float) -> OutageResult:
        """What was counted on the way."""
        steady_wh = self.drained_wh - self.asked.heat_wh * (1 + self.asked.conversion)
        is_served = self.served_h > 0
        return OutageResult(
            hours=self.empty_h,
            left=tuple(self.left),
            total_w=steady_wh / self.served_h if is_served else self.asked.drain_w(0.0),
            overhead_share=self.overhead_wh / self.drained_wh if self.drained_wh > 0 else None,
            left_wh=self.left_wh if self.empty_h is None else 0.0,
            short_wh=self.short_wh,
            spilled_wh=self.spilled_wh,
            overhead_wh=self.overhead_wh,
            taken_wh=self.taken_wh,
            more_wh=more_wh,
            more_sun_wh=more_sun_wh,
            over_cap_wh=self.over_cap_wh,
            sun_wh=self.sun_wh,
            fed_wh=self.fed_wh,
            course=tuple(self.course),
            off=tuple(self.off),
        )


def changes_of(asked: Outage) -> list[float]:
    """Hours from the beginning at which anything changes: whole hours, loads, sun, the end."""
    hours = {0.0, asked.hours, *(float(h) for h in range(1, math.ceil(asked.hours)))}
    edges = [edge for load in asked.loads if load.is_timed for edge in (load.from_h, load.to_h)]
    edges += [edge for feed in asked.feeds for edge in (feed.from_h, feed.to_h)]
    for edge in edges:
        if edge is not None:
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


def _nets(asked: Outage) -> list[float]:
    """Wh that each step would take from the store, all loads served; below 0 where it fills."""
    found = []
    for begin, end in pairwise(changes_of(asked)):
        middle = (begin + end) / 2
        in_w = sum(feed.into_store_w for feed in asked.feeds_on(middle))
        in_w += asked.sun.at(middle) if asked.sun is not None else 0.0
        found.append((asked.drain_w(middle) - in_w) * (end - begin))
    return found


def _lowest(asked: Outage, nets: Sequence[float], more_wh: float = 0.0) -> float:
    """The lowest that the store would come to if it could go below nothing.

    Args:
        more_wh: that the store is larger by.
    """
    full = asked.store_wh + more_wh
    left = lowest = full - asked.heat_wh * (1 + asked.conversion)
    for net in nets:
        left = min(left - net, full)
        lowest = min(lowest, left)
    return lowest


def _more_store(asked: Outage, nets: Sequence[float], at_most_wh: float) -> float:
    """The least more of store that never comes to nothing: more store also spills less."""
    if asked.sun is None and not asked.feeds:
        return at_most_wh
    low, high = 0.0, at_most_wh
    for _ in range(60):
        middle = (low + high) / 2
        is_enough = _lowest(asked, nets, middle) >= -_CLOSE_WH
        low, high = (low, middle) if is_enough else (middle, high)
    return high
