"""Energy from samples: trapezoid, counters that restart, gaps, and one checked by the other."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from yardtoll.core.timebase import Sampling
from yardtoll.core.trace import FloatArray

SECONDS_PER_HOUR = 3600.0
COUNTER_COARSE_SHARE = 0.005
"""A counter whose step is above this share of the total gives way to the power column."""
DISAGREE_SHARE = 0.01
"""Power and counter differing by more than this are reported."""
RESET_DROP_SHARE = 0.01
"""A counter falling by less than this share of itself is jitter, not a restart."""
_LOOKED_AT = 4096


@dataclass(frozen=True, kw_only=True)
class Gap:
    """A stretch without samples inside a run.

    Attributes:
        start_s, end_s: last sample before and first sample after, s.
        bridged_by: what gave the energy inside; "nothing" when the run's end lies in the gap.
        energy_wh: the energy counted for it.
        could_hide_wh: the largest possible error of that energy.
    """

    start_s: float
    end_s: float
    bridged_by: Literal["counter", "line", "nothing"]
    energy_wh: float
    could_hide_wh: float


@dataclass(frozen=True, kw_only=True)
class Counter:
    """An energy counter made to rise: offset removed, restarts joined.

    Attributes:
        time_s, energy_wh: (n,) s and Wh, energy from 0, never falling.
        step_wh: the counter's own resolution.
        reset_times_s: times of the first sample after each restart.
    """

    time_s: FloatArray
    energy_wh: FloatArray
    step_wh: float
    reset_times_s: tuple[float, ...]

    def at(self, time_s: float) -> float:
        """Wh at a time, by straight line between samples."""
        return float(np.interp(time_s, self.time_s, self.energy_wh))


def trapezoid_wh(time_s: FloatArray, power_w: FloatArray) -> float:
    """Energy in Wh of (n,) W over (n,) s by the trapezoid rule; 0 for fewer than two samples."""
    return float(np.trapezoid(power_w, time_s)) / SECONDS_PER_HOUR


def join_counter(
    time_s: FloatArray, reading_wh: FloatArray, power: tuple[FloatArray, FloatArray] | None
) -> Counter:
    """Make a counter's readings rise from 0 across restarts.

    In the interval of a restart the counter has forgotten what came before its zero: the power
    column gives that interval where there is one, else the new reading alone.

    Args:
        time_s, reading_wh: (n,) s and Wh, finite, n ≥ 1.
        power: (m,) s and (m,) W, or None.
    """
    steps = np.diff(reading_wh)
    falls = np.flatnonzero(steps < -1e-9)
    resets = falls[steps[falls] < -RESET_DROP_SHARE * np.abs(reading_wh[falls])]
    for i in resets:
        steps[i] = max(float(reading_wh[i + 1]), 0.0)
        if power is not None:
            span = slice_between(power[0], time_s[i], time_s[i + 1])
            steps[i] = max(steps[i], trapezoid_wh(power[0][span], power[1][span]))
    if steps.min(initial=0.0) < 0 or resets.size:
        energy = np.concatenate([[0.0], np.cumsum(np.maximum(steps, 0.0))])
    else:
        energy = reading_wh - reading_wh[0]
    return Counter(
        time_s=time_s,
        energy_wh=energy,
        step_wh=counter_step_wh(reading_wh),
        reset_times_s=tuple(float(time_s[i + 1]) for i in resets),
    )


def counter_step_wh(reading_wh: FloatArray) -> float:
    """The counter's resolution in Wh: the largest round step that all its readings are made of.

    The distance between neighbouring readings would not do: a fine counter logged once in ten
    minutes still moves in large strides.
    """
    looked_at = reading_wh[:: max(1, reading_wh.size // _LOOKED_AT)]
    if float(np.ptp(looked_at)) == 0:
        return 0.0
    for exponent in range(3, -7, -1):
        for mantissa in (5.0, 2.0, 1.0):
            step = mantissa * 10.0**exponent
            multiples = looked_at / step
            if np.all(np.abs(multiples - np.round(multiples)) < 1e-6):
                return float(step)
    return 0.0


def slice_between(time_s: FloatArray, start_s: float, end_s: float) -> slice:
    """The samples with start_s ≤ time ≤ end_s as a slice."""
    return slice(
        int(np.searchsorted(time_s, start_s, side="left")),
        int(np.searchsorted(time_s, end_s, side="right")),
    )


def gaps_between(
    sampling: Sampling,
    time_s: FloatArray,
    power_w: FloatArray | None,
    counter: Counter | None,
    start_s: float,
    end_s: float,
) -> tuple[Gap, ...]:
    """The gaps that touch the run from ``start_s`` to ``end_s``, each with its energy.

    A gap that begins at ``end_s`` is the run's end itself unseen: nothing is counted for it, and
    what the station could have delivered in it is stated.
    """
    found = []
    for i in sampling.gap_starts:
        begin, finish = float(time_s[i]), float(time_s[i + 1])
        if finish <= start_s or begin > end_s:
            continue
        found.append(_gap(i, time_s, power_w, counter, is_end=begin >= end_s))
    return tuple(found)


def _gap(
    i: np.intp,
    time_s: FloatArray,
    power_w: FloatArray | None,
    counter: Counter | None,
    *,
    is_end: bool,
) -> Gap:
    """One gap after sample ``i``, bridged by the counter if there is one, else by a line."""
    begin, finish = float(time_s[i]), float(time_s[i + 1])
    if counter is not None:
        energy = counter.at(finish) - counter.at(begin)
        return Gap(
            start_s=begin,
            end_s=finish,
            bridged_by="counter",
            energy_wh=energy,
            could_hide_wh=counter.step_wh,
        )
    assert power_w is not None, "a trace without counter has power"
    hours = (finish - begin) / SECONDS_PER_HOUR
    most = float(np.max(power_w)) * hours
    if is_end:
        return Gap(
            start_s=begin, end_s=finish, bridged_by="nothing", energy_wh=0.0, could_hide_wh=most
        )
    line = 0.5 * float(power_w[i] + power_w[i + 1]) * hours
    return Gap(
        start_s=begin,
        end_s=finish,
        bridged_by="line",
        energy_wh=line,
        could_hide_wh=max(line, most - line),
    )


def disagreement(
    sampling: Sampling,
    time_s: FloatArray,
    power_w: FloatArray,
    counter: Counter,
    start_s: float,
    end_s: float,
) -> float | None:
    """(counter − ∫P dt) ÷ counter over the run, gaps left out on both sides.

    None where the counter cannot tell: nothing counted, or its step hides the difference.
    """
    span = slice_between(time_s, start_s, end_s)
    t, p = time_s[span], power_w[span]
    if t.size < 2:
        return None
    from_power = trapezoid_wh(t, p)
    from_counter = counter.at(float(t[-1])) - counter.at(float(t[0]))
    for i in sampling.gap_starts[
        (sampling.gap_starts >= span.start) & (sampling.gap_starts + 1 < span.stop)
    ]:
        from_power -= trapezoid_wh(time_s[i : i + 2], power_w[i : i + 2])
        from_counter -= counter.at(float(time_s[i + 1])) - counter.at(float(time_s[i]))
    largest = max(from_power, from_counter)
    if largest <= 0:
        return None
    relative = (from_counter - from_power) / largest
    return relative if abs(relative) > counter.step_wh / largest else None
