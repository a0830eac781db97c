"""Times in cells of one width, read digit by digit for all cells at once.

A meter writes a million times in the same shape. Where all cells have it they are read as an array
of bytes, many times faster than one by one; where one has another shape nothing is read here.
"""

import re
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
    found = _taken_apart(cells, _ISO)
    if found is None:
        return None
    table, shape = found
    days = _days(table, shape)
    us = _clock_us(table, shape, 4)
    if days is None or us is None:
        return None
    offset = shape[8]
    shift_us = 0
    if offset:
        begin = shape.span(8)[0]
        if (table[:, begin:] != table[0, begin:]).any():
            return None
        shift_us = _offset_us(offset)
    ends = [*(start for start, _ in days[1:]), us.size]
    for (start, day), end in zip(days, ends, strict=True):
        us[start:end] += day * _DAY_US - shift_us
    return us, offset is not None


def clock_us(cells: pl.Series) -> Digits | None:
    """Microseconds of h:mm:ss, of the cells that are there; None where one has another shape."""
    first = _first(cells)
    if first is None or _CLOCK.fullmatch(first) is None:
        return None
    widest = int(cells.str.len_bytes().max() or 0)  # type: ignore[arg-type]
    if widest > _WIDEST:
        return None
    found = _taken_apart(cells.str.pad_start(widest, "0"), _CLOCK)
    if found is None:
        return None
    return _clock_us(*found, 1)


def _first(cells: pl.Series) -> str | None:
    index = cells.is_not_null().arg_max()
    return str(cells[index]) if index is not None and cells[index] is not None else None


def _taken_apart(
    cells: pl.Series, pattern: re.Pattern[str]
) -> tuple[NDArray[np.uint8], re.Match[str]] | None:
    """(n, width) bytes of the cells that are there, and the first one's parts."""
    first = _first(cells)
    shape = pattern.fullmatch(first) if first is not None else None
    if first is None or shape is None:
        return None
    there = cells.drop_nulls()
    widths = there.str.len_bytes()
    if widths.min() != len(first) or widths.max() != len(first):
        return None
    text = there.str.join("").cast(pl.Binary).item()
    table = np.frombuffer(text, dtype=np.uint8).reshape(-1, len(first))
    # What is no digit in the first cell is the same in all; an offset is looked at by itself.
    offset = shape.start(8) if pattern is _ISO and shape[8] else len(first)
    fixed = [i for i, c in enumerate(first[:offset]) if not c.isdigit()]
    for start in range(0, table.shape[0], _ROWS):
        part = table[start : start + _ROWS]
        if any((part[:, i] != table[0, i]).any() for i in fixed):
            return None
    return table, shape


def _clock_us(table: NDArray[np.uint8], shape: re.Match[str], group: int) -> Digits | None:
    """Microseconds of the clock in these groups; None where a figure is none, or too large."""
    total = np.empty(table.shape[0], dtype=np.int64)
    spans = [shape.span(group + i) for i in range(4)]
    fraction = 10 ** (6 - len(shape[group + 3] or ""))
    for start in range(0, table.shape[0], _ROWS):
        part = table[start : start + _ROWS]
        hours, minutes, seconds, further = (_number(part, *span) for span in spans)
        if hours is None or minutes is None or seconds is None or further is None:
            return None
        if minutes.max() > 59 or seconds.max() > 59 or (group > 1 and hours.max() > 23):
            return None
        whole = ((hours * 60 + minutes) * 60 + seconds).astype(np.int64)
        total[start : start + _ROWS] = whole * 1_000_000 + further * fraction
    return total


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


def _days(table: NDArray[np.uint8], shape: re.Match[str]) -> list[tuple[int, int]] | None:
    """(first line, day since 1970): few dates in a log, each for a long stretch of lines."""
    written = np.ascontiguousarray(table[:, : shape.end(3)]).view(f"S{shape.end(3)}").ravel()
    changes = np.flatnonzero(written[1:] != written[:-1]) + 1
    starts = np.concatenate([[0], changes])
    if starts.size > max(table.shape[0] // 4, 64):
        return None
    found = []
    for start in starts:
        text = written[start].decode("ascii", "replace")
        try:
            found.append((int(start), date.fromisoformat(text).toordinal() - _1970))
        except ValueError:
            return None
    return found


def _offset_us(offset: str) -> int:
    if offset == "Z":
        return 0
    sign = -1 if offset[0] == "-" else 1
    return sign * (int(offset[1:3]) * 60 + int(offset[-2:])) * 60_000_000
