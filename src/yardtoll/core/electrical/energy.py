"""Energy from samples: trapezoid, counters that restart, gaps, and one checked by the other."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from yardtoll.core.electrical.medians import median
from yardtoll.core.electrical.parts import differences, step_parts
from yardtoll.core.electrical.timebase import Sampling, usual_step_s
from yardtoll.core.electrical.trace import FloatArray

SECONDS_PER_HOUR = 3600.0
COUNTER_COARSE_SHARE = 0.005
"""A counter whose step is above this share of the total gives way to the power column."""
DISAGREE_SHARE = 0.01
"""Power and counter differing by more than this are reported."""
RESET_DROP_SHARE = 0.01
"""A counter falling by less than this share of itself is jitter, not a restart."""
JUMP_RATIO, JUMP_STEPS = 5.0, 10.0
"""A step of over ten digits that means over five times the highest power is a false reading."""
_LOOKED_AT, _FEW = 4096, 32
_RATE_STEPS = 10


@dataclass(frozen=True, kw_only=True)
class Gap:
    """A stretch without samples inside a run.

    Attributes:
        start_s, end_s: last sample before and first sample after, s.
        bridged_by: what gave the energy inside.
        energy_wh: the energy counted for it; 0 by the line where the run's load-on or cut-off lies
            in the gap.
        could_hide_wh: how far off that may be.
    """

    start_s: float
    end_s: float
    bridged_by: Literal["counter", "line"]
    energy_wh: float
    could_hide_wh: float


@dataclass(frozen=True, kw_only=True)
class Counter:
    """An energy counter made to rise: offset removed, restarts joined.

    Attributes:
        time_s, energy_wh: (n,) s and Wh, energy from 0, never falling.
        step_wh: the counter's own resolution.
        reset_times_s: times of the first sample after each restart.
        lost_wh: for each of them half the range of what may have been lost.
    """

    time_s: FloatArray
    energy_wh: FloatArray
    step_wh: float
    reset_times_s: tuple[float, ...]
    lost_wh: tuple[float, ...] = ()

    def at(self, time_s: float) -> float:
        """Wh at a time, by straight line between samples."""
        return float(np.interp(time_s, self.time_s, self.energy_wh))


def trapezoid_wh(time_s: FloatArray, power_w: FloatArray) -> float:
    """Energy in Wh of (n,) W over (n,) s by the trapezoid rule; 0 for fewer than two samples."""
    return integral(time_s, power_w) / SECONDS_PER_HOUR


def integral(time_s: FloatArray, values: FloatArray) -> float:
    """Of (n,) values over (n,) s by the trapezoid rule, in the unit of the values times s."""
    twice = 0.0
    for part, _ in step_parts(time_s.size):
        t, y = time_s[part], values[part]
        # A sample stands for half the time between its neighbours, the outer two for half a step.
        ends = y[0] * (t[1] - t[0]) + y[-1] * (t[-1] - t[-2])
        # Not a dot product: it would wake the threads of a library of linear algebra.
        twice += float(ends) + float(np.einsum("i,i->", y[1:-1], t[2:] - t[:-2]))
    return twice / 2


def cumulative_wh(time_s: FloatArray, power_w: FloatArray) -> FloatArray:
    """(n,) Wh from the first of (n,) s up to each, of (n,) W by the trapezoid rule."""
    steps = (power_w[1:] + power_w[:-1]) / 2 * np.diff(time_s) / SECONDS_PER_HOUR
    return np.concatenate([np.zeros(min(time_s.size, 1)), np.cumsum(steps)])


def join_counter(
    time_s: FloatArray, reading_wh: FloatArray, power: tuple[FloatArray, FloatArray] | None
) -> Counter:
    """Make a counter's readings rise from 0 across restarts.

    In the interval of a restart the counter has forgotten what came before its zero: the power
    column gives that interval where there is one. Without one it is between the new reading and
    the energy at the rate before; the middle is taken, and half the range is the doubt.

    A single reading far from both of its neighbours, which go on from each other, is left out; a
    jump that the power column cannot have made counts as a restart.

    Args:
        time_s, reading_wh: (n,) s and Wh, finite, n ≥ 1.
        power: (m,) s and (m,) W, or None.
    """
    step_wh = counter_step_wh(reading_wh)
    falls, jumps = _steps_out_of_line(time_s, reading_wh, power, step_wh)
    mended = _without_glitches(reading_wh, step_wh, falls)
    if mended is not reading_wh:
        reading_wh, step_wh = mended, counter_step_wh(mended)
        falls, jumps = _steps_out_of_line(time_s, reading_wh, power, step_wh)
    steps = differences(reading_wh) if falls.size or jumps.size else np.empty(0)
    large = steps[falls] < np.minimum(-1e-9, -RESET_DROP_SHARE * np.abs(reading_wh[falls]))
    lost_at = {}
    for i in falls[large].tolist():
        steps[i], lost_at[i] = _over_a_restart(time_s, reading_wh, power, step_wh, i)
    for i in jumps.tolist():
        assert power is not None, "only the power column shows a jump"
        steps[i], lost_at[i] = _flowed_wh(time_s, power, i), 0.0
    if steps.size:
        energy = np.concatenate([[0.0], np.cumsum(np.maximum(steps, 0.0))])
    else:
        energy = reading_wh - reading_wh[0]
    return Counter(
        time_s=time_s,
        energy_wh=energy,
        step_wh=step_wh,
        reset_times_s=tuple(float(time_s[i + 1]) for i in sorted(lost_at)),
        lost_wh=tuple(lost_at[i] for i in sorted(lost_at)),
    )


def _over_a_restart(
    time_s: FloatArray,
    reading_wh: FloatArray,
    power: tuple[FloatArray, FloatArray] | None,
    step_wh: float,
    i: int,
) -> tuple[float, float]:
    """(Wh, limit ± of what was lost) from sample ``i`` to the next, between which it restarted."""
    least = max(float(reading_wh[i + 1]), 0.0)
    if power is None:
        most = max(least, _at_the_rate_before(time_s, reading_wh, i))
        return (least + most) / 2, (most - least) / 2
    flowed = _flowed_wh(time_s, power, i)
    # What comes back from a false reading is no restart: it shows all there ever was.
    seconds, highest_w = float(time_s[i + 1] - time_s[i]), float(np.max(power[1]))
    most = JUMP_RATIO * highest_w * seconds / SECONDS_PER_HOUR
    if most < least > JUMP_STEPS * step_wh:
        return flowed, 0.0
    risen = max(least, flowed)
    return risen, (risen - least) / 2


def _flowed_wh(time_s: FloatArray, power: tuple[FloatArray, FloatArray], i: int) -> float:
    """By the power column, from sample ``i`` of the counter to its next."""
    begin, end = float(time_s[i]), float(time_s[i + 1])
    inside = power[0][slice_between(power[0], begin, end)]
    # Power may be logged on other lines than the counter.
    at = np.unique(np.concatenate([[begin], inside, [end]]))
    return trapezoid_wh(at, np.interp(at, *power))


def _steps_out_of_line(
    time_s: FloatArray,
    reading_wh: FloatArray,
    power: tuple[FloatArray, FloatArray] | None,
    step_wh: float,
) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Indices before steps below 0, and before those that the power column cannot have made."""
    falls, jumps = [np.empty(0, dtype=np.intp)], [np.empty(0, dtype=np.intp)]
    most_wh, most_w = JUMP_STEPS * step_wh, None
    for part, _ in step_parts(reading_wh.size):
        steps = differences(reading_wh[part])
        if steps.min() < 0:
            falls.append(np.flatnonzero(steps < 0) + part.start)
        if power is None or not power[1].size or steps.max() <= most_wh:
            continue
        if most_w is None:
            most_w = JUMP_RATIO * float(np.max(power[1]))
        is_fast = steps * SECONDS_PER_HOUR > most_w * differences(time_s[part])
        if most_w > 0:
            jumps.append(np.flatnonzero(is_fast & (steps > most_wh)) + part.start)
    return np.concatenate(falls), np.concatenate(jumps)


