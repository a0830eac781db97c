"""The phases of a recharge: ramp-in, full power, taper, top-off, and pauses.

The power is cut into straight pieces (bottom-up merging of neighbours while a straight line still
fits), and each piece is named by how high it lies and where it leads.
"""

import heapq
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from yardtoll.core.electrical.energy import slice_between
from yardtoll.core.electrical.timebase import thinned
from yardtoll.core.electrical.trace import FloatArray

MOST_BINS = 480
LEAST_BIN_S = 5.0
FLAT_SHARE = 0.04
"""A piece that changes by less than this share of full power is flat."""
SAME_LEVEL_SHARE = 0.05
"""Neighbouring flat pieces further apart than this are steps of their own."""
TOP_OFF_SHARE = 0.20
"""Flat pieces below this share of full power top off or balance (common practice, no source)."""
SHORTEST_S = 45.0
"""A shorter piece is a passage between its neighbours."""
_FIT_SHARE = 0.012
"""How far, in shares of full power and on the root mean square, a piece may be off its line."""
_IN_A_BIN = 50
"""So many samples give a bin's median."""
_LEVEL_PERCENTILE = 95.0
_LEAST_SAMPLES = 3
"""Fewer points give a mean, not a phase."""


class PhaseName(StrEnum):
    """What the charger is doing."""

    RAMP_IN = "ramp_in"
    FULL_POWER = "full_power"
    TAPER = "taper"
    TOP_OFF = "top_off"
    PAUSED = "paused"

    @property
    def words(self) -> str:
        """As shown."""
        return self.value.replace("_", " ").replace("ramp in", "ramp-in").replace("top ", "top-")


@dataclass(frozen=True, kw_only=True)
class Phase:
    """One stretch of a recharge, s from the log's first sample."""

    name: PhaseName
    start_s: float
    end_s: float
    mean_w: float


@dataclass(frozen=True)
class _Piece:
    """Bins first..last with the line that fits them, in W."""

    first: int
    last: int
    at_start_w: float
    at_end_w: float
    mean_w: float


def full_power_w(power_w: FloatArray) -> float:
    """The highest level held: the 95th percentile of the samples above 2 W; 0 without any."""
    looked_at = thinned(power_w)
    loaded = looked_at[looked_at > 2.0]
    return float(np.percentile(loaded, _LEVEL_PERCENTILE)) if loaded.size else 0.0


def find_phases(
    time_s: FloatArray, power_w: FloatArray, start_s: float, end_s: float
) -> tuple[Phase, ...]:
    """The phases between charge start and end; none from fewer than three samples.

    Args:
        time_s, power_w: (n,) s rising and W.
    """
    within = slice_between(time_s, start_s, end_s)
    t, p = time_s[within], power_w[within]
    if t.size < _LEAST_SAMPLES or end_s <= start_s:
        return ()
    edges, level = _binned(t, p, start_s, end_s)
    full = full_power_w(p)
    limit = max(2.0, 0.02 * full)
    pieces = _pieces(level, limit, _FIT_SHARE * full)
    phases = _named(pieces, edges, full, limit)
    return tuple(_with_means(_joined(_without_slivers(phases), full), t, p))


