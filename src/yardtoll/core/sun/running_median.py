"""Running medians of a log: SciPy's for long logs, ours where its loading would take longer."""

from bisect import bisect_left, insort

import numpy as np

from yardtoll.core.electrical.trace import FloatArray

_LONG = 100_000


def running_median(values: FloatArray, size: int) -> FloatArray:
    """(n,) the median of the ``size`` values around each; the ends are held beyond the log.

    Args:
        values: (n,) finite.
        size: odd.
    """
    if values.size > _LONG:
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
