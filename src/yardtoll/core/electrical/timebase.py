"""Making raw timestamps into a rising time axis, and finding the gaps in it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yardtoll.core.electrical.medians import median
from yardtoll.core.electrical.parts import differences, step_parts
from yardtoll.core.electrical.trace import FloatArray

GAP_INTERVALS = 5.0
"""A gap is longer than this many median intervals … (common practice, no source)."""
GAP_FLOOR_S = 10.0
"""… and longer than this many seconds."""
HALF_A_DAY_S = 43_200.0
DAY_S = 86_400.0
_LOOKED_AT, _STEPS_LOOKED_AT = 50_000, 10_000


@dataclass(frozen=True, kw_only=True)
class CleanTime:
    """A rising time axis made from raw timestamps.

    Attributes:
        time_s: (m,) s from the first kept sample, strictly rising.
        keep: (m,) indices into the raw samples; None where all are kept.
        duplicates: samples that repeated the time before them and gave way to the later line.
        spread: samples that shared a whole second (or minute) and were spread over it.
        steps_back: places where the clock went back and the file's order was trusted.
    """

    time_s: FloatArray
    keep: NDArray[np.intp] | None
    duplicates: int
    spread: int
    steps_back: int

    @property
    def repaired(self) -> bool:
        """Whether anything had to be changed."""
        return bool(self.duplicates or self.spread or self.steps_back)


def clean_time(raw_s: FloatArray) -> CleanTime:
    """Make raw timestamps rise strictly.

    Lines that share a coarse stamp are spread over it when that is the rule in the log; otherwise
    the later of two lines with one time is kept. Where the clock steps back the file's order is
    trusted and later samples follow on at the median interval.

    Args:
        raw_s: (n,) s, finite, n ≥ 1, in the file's order.
    """
    if np.all(raw_s[1:] > raw_s[:-1]):  # nearly every log
        time_s = raw_s - raw_s[0] if raw_s[0] else raw_s
        return CleanTime(time_s=time_s, keep=None, duplicates=0, spread=0, steps_back=0)
    spread_s, spread = _spread_coarse_stamps(raw_s)
    # The later of equal neighbours stands: keep a sample when the next one differs.
    keep = np.flatnonzero(np.append(np.diff(spread_s) != 0, True))
    time_s, steps_back = _undo_steps_back(spread_s[keep])
    return CleanTime(
        time_s=time_s - time_s[0],
        keep=keep,
        duplicates=int(raw_s.size - keep.size),
        spread=spread,
        steps_back=steps_back,
    )


def unwrap_midnight(clock_s: FloatArray) -> FloatArray:
    """Add a day each time a time of day falls back by more than half a day; (n,) s in and out."""
    days = np.concatenate([[0.0], np.cumsum(np.diff(clock_s) < -HALF_A_DAY_S)])
    return np.asarray(clock_s + DAY_S * days)


@dataclass(frozen=True, kw_only=True)
class Sampling:
    """How a time axis is sampled; worked out once, for a day at 10 Hz takes its time.

    Attributes:
        interval_s: median distance between samples; 0 for a single sample.
        gap_starts: indices i where the step from sample i to i + 1 is a gap.
    """

    interval_s: float
    gap_starts: NDArray[np.intp]


def thinned(values: FloatArray) -> FloatArray:
    """Each n-th of many values: at least 50 000 where there are as many, else all of them.

    They give a median or a high level as well as all of them do, and sorting a million is slow.
    """
    return values[:: max(1, values.size // _LOOKED_AT)]


def thinned_above(values: FloatArray, limit: float) -> FloatArray:
    """The same of the values above a limit: each n-th of all, so dense that enough are above."""
    looked_at = thinned(values)
    above = looked_at[looked_at > limit]
    if 2 * above.size >= looked_at.size:
        return above
    seen = values[:: max(1, int(np.count_nonzero(values > limit)) // _LOOKED_AT)]
    return seen[seen > limit]


def usual_step_s(time_s: FloatArray) -> float:
    """The median distance between (n,) samples, of many of them; 0 for fewer than two."""
    steps = time_s.size - 1
    if steps < 1:
        return 0.0
    every = max(1, steps // _STEPS_LOOKED_AT)
    return median(time_s[1::every] - time_s[:-1:every])


def sampling_of(time_s: FloatArray) -> Sampling:
    """The sampling of (n,) rising s."""
    interval_s = usual_step_s(time_s)
    limit_s = max(GAP_INTERVALS * interval_s, GAP_FLOOR_S)
    gaps = [np.empty(0, dtype=np.intp)]
    for part, _ in step_parts(time_s.size):
        steps = differences(time_s[part])
        if steps.max() > limit_s:
            gaps.append(np.flatnonzero(steps > limit_s) + part.start)
    return Sampling(interval_s=interval_s, gap_starts=np.concatenate(gaps))


def _spread_coarse_stamps(raw_s: FloatArray) -> tuple[FloatArray, int]:
    """Spread lines that share a whole second or minute, when most stamps are shared."""
    if raw_s.size < 4 or np.any(raw_s != np.floor(raw_s)):
        return raw_s, 0
    width_s = 60.0 if np.all(raw_s % 60 == 0) else 1.0
    first = np.flatnonzero(np.concatenate([[True], np.diff(raw_s) != 0]))
    count = np.diff(np.append(first, raw_s.size))
    if 2 * np.count_nonzero(count > 1) < count.size or count.size < 2:
        return raw_s, 0
    group = np.repeat(np.arange(count.size), count)
    within = np.arange(raw_s.size) - first[group]
    return np.asarray(raw_s + width_s * within / count[group]), int(np.sum(count[count > 1]))


def _undo_steps_back(time_s: FloatArray) -> tuple[FloatArray, int]:
    """Shift every stretch after a backward step so that it follows on at the median interval."""
    steps = np.diff(time_s)
    back = steps < 0
    if not back.any():
        return time_s, 0
    forward = steps[steps > 0]
    steps[back] = median(forward) if forward.size else 1.0
    return np.concatenate([[0.0], np.cumsum(steps)]), int(np.count_nonzero(back))
