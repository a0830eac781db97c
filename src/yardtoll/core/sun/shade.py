"""Sudden drops of a solar input to a lower plateau, and how long the tracker takes to come back.

A drop is looked for in the share of what the sun allows, so that a cloud seen by an irradiance
sensor is none. Shade comes and goes at once: a drop has a sharp edge, a flat floor, and goes on to
the sample at which the input has come back to 95 % of its level before.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.sun.running_median import running_median

LEAST_DROP = 0.1
"""A fall by less than this share of the level before is no drop."""
RECOVERED = 0.95
EDGE_S = 12.0
"""Shade that is put on or taken off is there within so many seconds, or one sample."""
_WINDOW_S = 30.0
_LEAVES = 0.12
"""A floor is left when the share is this part of the drop above it."""
_ROUGH = 0.12
"""A floor that varies by more than this part of the drop is a cloud's."""
_SLOWEST_S = 3600.0
_NEAR_S = 90.0
_AT_ONCE = 512


@dataclass(frozen=True, kw_only=True)
class Drop:
    """One drop in a log.

    Attributes:
        first, last: samples: the first below, and the last on the floor.
        back: the sample at which 95 % of the level before is reached again; None where it is not.
        before, floor: shares of what the sun allows.
    """

    first: int
    last: int
    back: int | None
    before: float
    floor: float


def find_drops(
    time_s: FloatArray, share: FloatArray, power_w: FloatArray, *, rough: bool
) -> list[Drop]:
    """Drops in the share of what the sun allows.

    Args:
        time_s, share, power_w: (n,) s, shares and W, finite.
        rough: whether clouds are still in the share, so that only a flat floor counts.
    """
    if share.size < 5:
        return []
    interval = float(np.median(np.diff(time_s)))
    step = max(1, round(EDGE_S / interval))
    size = max(3, round(_WINDOW_S / interval)) | 1
    middle = running_median(share, size)
    half = size // 2
    noise = 1.4826 * float(np.median(np.abs(np.diff(share)))) / np.sqrt(2)
    before = middle[np.maximum(np.arange(share.size) - half, 0)]
    ahead = np.minimum(np.arange(share.size) + step + half, share.size - 1)
    fall = before - middle[ahead]
    steep = np.flatnonzero((fall > LEAST_DROP * before) & (fall > 6 * noise) & (before > 0.05))
    walked = _Walked(time_s, share, interval)
    found: list[Drop] = []
    next_free = 0
    for edge in np.split(steep, np.flatnonzero(np.diff(steep) > 1) + 1):
        ahead_of = edge[edge >= next_free]
        if ahead_of.size == 0:
            continue
        at = int(ahead_of[np.argmax(fall[ahead_of])])
        drop = _follow(walked, (float(before[at]), float(middle[ahead[at]])), at, noise)
        if drop is None or not _falls(power_w, drop):
            continue
        if rough and not _is_flat(share, drop, noise):
            continue
        found.append(drop)
        next_free = drop.back if drop.back is not None else drop.last
    return found


class _Walked:
    """A share over time in which the next or the last sample of a kind is found by walking there.

    A day has thousands of passings, and none may look at the whole day again.
    """

    def __init__(self, time_s: FloatArray, share: FloatArray, interval_s: float) -> None:
        self.time_s, self.share, self.interval_s = time_s, share, interval_s
        self._highest_after = np.maximum.accumulate(share[::-1])[::-1]
        self._lowest_after = np.minimum.accumulate(share[::-1])[::-1]

    def next_above(self, start: int, level: float) -> int | None:
        """The first sample from here on at this level or above; None where none comes."""
        if start >= self.share.size or self._highest_after[start] < level:
            return None
        return self._next(start, lambda part: part >= level)

    def next_below(self, start: int, level: float) -> int | None:
        """The first sample from here on at this level or below; None where none comes."""
        if start >= self.share.size or self._lowest_after[start] > level:
            return None
        return self._next(start, lambda part: part <= level)

    def last_above(self, end: int, level: float) -> int | None:
        """The last sample before ``end`` at this level or above; None where there is none."""
        while end > 0:
            begin = max(end - _AT_ONCE, 0)
            found = np.flatnonzero(self.share[begin:end] >= level)
            if found.size:
                return begin + int(found[-1])
            end = begin
        return None

    def _next(self, start: int, fits: Callable[[FloatArray], NDArray[np.bool_]]) -> int | None:
        for begin in range(start, self.share.size, _AT_ONCE):
            found = fits(self.share[begin : begin + _AT_ONCE])
            if found.any():
                return begin + int(found.argmax())
        return None