def _binned(
    t: FloatArray, p: FloatArray, start_s: float, end_s: float
) -> tuple[FloatArray, FloatArray]:
    """Edges of equal bins and the median W in each; empty bins take their neighbours' line."""
    count = int(min(MOST_BINS, max((end_s - start_s) / LEAST_BIN_S, 1), max(t.size - 1, 1)))
    edges = np.linspace(start_s, end_s, count + 1)
    stride = max(1, t.size // (count * _IN_A_BIN))
    t, p = t[::stride], p[::stride]
    starts = np.concatenate([[0], np.searchsorted(t, edges[1:-1]), [t.size]])
    sizes = np.diff(starts)
    # Sorted within their bins all at once: a median a bin would cost five times as much. Sorting
    # small whole numbers takes no comparisons.
    rising = np.argsort(p)
    bins = np.repeat(np.arange(count, dtype=np.uint16), sizes)[rising]
    ordered = p[rising[np.argsort(bins, kind="stable")]]
    known = np.flatnonzero(sizes)
    low, high = (starts[known] + (sizes[known] - odd) // 2 for odd in (1, 0))
    level = (ordered[low] + ordered[high]) / 2
    return edges, np.interp(np.arange(count), known, level)


class _Lines:
    """Least-squares lines through any stretch of bins, each in constant time.

    Running sums of y, x·y and y² give a line and its distance by subtraction; merging a day's
    pieces one by one would else cost as much as everything before it.
    """

    def __init__(self, level: FloatArray) -> None:
        x = np.arange(level.size, dtype=float)
        self._sums = [
            np.concatenate([[0.0], np.cumsum(part)]).tolist()
            for part in (level, x * level, level**2)
        ]

    def _moments(self, first: int, last: int) -> tuple[int, float, float, float, float]:
        """(n, mean y, Sxx, Sxy, Syy) over bins first..last."""
        n, end = last - first + 1, last + 1
        sums, products, squares = self._sums
        sy = sums[end] - sums[first]
        mean_x, mean_y = (first + last) / 2, sy / n
        sxy = products[end] - products[first] - mean_x * sy
        syy = squares[end] - squares[first] - sy * mean_y
        return n, mean_y, n * (n * n - 1) / 12, sxy, max(syy, 0.0)

    def fit(self, first: int, last: int) -> _Piece:
        """The line of best fit."""
        n, mean, sxx, sxy, _ = self._moments(first, last)
        half = sxy / sxx * (n - 1) / 2 if n > 1 else 0.0
        return _Piece(first, last, mean - half, mean + half, mean)

    def off_w(self, first: int, last: int) -> float:
        """Root mean square distance in W from the line of best fit."""
        n, _, sxx, sxy, syy = self._moments(first, last)
        return math.sqrt(max(syy - sxy**2 / sxx, 0.0) / n) if n > 1 else 0.0


def _pieces(level: FloatArray, limit_w: float, fit_w: float) -> list[_Piece]:
    """Straight pieces; pauses and charging are never merged."""
    bounds = np.flatnonzero(np.diff(level > limit_w)) + 1
    lines = _Lines(level)
    found = []
    for part in np.split(np.arange(level.size), bounds):
        found += _merged(lines, int(part[0]), int(part[-1]), fit_w)
    return found


def _merged(lines: _Lines, first: int, last: int, fit_w: float) -> list[_Piece]:
    """Bottom-up: merge the two neighbours that a common line fits best, while it fits."""
    starts = list(range(first, last + 1, 2))
    ends = [min(start + 1, last) for start in starts]
    count = len(starts)
    before, after = list(range(-1, count - 1)), list(range(1, count + 1))
    # The last has no neighbour to be merged with.
    costs = [*(lines.off_w(starts[i], ends[i + 1]) for i in range(count - 1)), math.inf]
    waiting = [(cost, i) for i, cost in enumerate(costs)]
    heapq.heapify(waiting)
    alive = [True] * count
    while waiting:
        cost, i = heapq.heappop(waiting)
        if not alive[i] or cost != costs[i]:
            continue  # one of the two has been merged since
        if cost > fit_w:
            break
        gone = after[i]
        ends[i], after[i], alive[gone] = ends[gone], after[gone], False
        if after[i] < count:
            before[after[i]] = i
        for left in (before[i], i):
            if left < 0:
                continue
            right = after[left]
            costs[left] = lines.off_w(starts[left], ends[right]) if right < count else math.inf
            heapq.heappush(waiting, (costs[left], left))
    return [lines.fit(starts[i], ends[i]) for i in range(count) if alive[i]]


def _named(
    pieces: Sequence[_Piece], edges: FloatArray, full_w: float, limit_w: float
) -> list[Phase]:
    """Each piece by its height and slope, knowing whether full power came before."""
    found: list[Phase] = []
    been_full = False
    for piece in pieces:
        change = piece.at_end_w - piece.at_start_w
        if piece.mean_w <= limit_w:
            name = PhaseName.PAUSED
        elif abs(change) <= FLAT_SHARE * full_w:
            low = piece.mean_w < TOP_OFF_SHARE * full_w
            name = PhaseName.FULL_POWER
            if low:
                name = PhaseName.TOP_OFF if been_full else PhaseName.RAMP_IN
        elif change > 0:
            name = PhaseName.RAMP_IN
        else:
            name = PhaseName.TAPER
        been_full |= name is PhaseName.FULL_POWER and piece.mean_w > 0.5 * full_w
        found.append(
            Phase(
                name=name,
                start_s=float(edges[piece.first]),
                end_s=float(edges[piece.last + 1]),
                mean_w=piece.mean_w,
            )
        )
    return found


def _without_slivers(phases: list[Phase]) -> list[Phase]:
    """Passages of seconds go to the phase after them, the last one to the phase before."""
    kept: list[Phase] = []
    start_s: float | None = None
    for phase in phases:
        begins = phase.start_s if start_s is None else start_s
        if phase.end_s - begins < SHORTEST_S and phase is not phases[-1]:
            start_s = begins
            continue
        kept.append(replace(phase, start_s=begins))
        start_s = None
    if len(kept) > 1 and kept[-1].end_s - kept[-1].start_s < SHORTEST_S:
        last = kept.pop()
        kept[-1] = replace(kept[-1], end_s=last.end_s)
    return kept


def _joined(phases: list[Phase], full_w: float) -> list[Phase]:
    """Neighbours of one name as one phase; full power at another level is a step of its own."""
    joined: list[Phase] = []
    for phase in phases:
        before = joined[-1] if joined else None
        apart = before is not None and abs(before.mean_w - phase.mean_w) > (
            SAME_LEVEL_SHARE * full_w
        )
        steps = phase.name is PhaseName.FULL_POWER and apart
        if before is not None and before.name is phase.name and not steps:
            whole = phase.end_s - before.start_s
            mean = (
                before.mean_w * (before.end_s - before.start_s)
                + phase.mean_w * (phase.end_s - phase.start_s)
            ) / whole
            joined[-1] = replace(before, end_s=phase.end_s, mean_w=mean)
        else:
            joined.append(phase)
    return joined


def _with_means(phases: list[Phase], t: FloatArray, p: FloatArray) -> list[Phase]:
    """The phases with the mean of their own samples."""
    found = []
    for phase in phases:
        mine = p[slice_between(t, phase.start_s, phase.end_s)]
        found.append(replace(phase, mean_w=float(np.mean(mine))) if mine.size else phase)
    return found