def _without_glitches(
    reading_wh: FloatArray, step_wh: float, falls: NDArray[np.intp]
) -> FloatArray:
    """Single readings that leave the line of their neighbours and come back, held constant.

    Args:
        falls: the steps below 0, one of which is beside each such reading.
    """
    singles = np.unique(np.concatenate([falls, falls + 1]))
    singles = singles[(singles > 0) & (singles < reading_wh.size - 1)]
    before, single, after = (reading_wh[singles + i] for i in (-1, 0, 1))
    off = np.maximum(single - after, before - single)
    far = off > JUMP_STEPS * np.maximum(after - before, step_wh)
    glitches = singles[(after >= before) & far]
    if not glitches.size:
        return reading_wh
    mended = reading_wh.copy()
    mended[glitches] = reading_wh[glitches - 1]
    return mended


def _at_the_rate_before(time_s: FloatArray, reading_wh: FloatArray, index: int) -> float:
    """Wh from sample ``index`` to the next at the median rate of the steps before it; else 0."""
    first = max(index - _RATE_STEPS, 0)
    if index == first:
        return 0.0
    rates = np.diff(reading_wh[first : index + 1]) / np.diff(time_s[first : index + 1])
    return median(rates) * float(time_s[index + 1] - time_s[index])


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
            # Most steps are ruled out by the first few.
            if _are_multiples(looked_at[:_FEW], step) and _are_multiples(looked_at, step):
                return float(step)
    return 0.0


