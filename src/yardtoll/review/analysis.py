"""Working runs out, from the yard alone."""

from collections.abc import Sequence
from functools import partial

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.electrical.roles import Role
from yardtoll.core.errors import UnusableDataError
from yardtoll.review.kinds import kind_of
from yardtoll.review.outcome import Outcome
from yardtoll.review.run_analysis import Recorded, RunAnalysis
from yardtoll.review.run_records import RunRecords, read_records
from yardtoll.review.station.beside import inputs_beside
from yardtoll.review.station.runs import station_runs
from yardtoll.store.records import Run, Station
from yardtoll.store.yard_file import YardFile


def analyse_records(records: RunRecords, recorded: tuple[Recorded, ...]) -> RunAnalysis:
    """A run with what came of it; what cannot be used is named in the outcome."""
    base = RunAnalysis(records=records, recorded=recorded)
    try:
        outcome = kind_of(records.run.method).analyse(base)
    except UnusableDataError as error:
        outcome = Outcome(problem=str(error))
    return RunAnalysis(records=records, recorded=recorded, outcome=outcome)


def analyse_run(yard: YardFile, run: Run) -> RunAnalysis:
    """Everything there is to say about one run."""
    records = read_records(yard, run)
    # The run's own meter stands first; a run may have begun with another instrument.
    by_meter = sorted(records.recordings, key=lambda r: not Role(r.role).is_energy)
    recorded = tuple(
        Recorded(record=record, read=partial(yard.samples, record))
        for record in by_meter
        if yard.samples(record) is not None
    )
    return analyse_records(records, recorded)


def look_ahead(analysis: RunAnalysis, claims: Sequence[Claim]) -> None:
    """Work out what pages will ask of the run's samples while they are at hand.

    Args:
        claims: of its station.
    """
    if analysis.has_outcome and not analysis.is_void:
        alone = station_runs([analysis])
        for _ in kind_of(analysis.run.method).findings(analysis, alone, claims):
            pass
        inputs_beside(analysis, alone)


def analyses_of(yard: YardFile, station: Station) -> list[RunAnalysis]:
    """Every ended run of a station, worked out."""
    return [analyse_run(yard, run) for run in yard.runs(station.id) if run.has_ended]
