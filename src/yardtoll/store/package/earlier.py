"""Packages of versions that kept one trace a run: what they hold, as recordings."""

from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import ClockBasis, Code, FloatArray
from yardtoll.store.earlier import END_WORDS, LOGGER, LOGGER_QUANTITIES, logger_of, role_of
from yardtoll.store.errors import PackageError
from yardtoll.store.records import Recording

RECORDINGS_SINCE = 6
"""The first schema version whose packages have recordings."""
TRACE = sa.Table(
    "trace",
    sa.MetaData(),
    sa.Column("run_id", sa.Integer, primary_key=True),
    sa.Column("quantities", sa.JSON, nullable=False),
    sa.Column("name", sa.Text, nullable=False),
    sa.Column("clock_s", sa.Float, nullable=True),
    sa.Column("clock_basis", sa.Text, nullable=True),
    sa.Column("notices", sa.JSON, nullable=False),
)
Rows = dict[str, list[tuple[int, dict[str, Any]]]]


@dataclass(frozen=True, kw_only=True, eq=False)
class EarlierRecording:
    """A recording to be kept, and its samples or where they are.

    Attributes:
        resource: of the package, with the samples; "" where ``samples`` holds them.
        samples: (times in s, columns).
        line: of the trace's table.
    """

    record: Recording
    resource: str = ""
    samples: tuple[FloatArray, dict[Quantity, FloatArray]] | None = None
    line: int = 0


def recordings_of_traces(
    rows: Rows, traces: list[tuple[int, dict[str, Any]]]
) -> list[EarlierRecording]:
    """Every run's trace and logger as recordings; marks that ended a run are flagged in ``rows``.

    Raises:
        PackageError: a trace is of no run of the package, comes twice, or holds what is unknown.
    """
    runs = {row["id"]: row for _, row in rows["run"]}
    meters = {row["id"]: row["name"] for _, row in rows["meter"]}
    for _, row in rows["mark"]:
        row["ends_run"] = row["word"] in END_WORDS
    made = [_of_trace(line, row, runs, meters) for line, row in traces]
    seen: set[int] = set()
    for recording in made:
        if recording.record.run_id in seen:
            raise PackageError(
                f"tables/trace.csv, line {recording.line}: run_id {recording.record.run_id} is "
                "there twice"
            )
        seen.add(recording.record.run_id)
    return [*made, *(found for run in runs.values() if (found := _of_logger(run)) is not None)]


def _of_trace(
    line: int, row: dict[str, Any], runs: dict[int, dict[str, Any]], meters: dict[int, str]
) -> EarlierRecording:
    place = f"tables/trace.csv, line {line}"
    run = runs.get(row["run_id"])
    if run is None:
        raise PackageError(f"{place}: run_id {row['run_id']} is not a run of the package")
    try:
        quantities = tuple(Quantity(quantity) for quantity in row["quantities"])
        notices = tuple((Code(code).value, str(m)) for code, m in row["notices"])
        basis = ClockBasis(row["clock_basis"]) if row["clock_basis"] else None
    except (TypeError, ValueError):
        raise PackageError(
            f"{place}: quantities, notices or clock_basis holds one that is not known"
        ) from None
    return EarlierRecording(
        record=Recording(
            run_id=run["id"],
            role=role_of(run["method"]).value,
            instrument=meters.get(run["meter_id"], ""),
            name=row["name"],
            quantities=tuple(q.value for q in quantities),
            clock_s=row["clock_s"],
            clock_basis=basis.value if basis else None,
            notices=notices,
        ),
        resource=f"run-{run['id']}",
        line=line,
    )


def _of_logger(run: dict[str, Any]) -> EarlierRecording | None:
    """The irradiance logger that a run's conditions held; they lose it."""
    found = logger_of(run["conditions"])
    if found is None:
        return None
    name, time_s, w_m2 = found
    run["conditions"] = {k: v for k, v in run["conditions"].items() if k != LOGGER}
    record = Recording(
        run_id=run["id"],
        role=Role.IRRADIANCE.value,
        name=name,
        quantities=tuple(q.value for q in LOGGER_QUANTITIES),
        offset_s=float(time_s[0]),
    )
    columns = dict.fromkeys(LOGGER_QUANTITIES, w_m2)
    return EarlierRecording(record=record, samples=(time_s - time_s[0], columns))
