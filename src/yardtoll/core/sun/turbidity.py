"""How hazy the air over a place is: Linke's turbidity, from the world's table that pvlib ships.

Source of the table: Remund et al., Worldwide Linke turbidity information, ISES Solar World
Congress 2003: a mean of each month for every twelfth of a degree, kept in twentieths.
"""

from functools import lru_cache
from typing import Any

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.sun.calendar import day_of_year, is_leap_year
from yardtoll.core.sun.position import pvlib_folder

_KEPT_IN = 20
_MONTH_DAYS = (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)


def turbidity(latitude: float, longitude: float, clock_s: FloatArray) -> FloatArray:
    """(n,) Linke turbidity at (n,) s since 1970, UTC, from day to day between the months' means."""
    monthly = np.asarray(_monthly(latitude, longitude))
    around = np.concatenate([monthly[-1:], monthly, monthly[:1]])
    day = day_of_year(clock_s)
    usual, leap = (np.interp(day, _middles(days), around) for days in (365, 366))
    return np.asarray(np.where(is_leap_year(clock_s), leap, usual))


@lru_cache(maxsize=64)
def _monthly(latitude: float, longitude: float) -> tuple[float, ...]:
    """Of January to December."""
    import h5py

    with h5py.File(f"{pvlib_folder()}/data/LinkeTurbidities.h5", "r") as file:
        table: Any = file["LinkeTurbidity"]
        row = _cell(latitude, 90.0, -90.0, table.shape[0])
        column = _cell(longitude, -180.0, 180.0, table.shape[1])
        return tuple(float(value) / _KEPT_IN for value in table[row, column])


def _cell(degrees: float, first: float, last: float, count: int) -> int:
    """The cell that holds a place, of those from one edge of the table to the other.

    Whole degrees lie just between two cells: which of them counts is as pvlib's own arithmetic has
    it, to the last bit, so that a figure of ours is the one that anybody gets with pvlib.
    """
    cells_a_degree = count / (last - first)
    middle_of_first = first + 1 / cells_a_degree / 2
    index = (degrees - middle_of_first) * cells_a_degree
    return min(max(int(np.around(index)), 0), count - 1)


def _middles(days: int) -> FloatArray:
    """(14,) day of the year of each month's middle, with the December before and January after."""
    lengths = np.array(_MONTH_DAYS, dtype=float)
    lengths[1] += days - 365
    ends = np.cumsum(lengths)
    return np.concatenate([[-_MONTH_DAYS[-1] / 2], ends - lengths / 2, [days + _MONTH_DAYS[0] / 2]])
