"""Cells to seconds: elapsed time, time of day, and dates in the shapes meters write."""

from dataclasses import dataclass
from itertools import pairwise
from zoneinfo import ZoneInfo

import numpy as np
import polars as pl
from numpy.typing import NDArray

from yardtoll.core.electrical.timebase import unwrap_midnight
from yardtoll.core.electrical.trace import ClockBasis
from yardtoll.core.formatting import quoted
from yardtoll.store.errors import LogError
from yardtoll.store.logs.fixed_times import clock_us, iso_us
from yardtoll.store.logs.numbers import NumberStyle, first_known, to_numbers, unit_in_cells

FloatArray = NDArray[np.float64]

_SAMPLE = 1000
_EPOCH_S = 1e9
_EPOCH_MS = 1e12
_ELAPSED_STARTS_BELOW_S = 60.0
_SECONDS_PER = {
    "s": 1.0, "sec": 1.0, "secs": 1.0, "second": 1.0, "seconds": 1.0,
    "ms": 1e-3, "msec": 1e-3, "us": 1e-6,
    "min": 60.0, "mins": 60.0, "minute": 60.0, "minutes": 60.0,
    "h": 3600.0, "hr": 3600.0, "hrs": 3600.0, "hour": 3600.0, "hours": 3600.0,
}  # fmt: skip

_HAS_OFFSET = r"(?:Z|[+-]\d{2}:?\d{2})$"
_CLOCK = r"^([+-]?\d+):(\d{2})(?::(\d{2}(?:[.,]\d+)?))?\s*([AaPp][Mm])?$"

_MONTH = "[A-Za-z]{3,9}"
_DATED = (
    r"^(?:\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}|\d{8}"
    rf"|\d{{1,2}}[- ]{_MONTH}[- ]\d{{4}}|{_MONTH} \d{{1,2}},? \d{{4}})[T ]\d"
)

# Day before month first: where no day is above 12 the file's neighbours decide nothing, and most
# of the world writes it so. A month-first log shows itself by a day above 12.
_DATE_FORMATS = (
    "%Y-%m-%d", "%Y/%m/%d", "%d.%m.%Y", "%d/%m/%Y", "%m/%d/%Y", "%d-%m-%Y", "%d.%m.%y",
    "%d/%m/%y", "%m/%d/%y", "%Y%m%d", "%d-%b-%Y", "%d %b %Y", "%b %d %Y", "%b %d, %Y",
)  # fmt: skip
_CLOCK_FORMATS = (
    "%H:%M:%S%.f", "%H:%M:%S", "%H:%M", "%I:%M:%S %p", "%I:%M %p", "%H%M%S", "%H%M%SZ",
)  # fmt: skip


@dataclass(frozen=True)
class RawTimes:
    """Seconds as the log gives them, NaN where a cell holds no time.

    Attributes:
        seconds: (n,) s; since 1970, midnight or the start, by ``basis``.
        basis: None for elapsed time.
    """

    seconds: FloatArray
    basis: ClockBasis | None


def looks_like_time(column: pl.Series) -> bool:
    """Whether most cells hold a clock time or a date with time."""
    if column.dtype.is_temporal():
        return True
    if column.dtype != pl.String:
        return False
    cells = column.head(_SAMPLE).drop_nulls().str.strip_chars()
    if cells.len() == 0:
        return False
    written = cells.str.contains(_CLOCK) | cells.str.contains(_DATED)
    return int(written.sum()) > cells.len() / 2


def looks_like_date(column: pl.Series) -> bool:
    """Whether the cells hold dates without a time."""
    if column.dtype != pl.String:
        return False
    cells = column.head(_SAMPLE).drop_nulls().str.strip_chars()
    dated = cells.str.contains(r"^\d{1,4}[-/.]\d{1,2}[-/.]\d{2,4}$")
    return cells.len() > 0 and int(dated.sum()) > cells.len() / 2


