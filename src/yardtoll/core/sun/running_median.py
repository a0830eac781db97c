"""Running medians of a log: SciPy's for long logs, ours where its loading would take longer."""

import sys
from bisect import bisect_left, insort

import numpy as np

from yardtoll.core.electrical.trace import FloatArray

_LONG, _SCIPY = 100_000, "scipy.ndimage"


def running_median(values: FloatArray, size: int) -> FloatArray:
    """(n,) the median of the ``size`` values around each; the ends are held beyond the log.

    Args:
        values: (n,) finite.
        size: odd.
    """
    # Loaded already it is always the faster one; both give the same.
    if values.size > _LONG or _SCIPY in sys.modules:
        return by_scipy(values, size)
    return by_sorted_window(values, size)


def by_scipy(values: FloatArray, size: int) -> FloatArray:
    """The same, half a second of loading at the first call."""
    from scipy.ndimage import median_filter

    return np.asarray(median_filter(values, size=size, mode="nearest"))


def by_sorted_window(values: FloatArray, size: int) -> FloatArray:
    """The same, a microsecond or two for each value: the window is kept sorted as it moves."""
    middle = size // 2
    held = np.pad(np.asarray(values, dtype=float), middle, mode="edge").tolist()
    window = sorted(held[:size])
    medians = [window[middle]]
    for leaving, entering in zip(held, held[size:], strict=False):
        del window[bisect_left(window, leaving)]
        insort(window, entering)
        medians.append(window[middle])
    return np.array(medians)
