"""Where a run begins and ends: load-on and cut-off in one trace."""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.energy import SECONDS_PER_HOUR, Counter
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.timebase import thinned
from yardtoll.core.trace import FloatArray

IDLE_LIMIT_W = 2.0
"""Below this nothing counts as load (common practice, no source)."""
LOAD_SHARE = 0.05
"""Share of the load's median above which a sample belongs to the run."""
_SILENT_TICKS = 3.0


@dataclass(frozen=True, kw_only=True)
class LoadSpan:
    """Load-on and cut-off of one trace in s from its first sample.

    Attributes:
        starts_loaded: the first sample was already under load.
        no_cutoff: the last sample was still under load.
        limit_w: the power above which a sample counts as loaded.
        edge_s: how far load-on or cut-off may lie from the truth: one sampling interval.
    """

    start_s: float
    cutoff_s: float
    starts_loaded: bool
    no_cutoff: bool
    limit_w: float
    edge_s: float


def load_limit_w(power_w: FloatArray) -> float:
    """max(2 W, 5 % of the median of the samples above 2 W); (n,) W."""
    loaded = thinned(power_w[power_w > IDLE_LIMIT_W])
    return max(IDLE_LIMIT_W, LOAD_SHARE * float(np.median(loaded))) if loaded.size else IDLE_LIMIT_W


def span_of_power(
    name: str, time_s: FloatArray, power_w: FloatArray, interval_s: float
) -> LoadSpan:
    """Load-on = first, cut-off = last sample above the load limit; pauses between do not end it.

    Args:
        name: for messages.
        time_s, power_w: (n,) s and W, finite.
        interval_s: the median sampling interval.

    Raises:
        UnusableDataError: no sample is above the limit.
    """
    limit = load_limit_w(power_w)
    loaded = np.flatnonzero(power_w > limit)
    if loaded.size == 0:
        turned = " (it is negative: is the meter turned round?)" if power_w.min() < -limit else ""
        raise UnusableDataError(
            f"{name}: the power never rises above {IDLE_LIMIT_W:g} W{turned}, "
            "so there is no run in it"
        )
    return LoadSpan(
        start_s=float(time_s[loaded[0]]),
        cutoff_s=float(time_s[loaded[-1]]),
        starts_loaded=bool(loaded[0] == 0),
        no_cutoff=bool(loaded[-1] == power_w.size - 1),
        limit_w=limit,
        edge_s=interval_s,
    )


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
    tick_s = float(np.median(spacing))
    start = float(at[loaded[0]])
    cutoff = float(at[loaded[-1] + 1])
    last = float(counter.time_s[-1])
    return LoadSpan(
        start_s=start,
        cutoff_s=cutoff,
        starts_loaded=bool(start - counter.time_s[0] < tick_s),
        no_cutoff=bool(last - cutoff < _SILENT_TICKS * tick_s),
        limit_w=limit,
        edge_s=tick_s,
    )