def to_seconds(
    column: pl.Series, *, unit: str | None, style: NumberStyle, zone: ZoneInfo | None
) -> RawTimes:
    """Seconds from a column of times.

    Args:
        column: text, number or datetime cells.
        unit: the header's unit of a number column ("s", "min", "ms"); None if not given.
        style: how numbers are written.
        zone: zone of local times without offset.

    Raises:
        LogError: the cells are neither numbers nor times.
    """
    if column.dtype.is_temporal():
        return _from_datetimes(column.cast(pl.Datetime("us")), column, zone)
    if looks_like_time(column):
        at_once = _of_one_shape(column, zone)
        if at_once is not None:
            return at_once
        cells = column.str.strip_chars()
        if cells.str.contains(",", literal=True).any():
            cells = cells.str.replace(r"(\d),(\d+)$", "$1.$2")
        if cells.head(_SAMPLE).drop_nulls().str.contains(_CLOCK).all():
            return _from_clock(cells)
        return _from_text(cells, column.name, zone)
    numbers = to_numbers(column, style)
    at = first_known(numbers)
    if at is None:
        raise LogError(f"the time column {quoted(column.name)} holds neither numbers nor times")
    return _from_numbers(numbers, float(numbers[at]), unit or unit_in_cells(column))


def _of_one_shape(cells: pl.Series, zone: ZoneInfo | None) -> RawTimes | None:
    """Times whose cells are all written alike; None where they are not."""
    clock = clock_us(cells)
    if clock is not None:
        return _on_a_clock(_seconds(clock, cells), twelve=False)
    dated = iso_us(cells)
    if dated is None:
        return None
    us, is_utc = dated
    local = _seconds(us, cells)
    if is_utc or zone is None:
        return RawTimes(local, ClockBasis.UTC if is_utc else ClockBasis.LOCAL)
    present = cells.is_not_null()
    if not present.all():
        whole = np.zeros(cells.len(), dtype=np.int64)
        whole[present.to_numpy()] = us
        naive = pl.select(pl.when(present).then(pl.Series(whole))).to_series()
    else:
        naive = pl.Series(us)
    naive = naive.cast(pl.Datetime("us"))
    return RawTimes(_localised(naive, local, zone), ClockBasis.UTC)


def _seconds(us: NDArray[np.int64], cells: pl.Series) -> FloatArray:
    """(n,) s of the cells that are there, NaN for those that are not."""
    if us.size == cells.len():
        return np.asarray(us / 1e6)
    seconds = np.full(cells.len(), np.nan)
    seconds[cells.is_not_null().to_numpy()] = us / 1e6
    return seconds


def _from_numbers(numbers: FloatArray, first: float, unit: str | None) -> RawTimes:
    """Elapsed seconds, or seconds since 1970 when the first of them is that large."""
    if unit is None and first >= _EPOCH_MS:
        return RawTimes(numbers * 1e-3, ClockBasis.UTC)
    scale = _SECONDS_PER.get((unit or "s").strip().lower(), 1.0)
    seconds = numbers if scale == 1.0 else numbers * scale
    return RawTimes(seconds, ClockBasis.UTC if first * scale >= _EPOCH_S else None)


def _from_clock(cells: pl.Series) -> RawTimes:
    """h:mm:ss, h:mm or with am/pm: elapsed when it begins near zero, else a time of day."""
    parts = [cells.str.extract(_CLOCK, i) for i in range(1, 5)]
    hours, minutes, seconds = (
        part.cast(pl.Float64, strict=False).fill_null(0.0).to_numpy() for part in parts[:3]
    )
    meridiem = parts[3].str.to_lowercase()
    twelve = meridiem.is_not_null().to_numpy()
    hours = np.where(
        twelve, hours % 12 + 12 * (meridiem == "pm").fill_null(value=False).to_numpy(), hours
    )
    total = hours * 3600 + minutes * 60 + seconds
    total = np.where(parts[0].is_null().to_numpy(), np.nan, total)
    return _on_a_clock(total, twelve=bool(twelve.any()))


