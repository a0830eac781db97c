"""Times in cells of one width, read digit by digit for all cells at once.

A meter writes a million times in the same shape. Where all cells have it they are read as an array
of bytes, many times faster than one by one; where one has another shape nothing is read here.
"""

import re
from collections.abc import Iterator
from datetime import date

import numpy as np
import polars as pl
from numpy.typing import NDArray

_ISO = re.compile(
    r"(\d{4})-(\d{2})-(\d{2})[T ](\d{2}):(\d{2}):(\d{2})(?:\.(\d{1,6}))?(Z|[+-]\d{2}:?\d{2})?"
)
_CLOCK = re.compile(r"(\d{1,6}):(\d{2}):(\d{2})(?:\.(\d{1,6}))?")
_DAY_US = 86_400_000_000
_1970 = date(1970, 1, 1).toordinal()
_WIDEST = 40
_ROWS = 16_384
"""So many at a time stay in the processor's cache."""

Digits = NDArray[np.int64]


def iso_us(cells: pl.Series) -> tuple[Digits, bool] | None:
    """Microseconds since 1970 of ISO 8601 dates with times, of the cells that are there.

    Returns:
        The times, and whether they have an offset and so are UTC; None where a cell has another
        shape than the first, or another offset.
    """
    there = cells.drop_nulls()
    shape = _shape_of_all(there, _ISO)
    if shape is None:
        return None
    offset = shape[8]
    shift_us = _offset_us(offset) if offset else 0
    us = np.empty(there.len(), dtype=np.int64)
    for start, part in _parts(there, shape):
        clock, days = _clock_us(part, shape, 4), _days(part, shape.end(3))
        if clock is None or days is None:
            return None
        clock += days * _DAY_US - shift_us
        us[start : start + clock.size] = clock
    return us, offset is not None


def clock_us(cells: pl.Series) -> Digits | None:
    """Microseconds of h:mm:ss, of the cells that are there; None where one has another shape."""
    there = cells.drop_nulls()
    if there.is_empty() or _CLOCK.fullmatch(there[0]) is None:
        return None
    widest = int(there.str.len_bytes().max() or 0)  # type: ignore[arg-type]
    if widest > _WIDEST:
        return None
    padded = there.str.pad_start(widest, "0")
    shape = _shape_of_all(padded, _CLOCK)
    if shape is None:
        return None
    us = np.empty(padded.len(), dtype=np.int64)
    for start, part in _parts(padded, shape):
        clock = _clock_us(part, shape, 1)
        if clock is None:
            return None
        us[start : start + clock.size] = clock
    return us


def _shape_of_all(there: pl.Series, pattern: re.Pattern[str]) -> re.Match[str] | None:
    """The first cell's parts, where all have its width."""
    shape = pattern.fullmatch(there[0]) if there.len() else None
    if shape is None:
        return None
    widths = there.str.len_bytes()
    return shape if widths.min() == widths.max() == len(shape.string) else None


def _parts(there: pl.Series, shape: re.Match[str]) -> Iterator[tuple[int, NDArray[np.uint8]]]:
    """Of some lines at a time the first one's number, and their (n, width) bytes.

    It ends early where a cell has not the first one's signs and offset: of those no bytes come.
    """
    first = shape.string.encode()
    # What is no digit in the first cell is the same in all, and so is all of an offset.
    offset = shape.start(8) if shape.re is _ISO and shape[8] else len(first)
    fixed = [i for i, sign in enumerate(first) if i >= offset or not chr(sign).isdigit()]
    for start in range(0, there.len(), _ROWS):
        text = there.slice(start, _ROWS).str.join("").cast(pl.Binary).item()
        part = np.frombuffer(text, dtype=np.uint8).reshape(-1, len(first))
        if any((part[:, i] != first[i]).any() for i in fixed):
            part = part[:0]
        yield start, part


def _clock_us(part: NDArray[np.uint8], shape: re.Match[str], group: int) -> Digits | None:
    """Microseconds of the clock in these groups; None where a figure is none, or too large."""
    if part.shape[0] == 0:
        return None
    spans = [shape.span(group + i) for i in range(4)]
    fraction = 10 ** (6 - len(shape[group + 3] or ""))
    hours, minutes, seconds, further = (_number(part, *span) for span in spans)
    if hours is None or minutes is None or seconds is None or further is None:
        return None
    if minutes.max() > 59 or seconds.max() > 59 or (group > 1 and hours.max() > 23):
        return None
    whole = ((hours * 60 + minutes) * 60 + seconds).astype(np.int64)
    return np.asarray(whole * 1_000_000 + further * fraction)


def _number(part: NDArray[np.uint8], first: int, last: int) -> NDArray[np.int32] | None:
    """The figures of some columns of bytes; 0 of no columns; None where one is no digit."""
    total = np.zeros(part.shape[0], dtype=np.int32)
    for column in range(first, last):
        digit = part[:, column] - np.uint8(ord("0"))  # what is below "0" comes out above 9
        if digit.max() > 9:
            return None
        total *= 10
        total += digit
    return total


def _days(part: NDArray[np.uint8], width: int) -> Digits | None:
    """Days since 1970, of all lines or of each: most parts of a log are of one day."""
    if part.shape[0] == 0:
        return None
    dates = part[:, :width]
    changes = np.empty(0, dtype=np.intp)
    if (dates != dates[0]).any():
        written = np.ascontiguousarray(dates).view(f"S{width}").ravel()
        changes = np.flatnonzero(written[1:] != written[:-1]) + 1
    starts = np.concatenate([[0], changes])
    if starts.size > max(part.shape[0] // 4, 64):
        return None
    found = []
    for start in starts:
        text = dates[start].tobytes().decode("ascii", "replace")
        try:
            found.append(date.fromisoformat(text).toordinal() - _1970)
        except ValueError:
            return None
    days = np.array(found, dtype=np.int64)
    if days.size == 1:
        return days
    return np.repeat(days, np.diff(np.append(starts, part.shape[0])))


def _offset_us(offset: str) -> int:
    if offset == "Z":
        return 0
    sign = -1 if offset[0] == "-" else 1
    return sign * (int(offset[1:3]) * 60 + int(offset[-2:])) * 60_000_000
