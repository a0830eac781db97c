"""Where a run begins and ends: load-on and cut-off in one trace, each with its doubt."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR, Counter
from yardtoll.core.electrical.medians import median
from yardtoll.core.electrical.timebase import Sampling, thinned, thinned_above
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.errors import UnusableDataError

IDLE_LIMIT_W = 2.0
"""Below this nothing counts as load (common practice, no source)."""
LOAD_SHARE = 0.05
"""Share of the load's median above which a sample belongs to the run."""
RESTART_PAUSE_S = 120.0
"""Power that returns after a longer time at nothing is another run, unless a thermostat's."""
_THERMOSTAT_PAUSES = 2
_THERMOSTAT_ON_RATIO = 6.0
"""A thermostat's first on-time may be so many times its usual one: the load warms up first."""
_THERMOSTAT_PAUSE_RATIO = 5.0
_SILENT_TICKS = 3.0
_NEARLY = 0.99
"""Of an interval, for times that were rounded."""
_RATE_STEPS = 20


@dataclass(frozen=True, kw_only=True)
class LoadSpan:
    """Load-on and cut-off of one trace in s from its first sample.

    Energy, duration and mean power all belong to this one span.

    Attributes:
        start_s, cutoff_s: half an interval outside the first and last loaded sample, or where a
            counter's first and last steps place them.
        first_s, last_s: times of the first and last loaded sample.
        starts_loaded: the first sample was already under load.
        no_cutoff: the last sample was still under load.
        limit_w: the power above which a sample counts as loaded.
        edges_s: limits ± of load-on and cut-off in s.
        returns_s: when power came back after the first cut-off; None where it did not.
    """

    start_s: float
    cutoff_s: float
    first_s: float
    last_s: float
    starts_loaded: bool
    no_cutoff: bool
    limit_w: float
    edges_s: tuple[float, float]
    returns_s: float | None = None

    @property
    def hours(self) -> float:
        """From load-on to cut-off."""
        return (self.cutoff_s - self.start_s) / SECONDS_PER_HOUR


def load_limit_w(power_w: FloatArray) -> float:
    """max(2 W, 5 % of the median of the samples above 2 W); (n,) W."""
    loaded = thinned_above(power_w, IDLE_LIMIT_W)
    return max(IDLE_LIMIT_W, LOAD_SHARE * median(loaded)) if loaded.size else IDLE_LIMIT_W


def span_of_power(
    name: str,
    time_s: FloatArray,
    power_w: FloatArray,
    sampling: Sampling,
    *,
    ends_at_restart: bool = False,
    end_limit_w: float | None = None,
) -> LoadSpan:
    """Load-on = first, cut-off = last sample above the load limit; pauses between do not end it.

    Args:
        name: for messages.
        time_s, power_w: (n,) s and W, finite.
        ends_at_restart: power that comes back after two minutes at nothing, and not as a thermostat
            does, is not part of the run.
        end_limit_w: power above which the end is looked for, where it is not the load limit.

    Raises:
        UnusableDataError: no sample is above the limit.
    """
    limit = load_limit_w(power_w)
    loaded = power_w > limit
    if not loaded.any():
        turned = " (it is negative: is the meter turned round?)" if power_w.min() < -limit else ""
        raise UnusableDataError(
            f"{name}: the power never rises above {IDLE_LIMIT_W:g} W{turned}, "
            "so there is no run in it"
        )
    first, last = int(loaded.argmax()), _last(loaded)
    returns = None
    if end_limit_w is not None:
        last = _last_above(power_w, end_limit_w)
        limit = end_limit_w
    if ends_at_restart:
        cut = _first_cut(time_s, loaded)
        if cut is not None:
            last, returns = cut[0], float(time_s[cut[1]])
    before = _half_step(time_s, first - 1, sampling)
    after = _half_step(time_s, last, sampling)
    return LoadSpan(
        start_s=float(time_s[first]) - before[0],
        cutoff_s=float(time_s[last]) + after[0],
        first_s=float(time_s[first]),
        last_s=float(time_s[last]),
        starts_loaded=first == 0,
        no_cutoff=last == power_w.size - 1,
        limit_w=limit,
        edges_s=(before[1], after[1]),
        returns_s=returns,
    )


