"""Days of the year in universal time, for formulas that go by them."""

import numpy as np

from yardtoll.core.electrical.trace import FloatArray


def day_of_year(clock_s: FloatArray) -> FloatArray:
    """(n,) 1 on the first of January, at (n,) s since 1970, UTC."""
    days = _days(clock_s)
    since = days - days.astype("datetime64[Y]").astype("datetime64[D]")
    return np.asarray(since.astype(np.float64) + 1)


def is_leap_year(clock_s: FloatArray) -> np.ndarray:
    """(n,) whether the year has 366 days, at (n,) s since 1970, UTC."""
    year = _days(clock_s).astype("datetime64[Y]").astype(np.int64) + 1970
    return np.asarray((year % 4 == 0) & ((year % 100 != 0) | (year % 400 == 0)))


def _days(clock_s: FloatArray) -> np.ndarray:
    return np.floor(np.asarray(clock_s) / 86400).astype("datetime64[D]")
