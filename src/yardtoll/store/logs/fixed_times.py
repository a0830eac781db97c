"""Times in cells of one width, read for all cells at once."""

import re
from datetime import date

import numpy as np
import polars as pl
from numpy.typing import NDArray

from yardtoll.store.logs.fixed_width import Signs, filled_up, number_of, parts, signs_of, widths

_ISO = re.compile(
    r"(\d{4})-(\d{2})-(\d{2})[T ](\d{2}):(\d{2}):(\d{2})(?:\.(\d{1,6}))?(Z|[+-]\d{2}:?\d{2})?",
    re.ASCII,
)
_CLOCK = re.compile(r"(\d{1,6}):(\d{2}):(\d{2})(?:\.(\d{1,6}))?", re.ASCII)
_DAY_US = 86_400_000_000
_1970 = date(1970, 1, 1).toordinal()

Digits = NDArray[np.int64]


def iso_us(cells: pl.Series) -> tuple[Digits, bool] | None:
    """Microseconds since 1970 of ISO 8601 dates with times, of the cells that are there.

    Returns:
        The times, and whether they have an offset and so are UTC; None where a cell has another
        shape than the first, or another offset.
    """
    there = cells.drop_nulls()
    shape = _ISO.fullmatch(there[0]) if there.len() else None
    if shape is None:
        return None
    offset = shape[8]
    shift_us = _offset_us(offset) if offset else 0
    us = np.empty(there.len(), dtype=np.int64)
    for start, part in parts(there):
        if widths(part) != (shape.end(), shape.end()):
            return None
        signs = signs_of(part, shape.string, same_from=shape.start(8) if offset else None)
        clock = _clock_us(signs, shape, 4)
        days = None if clock is None else _days(signs[: shape.end(3)])
        if clock is None or days is None:
            return None
        us[start : start + clock.size] = clock + (days * _DAY_US - shift_us)
    return us, offset is not None


def clock_us(cells: pl.Series) -> Digits | None:
    """Microseconds of h:mm:ss, of the cells that are there; None where one has another shape."""
    there = cells.drop_nulls()
    if there.is_empty():
        return None
    us = np.empty(there.len(), dtype=np.int64)
    for start, part in parts(there):
        filled = filled_up(part)
        shape = None if filled is None else _CLOCK.fullmatch(filled[0])
        if filled is None or shape is None:
            return None
        clock = _clock_us(signs_of(filled, shape.string), shape, 1)
        if clock is None:
            return None
        us[start : start + clock.size] = clock
    return us


def _clock_us(signs: Signs, shape: re.Match[str], group: int) -> Digits | None:
    """Microseconds of the clock in these groups; None where there are no cells, or too large."""
    if signs.shape[1] == 0:
        return None
    hours, minutes, seconds, further = (
        number_of(signs[slice(*shape.span(group + i))]) for i in range(4)
    )
    if minutes.max() > 59 or seconds.max() > 59 or (group > 1 and hours.max() > 23):
        return None
    whole = hours.astype(np.int64) * 3600 + (minutes.astype(np.int16) * np.int16(60) + seconds)
    whole *= 1_000_000
    if shape[group + 3]:
        whole += further.astype(np.int64) * 10 ** (6 - len(shape[group + 3]))
    return whole


def _days(dates: Signs) -> Digits | None:
    """Days since 1970 of (10, n) figures of dates, of all or of each: mostly of one day."""
    if dates.shape[1] == 0:
        return None
    starts = np.zeros(1, dtype=np.intp)
    if (dates != dates[:, :1]).any():
        changes = (dates[:, 1:] != dates[:, :-1]).any(axis=0)
        starts = np.append(starts, np.flatnonzero(changes) + 1)
    if starts.size > max(dates.shape[1] // 4, 64):
        return None
    found = []
    for start in starts:
        figures = "".join(map(str, dates[:, start]))
        year, month, day = int(figures[:4]), int(figures[5:7]), int(figures[8:])
        try:
            found.append(date(year, month, day).toordinal() - _1970)
        except ValueError:
            return None
    days = np.array(found, dtype=np.int64)
    if days.size == 1:
        return days
    return np.repeat(days, np.diff(np.append(starts, dates.shape[1])))


def _offset_us(offset: str) -> int:
    if offset == "Z":
        return 0
    sign = -1 if offset[0] == "-" else 1
    return sign * (int(offset[1:3]) * 60 + int(offset[-2:])) * 60_000_000