def _follow(walked: _Walked, levels: tuple[float, float], at: int, noise: float) -> Drop | None:
    """From the edge along the floor to the way back."""
    time_s, share = walked.time_s, walked.share
    before, floor = levels
    deep = before - floor
    low = floor + max(_LEAVES * deep, 4 * noise)
    high = before - 0.3 * deep
    # The edge: from the last sample still above to the first one on the floor.
    on_floor = walked.next_below(at, low)
    if on_floor is None:
        return None
    above = walked.last_above(on_floor, high)
    first = above + 1 if above is not None else on_floor
    if time_s[on_floor] - time_s[first] > max(EDGE_S, 1.5 * walked.interval_s):
        return None
    back, last = _way_back(walked, on_floor, RECOVERED * before, low)
    if back is not None:
        last = _leaves(time_s, share, (on_floor, last), low, max(0.02 * deep, 2.5 * noise))
    return Drop(first=first, last=last, back=back, before=before, floor=floor)


def _way_back(
    walked: _Walked, on_floor: int, recovered: float, low: float
) -> tuple[int | None, int]:
    """The first sample back at the level before, and the last low one before it.

    Without a way back: None, and the end of the first stretch on the floor.
    """
    time_s, share = walked.time_s, walked.share
    back = walked.next_above(on_floor, recovered)
    if back is not None:
        lows = np.flatnonzero(share[on_floor:back] <= low)
        last = on_floor + int(lows[-1]) if lows.size else on_floor
        if time_s[back] - time_s[last] <= _SLOWEST_S:
            return back, last
    rises = walked.next_above(on_floor, float(np.nextafter(low, np.inf)))
    return None, rises - 1 if rises is not None else int(share.size - 1)


def _leaves(
    time_s: FloatArray, share: FloatArray, floor: tuple[int, int], low: float, band: float
) -> int:
    """The last sample that is still on the floor: a slow tracker creeps up from there."""
    start, last = floor
    near = slice(max(start, int(np.searchsorted(time_s, time_s[last] - _NEAR_S))), last + 1)
    level = float(np.median(share[near]))
    still = np.flatnonzero(share[start : last + 1] <= min(level + band, low))
    return start + int(still[-1]) if still.size else last


def _falls(power_w: FloatArray, drop: Drop) -> bool:
    """Whether the power itself falls, and rises again at the way back.

    When the light comes back and the tracker lags behind it, the share falls but the power does
    not; when a cloud comes over a battery that is nearly full, the share rises and the power does
    not.
    """
    relative = 1 - drop.floor / drop.before
    before = power_w[max(drop.first - 1, 0)]
    after = float(np.median(power_w[drop.first : drop.last + 1]))
    falls = after < before * (1 - 0.5 * relative)
    rises = drop.back is None or power_w[drop.back] * (1 - 0.5 * relative) > after
    return bool(falls and rises)


def _is_flat(share: FloatArray, drop: Drop, noise: float) -> bool:
    """Whether the floor is one level and long enough to be measured."""
    inside = share[drop.first + 1 : drop.last + 1]
    if inside.size < 3:
        return False
    spread = float(np.percentile(inside, 95) - np.percentile(inside, 5))
    return spread <= max(_ROUGH * (drop.before - drop.floor), 5 * noise)