def _last(flags: NDArray[np.bool_]) -> int:
    """The last that is true, of some."""
    return flags.size - 1 - int(flags[::-1].argmax())


def _last_above(values: FloatArray, limit: float) -> int:
    """The last of some that is above a limit; looked for from the end on."""
    many = 1000
    while many < values.size and not (values[-many:] > limit).any():
        many *= 10
    begin = max(values.size - many, 0)
    return begin + _last(values[begin:] > limit)


def _half_step(time_s: FloatArray, index: int, sampling: Sampling) -> tuple[float, float]:
    """(Half the interval after sample ``index``, how far off an edge in its middle may be), in s.

    In a gap half the usual interval; the edge may then be anywhere in the gap.
    """
    if index < 0 or index + 1 >= time_s.size:
        return 0.0, 0.0
    step = float(time_s[index + 1] - time_s[index])
    half = (sampling.interval_s if index in sampling.gap_starts else step) / 2
    return half, step - half


def _first_cut(time_s: FloatArray, loaded: NDArray[np.bool_]) -> tuple[int, int] | None:
    """The last loaded sample of the first run and the first of the next; None where it is one run.

    A pause counts when samples in it show nothing for over two minutes. Pauses that a thermostat
    makes over the whole run, much alike and with on-times much alike, do not end it.
    """
    changes = np.flatnonzero(loaded[1:] != loaded[:-1])
    ends = changes[loaded[changes]]
    starts = changes[~loaded[changes]] + 1
    # Pauses are between an end and the start after it.
    starts = starts[starts > ends[0]] if ends.size else starts[:0]
    ends = ends[: starts.size]
    cuts = time_s[starts] - time_s[ends] > RESTART_PAUSE_S
    ends, starts = ends[cuts], starts[cuts]
    if ends.size == 0:
        return None
    last = _last(loaded)
    pauses = time_s[starts] - time_s[ends]
    on_s = time_s[[*ends, last]] - time_s[[int(loaded.argmax()), *starts]]
    usual = median(on_s[1:])
    alike = (
        ends.size >= _THERMOSTAT_PAUSES
        and on_s[0] <= _THERMOSTAT_ON_RATIO * max(usual, 1.0)
        and float(pauses.max()) <= _THERMOSTAT_PAUSE_RATIO * median(pauses)
    )
    return None if alike else (int(ends[0]), int(starts[0]))


def span_of_counter(name: str, counter: Counter) -> LoadSpan:
    """Load-on and cut-off from an energy counter alone, by the power between its ticks.

    Raises:
        UnusableDataError: the counter never rises as fast as a load would make it.
    """
    ticks = np.flatnonzero(np.diff(counter.energy_wh) > 0) + 1
    if ticks.size == 0:
        raise UnusableDataError(f"{name}: the energy counter never rises, so there is no run in it")
    edges = np.concatenate([[ticks[0] - 1], ticks])
    at, energy = counter.time_s[edges], counter.energy_wh[edges]
    spacing = np.diff(at)
    power = np.diff(energy) * SECONDS_PER_HOUR / spacing
    limit = load_limit_w(power)
    loaded = np.flatnonzero(power > limit)
    if loaded.size == 0:
        raise UnusableDataError(
            f"{name}: the energy counter never rises faster than {IDLE_LIMIT_W:g} W, "
            "so there is no run in it"
        )
    tick_s = median(spacing)
    # Where a load makes several steps between two samples, one sample without any is silence.
    step_s = counter.step_wh * SECONDS_PER_HOUR / median(power[loaded])
    interval_s = median(thinned(np.diff(counter.time_s)))
    silent_s = _NEARLY * max(step_s, interval_s)
    first = int(edges[loaded[0]])
    last = int(edges[loaded[-1] + 1])
    final = float(counter.time_s[-1])
    starts_loaded = bool(counter.time_s[first] - counter.time_s[0] < silent_s)
    no_cutoff = bool(final - counter.time_s[last] < max(silent_s, _SILENT_TICKS * step_s))
    span = LoadSpan(
        start_s=float(counter.time_s[first]),
        cutoff_s=float(counter.time_s[last]),
        first_s=float(counter.time_s[first]),
        last_s=float(counter.time_s[last]),
        starts_loaded=starts_loaded,
        no_cutoff=no_cutoff,
        limit_w=limit,
        edges_s=(tick_s / 2, tick_s / 2),
    )
    return refined_by_counter(span, counter)