def _on_a_clock(total: FloatArray, *, twelve: bool) -> RawTimes:
    if not (total[1:] >= total[:-1]).all():  # back over midnight, or some are not known
        known = np.isfinite(total)
        total = total.copy()
        total[known] = unwrap_midnight(total[known])
    at = first_known(total)
    if not twelve and at is not None and total[at] < _ELAPSED_STARTS_BELOW_S:
        return RawTimes(total, None)
    return RawTimes(total, ClockBasis.TIME_OF_DAY)


def _from_text(cells: pl.Series, name: str, zone: ZoneInfo | None) -> RawTimes:
    """Dates with times in text, with or without offset."""
    sample = cells.head(_SAMPLE).drop_nulls()
    if int(sample.str.contains(_HAS_OFFSET).sum()) > sample.len() / 2:
        instants = cells.str.replace(" ", "T", literal=True).str.to_datetime(
            "%+", strict=False, time_unit="us", time_zone="UTC"
        )
        if instants.null_count() < instants.len():
            return RawTimes(_epoch_s(instants), ClockBasis.UTC)
    format_ = _best_format(sample, cells)
    if format_ is None:
        raise LogError(f"the time column {quoted(name)} holds no times in a form that is known")
    naive = cells.str.to_datetime(format_, strict=False, time_unit="us")
    return _from_datetimes(naive, cells, ZoneInfo("UTC") if format_.endswith("Z") else zone)


def _best_format(sample: pl.Series, cells: pl.Series) -> str | None:
    """The format that reads most of the cells, first by the sample, then by all of them."""
    separator = "T" if sample.str.contains("T", literal=True).any() else " "
    formats = [f"{d}{separator}{c}" for d in _DATE_FORMATS for c in _CLOCK_FORMATS]
    read = {f: sample.str.to_datetime(f, strict=False).null_count() for f in formats}
    best = min(read.values())
    if best == sample.len():
        return None
    tied = [f for f in formats if read[f] == best]
    if len(tied) == 1:
        return tied[0]
    return min(tied, key=lambda f: cells.str.to_datetime(f, strict=False).null_count())


def _from_datetimes(naive: pl.Series, original: pl.Series, zone: ZoneInfo | None) -> RawTimes:
    """Datetimes without offset: local in ``zone``, or local in a zone not known."""
    dtype = original.dtype
    if isinstance(dtype, pl.Datetime) and dtype.time_zone:
        return RawTimes(_epoch_s(original.cast(pl.Datetime("us", dtype.time_zone))), ClockBasis.UTC)
    local = _epoch_s(naive)
    if zone is None:
        return RawTimes(local, ClockBasis.LOCAL)
    return RawTimes(_localised(naive, local, zone), ClockBasis.UTC)


def _localised(naive: pl.Series, local_s: FloatArray, zone: ZoneInfo) -> FloatArray:
    """UTC seconds of local times, by the file's order where the autumn hour comes twice.

    A local time that the spring change skips keeps the offset before it: the meter's clock was
    then not set forward.
    """
    early, late = (
        _epoch_s(naive.dt.replace_time_zone(zone.key, ambiguous=which, non_existent="null"))
        for which in ("earliest", "latest")
    )
    utc = early.copy()
    twice = np.flatnonzero(early != late)
    twice = twice[np.isfinite(early[twice])]
    second_pass = False
    for previous, i in pairwise(np.concatenate([[-2], twice])):
        if i != previous + 1:
            second_pass = False
        if i > 0 and local_s[i] < local_s[i - 1]:
            second_pass = True
        utc[i] = late[i] if second_pass else early[i]
    skipped = np.flatnonzero(~np.isfinite(early) & np.isfinite(local_s))
    for i in skipped:
        offset = utc[i - 1] - local_s[i - 1] if i > 0 else 0.0
        utc[i] = local_s[i] + offset
    return utc


def _epoch_s(instants: pl.Series) -> FloatArray:
    """(n,) s since 1970, NaN for null."""
    whole = instants.dt.epoch("us").cast(pl.Float64)
    return np.asarray(whole.to_numpy(), dtype=np.float64) / 1e6
