"""From a meter's log to a trace: table → mapping → numbers and times → cleaned samples."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from zoneinfo import ZoneInfo

import numpy as np
import polars as pl

from yardtoll.core.electrical.quantities import QUANTITIES, Quantity
from yardtoll.core.electrical.timebase import CleanTime, clean_time
from yardtoll.core.electrical.trace import Code, FloatArray, Notice, Trace
from yardtoll.core.formatting import quoted
from yardtoll.store.errors import LogError, MappingError, UnsureColumnsError
from yardtoll.store.logs.columns import (
    DATE,
    TIME,
    ColumnMapping,
    bears_energy,
    guess_mapping,
    is_fahrenheit,
    override,
    scale_to_base,
)
from yardtoll.store.logs.numbers import (
    NumberStyle,
    first_known,
    guess_style,
    how_many_missing,
    to_numbers,
    unit_in_cells,
)
from yardtoll.store.logs.table import LogTable, read_table
from yardtoll.store.logs.times import RawTimes, to_seconds

Progress = Callable[[str], None]
"""Told what is being done; may raise to stop the reading."""

_ENERGY_BEARING = (Quantity.POWER, Quantity.ENERGY)
HIGHEST_DC_V = 60.0
"""Below this mean volts a log is taken to be of a DC port."""


@dataclass(frozen=True)
class OpenLog:
    """A log read as a table, with the mapping that was guessed for it."""

    table: LogTable
    style: NumberStyle
    guess: ColumnMapping = field(default_factory=dict)

    @property
    def name(self) -> str:
        """The file's name."""
        return self.table.path.name


def open_log(path: Path, progress: Progress = lambda _: None) -> OpenLog:
    """Read a log's cells and guess its columns.

    Raises:
        LogError: the file cannot be read as a log.
    """
    progress("Reading the file")
    table = read_table(path, progress)
    progress("Guessing the columns")
    text = [c for c in table.frame.get_columns() if c.dtype == pl.String]
    style = (
        NumberStyle(decimal=",")
        if table.decimal_comma
        else guess_style(text, table.delimiter == ",")
    )
    return OpenLog(table, style, guess_mapping(table.frame, style, named=table.named))


@dataclass(frozen=True, kw_only=True)
class PowerFromVoltsAmps:
    """How watts are had from volts and amps where a log holds neither power nor energy.

    Attributes:
        dc: the log is of a DC port, where volts times amps are watts.
        power_factor: of the load on AC; None where it is not known.
    """

    dc: bool = False
    power_factor: float | None = None


def read_log(
    path: Path,
    *,
    chosen: Mapping[str, str] | None = None,
    zone: ZoneInfo | None = None,
    derived: PowerFromVoltsAmps = PowerFromVoltsAmps(),
) -> Trace:
    """Read a log straight into a trace, by the guessed mapping and the user's overrides.

    Raises:
        LogError: the file cannot be read, or no header and no unit says which column is power.
        MappingError: ``chosen`` names a column or purpose that is not there.
    """
    log = open_log(path)
    mapping = override(log.guess, chosen or {}, log.table.frame, log.name)
    bearing = [mapping[q] for q in (*_ENERGY_BEARING, Quantity.VOLTS) if q in mapping]
    if bearing and not any(mapped.sure for mapped in bearing):
        names = ", ".join(quoted(name) for name in log.table.frame.columns[:8])
        raise UnsureColumnsError(
            f"{log.name}, {log.table.line_of(0)}: no header and no unit says which of the columns "
            f"{names} is power"
        )
    return to_trace(log, mapping, zone, derived=derived)


def to_trace(
    log: OpenLog,
    mapping: ColumnMapping,
    zone: ZoneInfo | None = None,
    progress: Progress = lambda _: None,
    derived: PowerFromVoltsAmps = PowerFromVoltsAmps(),
) -> Trace:
    """A trace from an open log by a mapping.

    Raises:
        LogError: no usable column, or no time.
        MappingError: a mapped column holds no numbers.
    """
    progress("Reading times")
    times = times_of(log, mapping, zone)
    progress("Reading numbers")
    columns = {
        Quantity(purpose): numbers_of(log, purpose, mapping)
        for purpose in mapping
        if purpose not in (TIME, DATE)
    }
    worked_out = _derive_power(log.name, columns, derived)
    if not any(quantity in columns for quantity in _ENERGY_BEARING):
        raise LogError(_nothing_usable(log, mapping))
    progress("Putting the samples in order")
    seconds, kept = times.seconds, None
    if how_many_missing(seconds):
        kept = np.flatnonzero(np.isfinite(seconds))
        if kept.size == 0:
            raise LogError(f'{log.name}: the time column "{mapping[TIME].column}" is empty')
    clean = clean_time(seconds if kept is None else seconds[kept])
    missing = 0 if kept is None else int(seconds.size - kept.size)
    if clean.keep is not None:
        kept = clean.keep if kept is None else kept[clean.keep]
    if kept is not None:
        seconds = seconds[kept]
        of_kept = {quantity: values[kept] for quantity, values in columns.items()}
    else:
        of_kept = columns
    return Trace(
        name=log.name,
        time_s=clean.time_s,
        columns=of_kept,
        clock_s=float(seconds[0]) if times.basis is not None else None,
        clock_basis=times.basis,
        notices=(*_notices(log.name, clean, columns, missing), *worked_out),
    )