def refined_by_counter(span: LoadSpan, counter: Counter) -> LoadSpan:
    """The span with its edges where the counter's first and last steps place them.

    In the interval of load-on the counter has risen by what was drawn since then: at the rate of
    the intervals after it that is a time. Used only where it says more than half an interval does.
    """
    start = None if span.starts_loaded else _edge(counter, span.first_s, forwards=True)
    cutoff = None if span.no_cutoff else _edge(counter, span.last_s, forwards=False)
    edges = list(span.edges_s)
    if span.start_s != span.first_s and start is not None:
        start = _not_inside(*start, span.first_s, forwards=True)
    if span.cutoff_s != span.last_s and cutoff is not None:
        cutoff = _not_inside(*cutoff, span.last_s, forwards=False)
    if start is not None and (start[1] < edges[0] or span.start_s == span.first_s):
        span, edges[0] = replace(span, start_s=start[0]), start[1]
    if cutoff is not None and (cutoff[1] < edges[1] or span.cutoff_s == span.last_s):
        span, edges[1] = replace(span, cutoff_s=cutoff[0]), cutoff[1]
    return replace(span, edges_s=(edges[0], edges[1]))


def _not_inside(
    at_s: float, limit_s: float, seen_s: float, *, forwards: bool
) -> tuple[float, float] | None:
    """An edge by the counter, kept out of the run that the power shows; None if it is far inside.

    Args:
        seen_s: the first or last sample with power.
    """
    inside_s = at_s - seen_s if forwards else seen_s - at_s
    if inside_s > limit_s:
        return None
    return (seen_s if inside_s > 0 else at_s), limit_s


def _edge(counter: Counter, near_s: float, *, forwards: bool) -> tuple[float, float] | None:
    """(time, limit ±) of load-on or cut-off from a counter's rise; None where it does not show it.

    Args:
        near_s: the first or last sample known to be in the run.
        forwards: load-on, with the run after it; else cut-off, with the run before it.
    """
    times, energy = counter.time_s, counter.energy_wh
    # It never falls: its steps are found by the values they lead from and to.
    if forwards:
        before = max(int(np.searchsorted(times, near_s)) - 1, 0)
        inner = int(np.searchsorted(energy, energy[before], side="right"))
        if inner >= energy.size or energy[-1] == energy[inner]:
            return None
        outer, far = inner - 1, min(inner + _RATE_STEPS, energy.size - 1)
    else:
        after = min(int(np.searchsorted(times, near_s, side="right")), energy.size - 1)
        outer = int(np.searchsorted(energy, energy[after]))
        inner, far = outer - 1, max(outer - 1 - _RATE_STEPS, 0)
        if inner < 0 or energy[0] == energy[inner]:
            return None
    risen, took = abs(energy[far] - energy[inner]), abs(times[far] - times[inner])
    if risen <= 0 or took <= 0:
        return None
    rate = float(risen / took)
    inside_wh = float(abs(energy[outer] - energy[inner]))
    width = float(abs(times[outer] - times[inner]))
    step = counter.step_wh
    sign = -1.0 if forwards else 1.0
    if inside_wh <= step * 1.001:
        # Samples come more often than ticks: the edge is within one step's time of the tick, which
        # was somewhere between the two.
        tick_s = float(times[inner] + times[outer]) / 2
        half = step / rate / 2
        return tick_s + sign * half, half + width / 2
    lasted = min(inside_wh / rate, width)
    # A load that warms up drew something else in that interval than on the mean of those after it.
    nearest = slice(inner, inner + 4) if forwards else slice(max(inner - 3, 0), inner + 1)
    rates = np.diff(energy[nearest]) / np.diff(times[nearest])
    wandered_s = float(np.abs(rates / rate - 1).max(initial=0.0)) * lasted
    off_s = min(step / rate + wandered_s, max(lasted, width - lasted))
    return float(times[inner]) + sign * lasted, off_s
