"""Reasons to doubt a log: found here, shown as notices, explained by the reviewer or not.

Each of :data:`DOUBTS` keeps a verdict from *meets* until the reviewer has explained it.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR, Counter, slice_between
from yardtoll.core.electrical.load_span import IDLE_LIMIT_W, LoadSpan
from yardtoll.core.electrical.medians import median
from yardtoll.core.electrical.parts import differences, step_parts
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.timebase import Sampling, thinned, thinned_above, usual_step_s
from yardtoll.core.electrical.trace import Code, FloatArray, Notice, Trace
from yardtoll.core.formatting import counted, format_span

DOUBTS: dict[Code, str] = {
    Code.ABOVE_RATED: "more energy came out than is rated",
    Code.VOLTS_AMPS_WITHOUT_PF: "the watts were worked out as volts times amps, with no power "
    "factor",
    Code.FROZEN: "the meter may have shown its last value for a while",
    Code.RESTARTED: "power came back after the cut-off",
    Code.SPIKE: "single wild samples were left out",
    Code.NEGATIVE_POWER: "power flowed backwards at times",
    Code.SPARSE: "the samples are too few to follow the load",
    Code.ON_CHANGE: "the log was written only when a value changed",
    Code.CLOCKS_DIFFER: "two logs look alike but for a shift of their clocks",
    Code.NOT_SIDE_BY_SIDE: "the logs follow one another in time",
    Code.END_NOT_SEEN: "nobody saw when the run ended",
    Code.UNITS_SUSPECT: "watts and watt-hours, or W and kW, may be mixed up",
}
"""Codes that keep a verdict from *meets*, each with what it means in a clause."""

SPIKE_RATIO = 5.0
"""A single sample above this many times the 99th percentile is wild …"""
INRUSH_S = 10.0
"""… unless the power reaches a new level within this time: then it is an inrush."""
FROZEN_S, FROZEN_SAMPLES = 600.0, 20
"""A meter that repeats itself for longer than both may be showing its last value."""
LEAST_SAMPLES = 10
_LOOKED_AT_ONCE = 10_000
SWITCHING_SHARE = 0.2
"""More steps than this share that change the power by over half leave the load unfollowed."""
_BEAT_SHARE = 0.5
_BEAT_RATIO = 10.0
_CHANGED_SHARE = 0.9
_JUST_BEFORE_S = 1e-3
_MOMENTS = 3


@dataclass(frozen=True, kw_only=True)
class Cleaned:
    """A trace without what cannot be power, and what was found in it.

    Attributes:
        on_change: whether the log holds only changes; it was held constant between them then.
        spikes: how many wild samples were left out.
    """

    trace: Trace
    on_change: bool
    spikes: int
    notices: tuple[Notice, ...]


def doubts_of(notices: Iterable[Notice]) -> tuple[Code, ...]:
    """The codes among notices that keep a verdict from *meets*, each once, in their order."""
    return tuple(dict.fromkeys(n.code for n in notices if n.code in DOUBTS))


def unexplained(codes: Iterable[Code], explained: Iterable[str]) -> tuple[Code, ...]:
    """Doubts that nobody has explained."""
    known = set(explained)
    return tuple(code for code in codes if code in DOUBTS and code.value not in known)


def doubt_reason(codes: Sequence[Code]) -> str:
    """Why *meets* cannot be said, as one sentence without its full stop."""
    words = "; ".join(DOUBTS.get(code, code.value.replace("_", " ")) for code in codes)
    return f"{words}: explain it, or test again"


def cleaned(trace: Trace, on_change: bool | None = None) -> Cleaned:
    """The trace with wild samples left out, and held constant where only changes were logged.

    Args:
        on_change: True where the reviewer says so; None to find out.
    """
    time_s, power_w = trace.valid(Quantity.POWER)
    notices = []
    spikes = wild_samples(time_s, power_w)
    if spikes.size:
        power = np.array(trace.columns[Quantity.POWER], copy=True)
        power[np.searchsorted(trace.time_s, time_s[spikes])] = np.nan
        trace = replace(trace, columns={**trace.columns, Quantity.POWER: power})
        highest = float(power_w[spikes].max())
        message = (
            f"{trace.name}: {counted(spikes.size, 'wild sample')} of up to {highest:.0f} W left out"
        )
        notices.append(Notice(code=Code.SPIKE, message=message))
        time_s, power_w = trace.valid(Quantity.POWER)
    changes = reports_on_change(time_s, power_w) if on_change is None else on_change
    if changes:
        trace = held_constant(trace)
        message = f"{trace.name}: logged only when the value changed; held constant in between"
        notices.append(Notice(code=Code.ON_CHANGE, message=message))
    return Cleaned(trace=trace, on_change=changes, spikes=spikes.size, notices=tuple(notices))


def wild_samples(time_s: FloatArray, power_w: FloatArray) -> NDArray[np.intp]:
    """Indices of single samples over 5 × the 99th percentile that no rising level explains.

    A motor or a cold heater draws many times its level for a moment when it starts: such a sample
    stays where the power within ten seconds after it is at another level than before it.
    """
    loaded = thinned_above(power_w, IDLE_LIMIT_W)
    if loaded.size < LEAST_SAMPLES:
        return np.empty(0, dtype=np.intp)
    high = SPIKE_RATIO * float(np.percentile(loaded, 99, method="lower"))
    if float(power_w.max()) <= high:
        return np.empty(0, dtype=np.intp)
    above = np.flatnonzero(power_w > high).tolist()
    near = set(above)
    found = [
        i
        for i in above
        if i - 1 not in near and i + 1 not in near and not _is_inrush(time_s, power_w, i)
    ]
    return np.array(found, dtype=np.intp)


def _is_inrush(time_s: FloatArray, power_w: FloatArray, index: int) -> bool:
    before = float(power_w[index - 1]) if index else 0.0
    after = power_w[slice_between(time_s, time_s[index], time_s[index] + INRUSH_S)][1:]
    if after.size == 0:
        return False
    level = median(after)
    return level > 1.2 * before and level > IDLE_LIMIT_W


def reports_on_change(time_s: FloatArray, power_w: FloatArray) -> bool:
    """Whether a log has a line only for each change: no beat, and no value twice running."""
    if time_s.size < LEAST_SAMPLES:
        return False
    if _is_on_beat(time_s):
        return False
    steps = np.diff(time_s)
    low, high = np.percentile(thinned(steps), [5, 95])
    changed = float(np.mean(np.diff(power_w) != 0))
    return bool(high > _BEAT_RATIO * max(low, 1e-9) and changed >= _CHANGED_SHARE)


def _is_on_beat(time_s: FloatArray) -> bool:
    """Whether at least half of the steps are of the usual length; (n,) s."""
    usual, on_beat = usual_step_s(time_s), 0
    low, high = 0.8 * usual, 1.2 * usual
    enough = _BEAT_SHARE * (time_s.size - 1)
    for part, _ in step_parts(time_s.size):
        steps = differences(time_s[part])
        on_beat += steps.size
        if steps.min() < low:
            on_beat -= int(np.count_nonzero(steps < low))
        if steps.max() > high:
            on_beat -= int(np.count_nonzero(steps > high))
        if on_beat >= enough:
            return True
    return False


def held_constant(trace: Trace) -> Trace:
    """Every value held until just before the next line."""
    time_s = trace.time_s
    steps = np.diff(time_s)
    just = np.minimum(_JUST_BEFORE_S, steps / 4)
    times = np.empty(2 * time_s.size - 1)
    times[0::2], times[1::2] = time_s, time_s[1:] - just
    columns = {}
    for quantity, values in trace.columns.items():
        known = np.maximum.accumulate(np.where(np.isfinite(values), np.arange(values.size), 0))
        filled = values[known]
        held = np.empty(times.size)
        held[0::2], held[1::2] = filled, filled[:-1]
        columns[quantity] = held
    return replace(trace, time_s=times, columns=columns)


def without_gaps(sampling: Sampling) -> Sampling:
    """A sampling in which no distance is a gap: for logs that hold only changes."""
    return replace(sampling, gap_starts=np.empty(0, dtype=np.intp))


def frozen_from(trace: Trace, counter: Counter | None, span: LoadSpan) -> Notice | None:
    """A notice where the meter may be showing its last value while under load."""
    stretch = _repeats(trace, span) or _counter_is_stuck(trace, counter, span)
    if stretch is None:
        return None
    start_s, end_s = stretch
    return Notice(
        code=Code.FROZEN,
        message=f"{trace.name}: from {format_span(start_s)} on nothing changes for "
        f"{format_span(end_s - start_s)}: the meter may be showing its last value",
    )


def _may_be_frozen(
    power: tuple[FloatArray, FloatArray], values: FloatArray, span: LoadSpan
) -> bool:
    """Whether (n,) values may stand still for long under load: at two moments they are the same.

    The moments are so close that two of them are in each such stretch. Most logs need no closer
    look.
    """
    time_s, power_w = power
    lasted_s = float(time_s[-1] - time_s[0])
    if lasted_s * _MOMENTS > FROZEN_S * time_s.size:
        return True
    moments = np.arange(time_s[0], time_s[-1], FROZEN_S / _MOMENTS)
    at = np.searchsorted(time_s, moments)
    before, after = at[:-1], at[1:]
    loaded = (power_w[after] > span.limit_w) | (before == after)
    return bool(np.any(loaded & (values[before] == values[after])))


def _repeats(trace: Trace, span: LoadSpan) -> tuple[float, float] | None:
    """(start, end) in s of all quantities repeating to the last digit, power having moved."""
    time_s, power_w = trace.valid(Quantity.POWER)
    if power_w.size <= FROZEN_SAMPLES or not _may_be_frozen((time_s, power_w), power_w, span):
        return None
    moved = power_w[1:] != power_w[:-1]
    if np.count_nonzero(moved) >= moved.size - FROZEN_SAMPLES:
        return None
    longest = _longest(~moved & (power_w[1:] > span.limit_w), time_s)
    if longest is None:
        return None
    first, last = longest
    for values in trace.columns.values():
        part = values[np.searchsorted(trace.time_s, time_s[first]) :]
        part = part[: last - first + 1]
        if part.size and not (np.all(part == part[0]) or np.all(~np.isfinite(part))):
            return None
    before = moved[:first][power_w[1 : first + 1] > span.limit_w]
    if before.size < LEAST_SAMPLES or before.mean() <= 0.5:
        return None
    return float(time_s[first]), float(time_s[last])


def _counter_is_stuck(
    trace: Trace, counter: Counter | None, span: LoadSpan
) -> tuple[float, float] | None:
    """(start, end) in s of a counter that stops though power flows."""
    time_s, power_w = trace.valid(Quantity.POWER)
    if counter is None or power_w.size <= FROZEN_SAMPLES or counter.time_s.size != time_s.size:
        return None
    if not _may_be_frozen((time_s, power_w), counter.energy_wh, span):
        return None
    is_stuck = (np.diff(counter.energy_wh) == 0) & (power_w[1:] > span.limit_w)
    is_stuck &= power_w[:-1] > span.limit_w
    longest = _longest(is_stuck, time_s)
    if longest is None:
        return None
    first, last = longest
    missed = np.trapezoid(power_w[first : last + 1], time_s[first : last + 1]) / SECONDS_PER_HOUR
    return (float(time_s[first]), float(time_s[last])) if missed > 3 * counter.step_wh else None


def _longest(flags: NDArray[np.bool_], time_s: FloatArray) -> tuple[int, int] | None:
    """(first, last) sample of the longest stretch of flagged steps, where long enough; else None.

    Args:
        flags: (n − 1,) of the steps between n samples.
    """
    padded = np.concatenate([[False], flags, [False]]).astype(np.int8)
    edges = np.flatnonzero(np.diff(padded))
    if edges.size == 0:
        return None
    starts, ends = edges[0::2], edges[1::2]
    i = int(np.argmax(time_s[ends] - time_s[starts]))
    first, last = int(starts[i]), int(ends[i])
    lasted = float(time_s[last] - time_s[first])
    return (first, last) if lasted > FROZEN_S and last - first > FROZEN_SAMPLES else None


def _few_are_above(values: FloatArray, limit: float) -> bool:
    """Whether fewer than ten are; of most runs their beginning shows that they are not."""
    seen = 0
    for begin in range(0, values.size, _LOOKED_AT_ONCE):
        seen += int(np.count_nonzero(values[begin : begin + _LOOKED_AT_ONCE] > limit))
        if seen >= LEAST_SAMPLES:
            return False
    return True


def is_sparse(time_s: FloatArray, power_w: FloatArray, span: LoadSpan) -> bool:
    """Whether the samples of a run are too few, or the load switches too often for them."""
    within = slice_between(time_s, span.start_s, span.cutoff_s)
    watts = power_w[within]
    if _few_are_above(watts, span.limit_w):
        return True
    jumps = 0
    for part, _ in step_parts(watts.size):
        of_part = watts[part]
        lowest, highest_w = float(of_part.min()), float(of_part.max())
        if highest_w - lowest <= 0.5 * lowest:
            continue  # no change of it is over half of the lowest power
        changes = np.abs(differences(of_part))
        highest = np.maximum(of_part[1:], of_part[:-1])
        jumped = (changes > 0.5 * highest) & (highest > span.limit_w)
        jumps += int(np.count_nonzero(jumped))
    return jumps > SWITCHING_SHARE * (watts.size - 1)