def _are_multiples(values: FloatArray, step: float) -> bool:
    multiples = values / step
    return bool(np.all(np.abs(multiples - np.round(multiples)) < 1e-6))


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

    By the counter the energy is that between its readings, whose last digits cut off two parts of
    a step. Without one the power may have been anything from nothing to the highest; by a line from
    sample to sample, unless the run begins or ends in the gap: then nothing is counted for it.
    """
    found = []
    highest_w: float | None = None
    for i in sampling.gap_starts:
        begin, finish = float(time_s[i]), float(time_s[i + 1])
        if finish <= start_s or begin > end_s:
            continue
        if counter is not None:
            energy = counter.at(finish) - counter.at(begin)
            off = math.sqrt(2) * counter.step_wh / 2
        else:
            assert power_w is not None, "a trace without counter has power"
            highest_w = float(np.max(power_w)) if highest_w is None else highest_w
            hours = (finish - begin) / SECONDS_PER_HOUR
            is_edge = begin < start_s or finish > end_s
            energy = 0.0 if is_edge else 0.5 * float(power_w[i] + power_w[i + 1]) * hours
            off = max(energy, highest_w * hours - energy)
        found.append(
            Gap(
                start_s=begin,
                end_s=finish,
                bridged_by="line" if counter is None else "counter",
                energy_wh=energy,
                could_hide_wh=off,
            )
        )
    return tuple(found)


def disagreement(
    sampling: Sampling,
    time_s: FloatArray,
    power_w: FloatArray,
    counter: Counter,
    start_s: float,
    end_s: float,
) -> float | None:
    """(counter − ∫P dt) ÷ counter over the run, gaps left out on both sides.

    None where the counter does not show it: nothing counted, or its step hides the difference.
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


_PLACES = 400
"""Of a stretch, where it has thousands of samples."""


def best_mean_w(time_s: FloatArray, power_w: FloatArray, seconds: float) -> float | None:
    """The highest mean over so many seconds anywhere in a log; None where it is shorter.

    With the power straight between samples the best stretch begins or ends on a sample, or lies
    over a peak so that both its ends have the same power. Where a stretch has thousands of samples
    it is looked for at each four-hundredth of its length: at the best place a small step changes
    the mean by next to nothing.
    """
    if time_s[-1] - time_s[0] < seconds:
        return None
    steps = np.diff(time_s) * (power_w[1:] + power_w[:-1]) / 2
    summed = np.concatenate([[0.0], np.cumsum(steps)])
    every = int(seconds / max(usual_step_s(time_s), 1e-9)) // _PLACES
    if every > 1:
        at, ws = time_s[::every], summed[::every]
        places = np.concatenate([at, at - seconds])
        places = places[(places >= at[0]) & (places <= at[-1] - seconds)]
        if places.size:
            over = np.interp(places + seconds, at, ws) - np.interp(places, at, ws)
            return float(np.max(over)) / seconds

    def sum_to(at: FloatArray) -> FloatArray:
        """∫P dt to any time."""
        i = np.clip(np.searchsorted(time_s, at, side="right") - 1, 0, time_s.size - 2)
        after = at - time_s[i]
        slope = (power_w[i + 1] - power_w[i]) / (time_s[i + 1] - time_s[i])
        return np.asarray(summed[i] + after * power_w[i] + slope * after**2 / 2)

    last = time_s[-1] - seconds
    starts = np.concatenate([time_s, time_s - seconds])
    starts = np.unique(starts[(starts >= time_s[0]) & (starts <= last)])
    ahead = np.interp(starts + seconds, time_s, power_w) - np.interp(starts, time_s, power_w)
    peaks = np.flatnonzero((ahead[:-1] > 0) & (ahead[1:] < 0))
    share = ahead[peaks] / (ahead[peaks] - ahead[peaks + 1])
    over = starts[peaks] + share * (starts[peaks + 1] - starts[peaks])
    starts = np.concatenate([starts, over])
    return float(np.max(sum_to(starts + seconds) - sum_to(starts)) / seconds)
