"""Cells to numbers: units in the cells, thousands separators, decimal commas, missing values."""

import re
from dataclasses import dataclass

import numpy as np
import polars as pl
from numpy.typing import NDArray

from yardtoll.core.electrical.quantities import NO_READING

_NUMBER = r"([+-]?\d[\d.,'\s\u{00a0}\u{202f}]*(?:[eE][+-]?\d+)?|[+-]?[.,]\d+(?:[eE][+-]?\d+)?)"
_CELL = rf"^\s*[~≈]?\s*{_NUMBER}\s*([^\d\s.,]*.*?)\s*$"
_WITH_UNIT = re.compile(r"([+-]?[\d.,]*\d)(\s*[^\d\s.,eE+-]\S{0,7}|)")
_SPACES = "[\\s'\u00a0\u202f]"
_SAMPLE = 2000

_PREFIXES = {"m": 1e-3, "k": 1e3, "K": 1e3, "M": 1e6}
_BASE_UNITS = ("Wh", "VAh", "Ah", "W", "VA", "V", "A", "Hz", "s")


@dataclass(frozen=True)
class NumberStyle:
    """Which character is the decimal mark in a log, and which parts thousands."""

    decimal: str = "."

    @property
    def thousands(self) -> str:
        """The other of the two."""
        return "," if self.decimal == "." else "."


def unit_scale(unit: str, base: str) -> float | None:
    """Factor from ``unit`` to the prefix-free ``base``: "kW" to "W" is 1000; None if no match."""
    unit = unit.strip().rstrip(".")
    if unit == base or unit.lower() == base.lower():
        return 1.0
    if len(unit) > 1 and unit[1:].lower() == base.lower():
        return _PREFIXES.get(unit[0])
    return None


def guess_style(columns: list[pl.Series], delimiter_is_comma: bool) -> NumberStyle:
    """One decimal mark for the whole log, by the cells that leave no doubt.

    Args:
        columns: text columns, all of them.
        delimiter_is_comma: a comma that parts cells is no decimal comma outside quotes.
    """
    votes = {".": 0, ",": 0}
    for column in columns:
        cells = column.head(_SAMPLE).drop_nulls().str.replace_all(_SPACES, "")
        for mark, other in ((".", ","), (",", ".")):
            m, o = (rf"\{mark}", rf"\{other}")
            certain = (
                rf"^[+-]?\d{{1,3}}(?:{o}\d{{3}})+{m}\d+\D*$",  # 1,234.5
                rf"^[+-]?0{m}\d+\D*$",  # 0.412
                rf"^[+-]?\d+{m}(?:\d{{1,2}}|\d{{4,}})(?:[^\d.,:/-].*)?$",  # 230.1
                rf"^[+-]?\d{{4,}}{m}\d+\D*$",  # 1234.567
                rf"^[+-]?{m}\d+\D*$",  # .5
            )
            votes[mark] += sum(int(cells.str.contains(p).sum()) for p in certain)
    if votes[","] > votes["."]:
        return NumberStyle(decimal=",")
    if votes["."] == votes[","] == 0 and not delimiter_is_comma:
        lone = any(
            c.head(_SAMPLE).drop_nulls().str.contains(r"^\s*[+-]?\d{1,3},\d{3}\s*$").any()
            for c in columns
        )
        return NumberStyle(decimal="," if lone else ".")
    return NumberStyle()


def to_numbers(column: pl.Series, style: NumberStyle, base_unit: str = "") -> NDArray[np.float64]:
    """(n,) float64 in ``base_unit``, NaN for cells that hold no number.

    Plain numbers go straight through; units and separators are looked at only where they occur.
    """
    if column.dtype.is_numeric():
        return _readings(np.asarray(column.cast(pl.Float64).to_numpy(), dtype=np.float64))
    if column.dtype != pl.String:
        column = column.cast(pl.String, strict=False)
    at_once = _written_alike(column, style, base_unit)
    if at_once is not None:
        return _readings(at_once)
    stripped = column.str.strip_chars()
    plain = stripped.cast(pl.Float64, strict=False)
    values = plain.to_numpy().astype(np.float64)
    left = np.flatnonzero((plain.is_null() & stripped.is_not_null() & (stripped != "")).to_numpy())
    # "1.234" casts as a plain number though it is a thousand where the decimal mark is a comma.
    if style.decimal == ",":
        dotted = stripped.str.contains(".", literal=True).fill_null(value=False).to_numpy()
        left = np.union1d(left, np.flatnonzero(dotted))
    if left.size:
        values = values.copy()
        values[left] = _parse_written(stripped.gather(left), style, base_unit)
    return _readings(values)


