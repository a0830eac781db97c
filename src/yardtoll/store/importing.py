"""Meter logs into a yard as finished discharge runs."""

import json
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from pathlib import Path
from zoneinfo import ZoneInfo

from yardtoll.core.discharge.meter_log import analyse_log
from yardtoll.core.electrical.trace import ClockBasis, Trace
from yardtoll.core.errors import FieldError, UnusableDataError, ValueOutOfRangeError
from yardtoll.core.formatting import quoted
from yardtoll.core.methods import CAPACITY, METHODS
from yardtoll.store.logs.read import read_log
from yardtoll.store.records import Conditions, Recording, Run, RunState, Station
from yardtoll.store.yard_file import YardFile, utc_now


def import_logs(
    logs: Sequence[Path],
    yard_path: Path,
    station_name: str,
    *,
    rated_wh: float | None = None,
    rated_w: float | None = None,
    chosen: Mapping[str, str] | None = None,
    zone: ZoneInfo | None = None,
    method: str = CAPACITY.key,
    site_zone: str = "",
) -> list[str]:
    """Read logs and keep each as a run; every log is read before the yard is touched.

    Args:
        zone: of local times in the logs.
        site_zone: time zone of a yard that is made for them.

    Returns:
        One line a run, for people.

    Raises:
        LogError, MappingError, UnusableDataError: a log cannot be used; nothing is written.
        YardError: the yard cannot be opened or changed, or the station is not known.
    """
    traces = [read_log(path, chosen=chosen, zone=zone) for path in logs]
    found = [analyse_log(trace) for trace in traces]
    _refuse_bad_ratings(rated_wh, rated_w)
    if not yard_path.exists() and (rated_wh is None or rated_w is None):
        raise _needs_ratings(station_name)
    opened = (
        YardFile.open(yard_path)
        if yard_path.exists()
        else YardFile.create(yard_path, yard_path.stem, site_zone)
    )
    said = []
    with opened as yard:
        station = _station(yard, station_name, rated_wh, rated_w)
        for path, trace, meter in zip(logs, traces, found, strict=True):
            run = keep_imported_run(
                yard,
                station,
                trace,
                path,
                dict(chosen or {}),
                soc=METHODS[method].soc,
                method=method,
            )
            said.append(
                f"{path.name}: run {run.number} of {station.name}, "
                f"{meter.delivered_wh:.1f} Wh over {trace.time_s[-1] / 3600:.2f} h"
            )
    return said


def keep_imported_run(
    yard: YardFile,
    station: Station,
    trace: Trace,
    path: Path,
    mapping: Mapping[str, str],
    *,
    meter_id: int | None = None,
    soc: tuple[float, float] = (100.0, 0.0),
    own_draw_w: float = 0.0,
    method: str = CAPACITY.key,
    ended_by: str = "",
) -> Run:
    """Keep one trace as a finished run of a station; a recharge's meter feeds on the wall."""
    assert station.id is not None
    started, ended = _times(trace, path)
    return yard.keep_run(
        Run(
            station_id=station.id,
            number=yard.next_number(station.id),
            method=method,
            state=RunState.FINISHED.value,
            origin="import",
            started_at=started,
            ended_at=ended,
            meter_id=meter_id,
            soc_from=soc[0],
            soc_to=soc[1],
            ended_by=ended_by,
            own_draw_w=own_draw_w if METHODS[method].delivers else 0.0,
            conditions=Conditions(file=path.name, mapping=json.dumps(dict(mapping))),
        ),
        [(Recording(run_id=0, role=METHODS[method].role.value), trace)],
    )


def _station(yard: YardFile, name: str, rated_wh: float | None, rated_w: float | None) -> Station:
    """The station of that name, made when the ratings for it are given."""
    for station in yard.stations():
        if station.name.casefold() == name.casefold():
            return station
    if rated_wh is None or rated_w is None:
        raise _needs_ratings(name)
    return yard.put(Station(name=name, rated_wh=rated_wh, rated_w=rated_w))


def _needs_ratings(name: str) -> FieldError:
    return FieldError(
        f"there is no station {quoted(name)} in the yard; {{rated_wh}} and {{rated_w}} add it"
    )


def _refuse_bad_ratings(rated_wh: float | None, rated_w: float | None) -> None:
    for field, value in (("rated_wh", rated_wh), ("rated_w", rated_w)):
        if value is not None and not value > 0:
            raise ValueOutOfRangeError(field, value, "above 0")


def _times(trace: Trace, path: Path) -> tuple[str, str]:
    """When the log began and ended: by its own dates, else by the file's."""
    length_s = float(trace.time_s[-1])
    if trace.clock_s is not None and trace.clock_basis is not ClockBasis.TIME_OF_DAY:
        start_s = trace.clock_s
    else:
        try:
            start_s = path.stat().st_mtime - length_s
        except OSError:
            return utc_now(), utc_now()
    try:
        return tuple(  # type: ignore[return-value]
            datetime.fromtimestamp(at, UTC).isoformat(timespec="milliseconds")
            for at in (start_s, start_s + length_s)
        )
    except (ValueError, OverflowError, OSError):
        raise UnusableDataError(f"{trace.name}: its dates are outside the calendar") from None
