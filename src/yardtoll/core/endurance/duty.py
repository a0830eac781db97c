"""An appliance as its own log shows it: W while it draws, share of the time, W to start.

On and off are told apart where the two groups of samples differ most (N. Otsu, A threshold
selection method from gray-level histograms, IEEE Trans. SMC 9, 1979; from memory).
"""

import math
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.uncertainty.budget import coverage_factor_of

_FEWEST_SAMPLES = 10
_BINS = 200
_APART = 2.0
"""On draws at least so many times what off does, or it does not cycle."""
_START_S = 5.0
"""A start is over after this (common practice, no source)."""
_HIGHEST_SHARE = 0.995
_FEWEST_CYCLES = 3


@dataclass(frozen=True, kw_only=True)
class DutyCycle:
    """What an appliance draws.

    Attributes:
        watts: while it draws; ``watts`` × ``duty`` is its mean.
        start_w: the highest sample within a start; None for one that never starts in the log.
        cycles: from start to start, whole ones.
        mean_w: over whole cycles where there are any, else over all.
        expanded_w: U of the mean, k = 2, as cycles differ; None with fewer than three of them.
    """

    watts: float
    duty: float
    start_w: float | None
    cycles: int
    mean_w: float
    expanded_w: float | None

    @property
    def daily_wh(self) -> float:
        """What it takes in a day."""
        return 24.0 * self.mean_w


def duty_of(time_s: FloatArray, power_w: FloatArray) -> DutyCycle:
    """Of a log while the appliance was connected.

    Args:
        time_s, power_w: (n,) in order of time, without gaps that matter.

    Raises:
        UnusableDataError: too few samples, or it drew nothing.
    """
    if time_s.size < _FEWEST_SAMPLES:
        raise UnusableDataError("too few samples to tell what the appliance draws")
    weights = np.gradient(time_s)
    mean_w = float(np.average(power_w, weights=np.maximum(weights, 0.0)))
    if mean_w <= 0:
        raise UnusableDataError("the appliance drew nothing")
    is_on = _is_on(power_w)
    if is_on is None:
        return DutyCycle(
            watts=mean_w, duty=1.0, start_w=_start_w(time_s, power_w, [0]), cycles=0,
            mean_w=mean_w, expanded_w=None,
        )  # fmt: skip
    starts = np.flatnonzero(is_on[1:] & ~is_on[:-1]) + 1
    cycle_means = _cycle_means(time_s, power_w, starts)
    if cycle_means.size:
        whole = slice(starts[0], starts[-1])
        mean_w = float(np.average(power_w[whole], weights=weights[whole]))
        share_on = float(np.average(is_on[whole], weights=weights[whole]))
    else:
        share_on = float(np.average(is_on, weights=weights))
    expanded_w = None
    if cycle_means.size >= _FEWEST_CYCLES:
        u = float(cycle_means.std(ddof=1)) / math.sqrt(cycle_means.size)
        expanded_w = coverage_factor_of(cycle_means.size - 1) * u
    return DutyCycle(
        watts=mean_w / share_on,
        duty=share_on,
        start_w=_start_w(time_s, power_w, starts.tolist()),
        cycles=int(cycle_means.size),
        mean_w=mean_w,
        expanded_w=expanded_w,
    )


def _is_on(power_w: FloatArray) -> np.ndarray | None:
    """(n,) whether it draws; None for one that does not cycle."""
    top = float(np.quantile(power_w, _HIGHEST_SHARE))
    clipped = np.clip(power_w, 0.0, top)
    if top <= 0:
        return None
    counts, edges = np.histogram(clipped, bins=_BINS, range=(0.0, top))
    middles = (edges[:-1] + edges[1:]) / 2
    below = np.cumsum(counts).astype(float)
    above = below[-1] - below
    sums = np.cumsum(counts * middles)
    with np.errstate(divide="ignore", invalid="ignore"):
        low, high = sums / below, (sums[-1] - sums) / above
        between = below * above * (high - low) ** 2
    between[~np.isfinite(between)] = 0.0
    # Between two groups that are far apart any threshold is as good: the middle of them is taken.
    best = np.flatnonzero(between >= between.max() * (1 - 1e-12))
    place = int(best[best.size // 2])
    if not high[place] >= _APART * max(low[place], 1e-9):
        return None
    return np.asarray(clipped > edges[place + 1])


def _cycle_means(time_s: FloatArray, power_w: FloatArray, starts: np.ndarray) -> FloatArray:
    """(cycles,) mean W from each start to the next."""
    found = []
    for begin, end in zip(starts[:-1].tolist(), starts[1:].tolist(), strict=True):
        at, watts = time_s[begin : end + 1], power_w[begin : end + 1]
        found.append(float(np.trapezoid(watts, at) / (at[-1] - at[0])))
    return np.array(found)


def _start_w(time_s: FloatArray, power_w: FloatArray, starts: list[int]) -> float | None:
    """The highest sample within a start."""
    highest = [
        float(power_w[begin : int(np.searchsorted(time_s, time_s[begin] + _START_S)) + 1].max())
        for begin in starts
    ]
    return max(highest, default=None)