def _written_alike(
    column: pl.Series, style: NumberStyle, base_unit: str
) -> NDArray[np.float64] | None:
    """Numbers of cells that all end in the unit of the first one; None where some do not."""
    at = column.is_not_null().arg_max()
    first = column[at] if at is not None else None
    found = _WITH_UNIT.fullmatch(first) if isinstance(first, str) else None
    if found is None:
        return None
    unit = found[2]
    scale = _factor(unit.strip(), base_unit) if unit else 1.0
    if not np.isfinite(scale):
        return None
    values, start = np.empty(column.len()), 0
    # A chunk at a time: what is cut off and replaced in between then takes no memory of its own.
    for part in column.get_chunks():
        read = _without_unit(part, unit, style, may_lack_it=scale == 1.0)
        if read is None:
            return None
        values[start : start + read.size] = read
        start += read.size
    return values if scale == 1.0 else values * scale


def _without_unit(
    cells: pl.Series, unit: str, style: NumberStyle, *, may_lack_it: bool
) -> NDArray[np.float64] | None:
    """Numbers before one unit; None where a cell is written otherwise."""
    if unit:
        all_have_it = cells.str.ends_with(unit).all()
        # A cell without the unit is in the fixed one, whatever the others say.
        if not all_have_it and not may_lack_it:
            return None
        # To cut off so many signs is half the work of looking for the unit again.
        cut = cells.str.head(-len(unit)) if all_have_it else cells.str.strip_suffix(unit)
    else:
        cut = cells
    if style.decimal == ",":
        if cut.str.contains(".", literal=True).any():
            return None
        cut = cut.str.replace(",", ".", literal=True)
    plain = cut.cast(pl.Float64, strict=False)
    if plain.null_count() != cells.null_count():
        return None
    return np.asarray(plain.to_numpy(), dtype=np.float64)


def _readings(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """NaN where a meter logged that it had no reading."""
    if values.size and values.max() < NO_READING and values.min() > -NO_READING:
        return values
    return np.where(np.abs(values) < NO_READING, values, np.nan)


def first_known(values: NDArray[np.float64]) -> int | None:
    """Where the first finite one of (n,) values is, mostly at the start; None where none is."""
    for part in (values[:_SAMPLE], values):
        known = np.isfinite(part)
        if known.any():
            return int(known.argmax())
    return None


def how_many_missing(values: NDArray[np.float64]) -> int:
    """How many of (n,) values are not finite; their sum tells at once where all are."""
    return 0 if np.isfinite(np.sum(values)) else int(np.count_nonzero(~np.isfinite(values)))


def _parse_written(cells: pl.Series, style: NumberStyle, base_unit: str) -> NDArray[np.float64]:
    """Cells such as "1,234.5 W", "0,41 kW", "412W"."""
    number = (
        cells.str.extract(_CELL, 1)
        .str.replace_all(_SPACES, "")
        .str.replace_all(style.thousands, "", literal=True)
        .str.replace(style.decimal, ".", literal=True)
        .cast(pl.Float64, strict=False)
        .to_numpy()
        .astype(np.float64)
    )
    units = cells.str.extract(_CELL, 2).fill_null("")
    factor = {unit: _factor(unit, base_unit) for unit in units.unique().to_list()}
    scale = units.replace_strict(factor, return_dtype=pl.Float64).to_numpy()
    return np.asarray(number * scale, dtype=np.float64)


def _factor(unit: str, base_unit: str) -> float:
    """Scale for a unit found in a cell; NaN when the cell holds words instead of a unit."""
    if not unit or unit in ("%", "°C", "C", "°"):
        return 1.0
    if base_unit and (scale := unit_scale(unit, base_unit)) is not None:
        return scale
    if any(unit_scale(unit, base) is not None for base in _BASE_UNITS):
        # A known unit of another quantity: the column was mapped wrongly, so the cell is none.
        return float("nan") if base_unit else 1.0
    return float("nan")


def unit_in_cells(column: pl.Series) -> str | None:
    """The unit written in a column's cells ("412 W" → "W"), None where there is none."""
    if column.dtype != pl.String:
        return None
    units = column.head(_SAMPLE).drop_nulls().str.extract(_CELL, 2)
    found = units.filter(units.is_not_null() & (units != ""))
    if found.len() < max(1, column.head(_SAMPLE).drop_nulls().len() // 2):
        return None
    return str(found.mode()[0])