def times_of(log: OpenLog, mapping: ColumnMapping, zone: ZoneInfo | None) -> RawTimes:
    """The time column in seconds, joined with the date column where there is one."""
    if TIME not in mapping:
        names = ", ".join(quoted(name) for name in log.table.frame.columns[:8])
        raise LogError(
            f"{log.name}, {log.table.line_of(0)}: no column of times was found among {names}; "
            "name it with time=COLUMN"
        )
    mapped = mapping[TIME]
    column = log.table.frame[mapped.column]
    if DATE in mapping:
        dates = log.table.frame[mapping[DATE].column].cast(pl.String)
        column = (dates.str.strip_chars() + " " + column.cast(pl.String).str.strip_chars()).alias(
            mapped.column
        )
    try:
        return to_seconds(column, unit=mapped.unit, style=log.style, zone=zone)
    except LogError as error:
        raise LogError(f"{log.name}, {log.table.line_of(0)}: {error}") from None


def numbers_of(log: OpenLog, purpose: str, mapping: ColumnMapping) -> FloatArray:
    """One column in its quantity's fixed unit."""
    mapped = mapping[purpose]
    base = QUANTITIES[Quantity(purpose)].unit
    column = log.table.frame[mapped.column]
    in_cells = to_numbers(column, log.style, base)
    if first_known(in_cells) is None:
        raise MappingError(
            f"{log.name}, {log.table.line_of(0)}: "
            f"the {QUANTITIES[Quantity(purpose)].label.lower()} "
            f"column {quoted(mapped.column)} holds no number in any of its {column.len()} lines"
        )
    if is_fahrenheit(purpose, mapped.unit):
        return np.asarray((in_cells - 32.0) / 1.8)
    if _cells_carry_units(column):
        return in_cells
    scale = scale_to_base(purpose, mapped.unit)
    return in_cells if scale == 1.0 else np.asarray(in_cells * scale)


def _cells_carry_units(column: pl.Series) -> bool:
    """Whether cells name their unit themselves, so that the header's must not scale them again."""
    return unit_in_cells(column) is not None


def _derive_power(
    name: str, columns: dict[Quantity, FloatArray], derived: PowerFromVoltsAmps
) -> list[Notice]:
    """W = V·A (·PF) where a log has neither power nor an energy counter.

    On AC volts times amps without a power factor are apparent power, and that is said.
    """
    if Quantity.POWER in columns or Quantity.ENERGY in columns:
        return []
    if Quantity.VOLTS not in columns or Quantity.AMPS not in columns:
        return []
    volts, amps = columns[Quantity.VOLTS], columns[Quantity.AMPS]
    factor = columns.get(Quantity.POWER_FACTOR)
    known = volts[np.isfinite(volts)]
    is_dc = derived.dc or (known.size > 0 and float(np.mean(np.abs(known))) < HIGHEST_DC_V)
    if is_dc:
        columns[Quantity.POWER] = np.asarray(volts * amps)
        return []
    if factor is None and derived.power_factor is not None:
        factor = np.full_like(volts, derived.power_factor)
        columns[Quantity.POWER_FACTOR] = factor
    columns[Quantity.POWER] = np.asarray(volts * amps * (1.0 if factor is None else factor))
    if factor is not None:
        return []
    message = (
        f"{name}: watts were worked out as volts times amps without a power factor: apparent "
        "power, which is more than the watts where the load is not resistive"
    )
    return [Notice(code=Code.VOLTS_AMPS_WITHOUT_PF, message=message)]


def _nothing_usable(log: OpenLog, mapping: ColumnMapping) -> str:
    """Why no energy can be had from this log, naming the line and the column."""
    frame, line = log.table.frame, log.table.line_of(0)
    taken = {mapped.column for mapped in mapping.values()}
    for name in frame.columns:
        if name not in taken and bears_energy(name):
            return (
                f"{log.name}, {line}: the column {quoted(name)} holds no number in any of its "
                f"{frame.height} lines, and there is no other to get energy from"
            )
    names = ", ".join(quoted(name) for name in frame.columns[:8])
    return (
        f"{log.name}, {line}: none of the columns {names} holds power, an energy counter, or "
        "volts and amps; name one with power=COLUMN or energy=COLUMN"
    )


def _notices(
    name: str, clean: CleanTime, columns: Mapping[Quantity, FloatArray], times_missing: int
) -> list[Notice]:
    """What had to be repaired, in words."""
    notices = []
    missing = {quantity: how_many_missing(values) for quantity, values in columns.items()}
    parts = [f"{n} in {QUANTITIES[q].label.lower()}" for q, n in missing.items() if n]
    if times_missing:
        parts.append(f"{times_missing} in time")
    if parts:
        notices.append(
            Notice(
                code=Code.MISSING_VALUES,
                message=f"{name}: missing values were left out: {', '.join(parts)}",
            )
        )
    if clean.repaired:
        repaired = []
        if clean.duplicates:
            repaired.append(f"{clean.duplicates} repeated times (the later line is used)")
        if clean.spread:
            repaired.append(f"{clean.spread} lines sharing a stamp were spread over it")
        if clean.steps_back:
            times = "once" if clean.steps_back == 1 else f"{clean.steps_back} times"
            repaired.append(f"the clock stepped back {times} (the file's order was trusted)")
        message = f"{name}: {'; '.join(repaired)}"
        notices.append(Notice(code=Code.TIME_NOT_MONOTONIC, message=message))
    return notices


def mapped_columns(mapping: ColumnMapping) -> dict[str, str]:
    """Purpose → column name, as the user would write it."""
    return {purpose: mapped.column for purpose, mapped in mapping.items()}
