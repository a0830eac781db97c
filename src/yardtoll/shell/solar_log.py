"""A solar log from a shell: when its samples were, what the sun allowed, what limited the input."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime, time
from pathlib import Path
from zoneinfo import ZoneInfo

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import ClockBasis, Code, FloatArray, Notice, Trace
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.notes.read import Notes
from yardtoll.core.notes.trace import trace_of
from yardtoll.core.sun.allowed import AvailablePower
from yardtoll.core.sun.available import SensorPlane, available_by_sensor, available_power
from yardtoll.core.sun.irradiance import in_watts
from yardtoll.core.sun.panels import SunArray
from yardtoll.core.sun.sky import SunSite
from yardtoll.core.sun.solar_run import SolarRun, analyse_solar, solar_samples
from yardtoll.shell.logs import read_logs


@dataclass(frozen=True, kw_only=True)
class SolarQuestion:
    """What was asked.

    Attributes:
        site: None where only a sensor measures the sun.
        begin: the local day, or day and time, of a log without dates.
        columns: purposes and columns named by the user.
        notes: the log is notes in plain text; else found out.
    """

    log: Path
    site: SunSite | None
    array: SunArray
    begin: datetime | None
    zone: ZoneInfo | None
    plane: SensorPlane
    columns: Mapping[str, str]
    notes: bool = False


def answer(question: SolarQuestion) -> SolarRun:
    """Read the log and work it out.

    Raises:
        UnusableDataError: the log does not say when it was, or holds no power.
        LogError, MappingError: the log cannot be read.
    """
    (read,) = read_logs(
        [question.log], notes=question.notes, chosen=question.columns, zone=question.zone
    )
    trace = trace_of(read) if isinstance(read, Notes) else read
    clock_s, notices = _clock_of_first(trace, question)
    sun, said = _sun(trace, clock_s, question)
    run = analyse_solar(trace, sun, question.array.power_stc_w, question.array.cap_w)
    return replace(run, notices=(*run.notices, *notices, *said))


def _clock_of_first(trace: Trace, question: SolarQuestion) -> tuple[float | None, list[Notice]]:
    """S since 1970 of the log's first sample; None where no site asks for it."""
    name, zone, begin = trace.name, question.zone, question.begin
    if trace.clock_basis is ClockBasis.LOCAL:
        raise UnusableDataError(
            f"{name}: its times are local and name no zone; say which with --tz, such as "
            "--tz Europe/Lisbon, or log times with their offset from UTC"
        )
    if trace.clock_basis is ClockBasis.UTC:
        if begin is None:
            return trace.clock_s, []
        message = f"{name} carries its own dates, so --date is not used"
        return trace.clock_s, [Notice(code=Code.DATE_NOT_USED, message=message)]
    if question.site is None:
        return None, []
    if begin is None:
        how = "the day with --date, such as --date 2026-06-21"
        if trace.clock_basis is None:
            how = "when it began with --date, such as --date 2026-06-21T09:30"
        raise UnusableDataError(f"{name} has no dates; say {how}")
    if zone is None:
        raise UnusableDataError(
            f"{name} has no dates, so its day is a local one; say where with --tz, such as "
            "--tz Europe/Lisbon"
        )
    if trace.clock_basis is ClockBasis.TIME_OF_DAY:
        midnight = datetime.combine(begin.date(), time(), zone)
        return midnight.timestamp() + (trace.clock_s or 0.0), []
    if begin.time() == time():
        raise UnusableDataError(
            f"{name} counts from its start and says no time of day; say when it began, such as "
            f"--date {begin:%Y-%m-%d}T09:30"
        )
    return begin.replace(tzinfo=begin.tzinfo or zone).timestamp(), []


def _sun(
    trace: Trace, first_s: float | None, question: SolarQuestion
) -> tuple[AvailablePower | None, list[Notice]]:
    """What the sun allowed at the log's power samples."""
    time_s, _ = solar_samples(trace)
    light, notices = _irradiance(trace) if question.columns.get("irradiance") else (None, [])
    if question.site is not None:
        assert first_s is not None
        parts = [(question.site, question.array)]
        return available_power(parts, first_s + time_s, light, question.plane), notices
    if light is not None:
        return available_by_sensor(question.array, time_s, light), notices
    message = (
        "without a site (--lat, --lon, --tilt, --azimuth) or an irradiance column nothing says "
        "what the sun allowed"
    )
    return None, [*notices, Notice(code=Code.NO_SITE, message=message)]


def _irradiance(trace: Trace) -> tuple[FloatArray | None, list[Notice]]:
    """(n,) W/m² at the power samples; None where the log has none."""
    values = trace.columns.get(Quantity.IRRADIANCE)
    if values is None:
        return None, []
    powered = np.isfinite(trace.columns[Quantity.POWER])
    light, kilo = in_watts(values[powered], "irradiance")
    if not np.isfinite(light).any():
        return None, []
    if not kilo:
        return light, []
    message = f"{trace.name}: the irradiance is in kW/m² and was converted"
    return light, [Notice(code=Code.IRRADIANCE_IN_KW, message=message)]
