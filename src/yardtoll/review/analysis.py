"""Working runs out, from the yard alone."""

from yardtoll.core.electrical.roles import Role
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.methods import METHODS
from yardtoll.review.kinds import kind_of
from yardtoll.review.outcome import Outcome
from yardtoll.review.run_analysis import Recorded, RunAnalysis, RunRecords
from yardtoll.store.noted import meter_in
from yardtoll.store.records import Meter, Run, Station
from yardtoll.store.yard_file import YardFile


def read_records(yard: YardFile, run: Run) -> RunRecords:
    """Everything a run's results are made of, but for its samples."""
    assert run.id is not None
    method = METHODS[run.method]
    by_panels = method.uses_panels
    looks_at_claims = by_panels or method.is_table
    recordings = yard.recordings(run.id)
    readings = yard.readings(run.id)
    ids = {r.meter_id for r in recordings if r.meter_id is not None}
    ids |= {further for r in readings if (further := meter_in(r.subject)) is not None}
    return RunRecords(
        run=run,
        station=yard.get(Station, run.station_id),
        meter=yard.get(Meter, run.meter_id) if run.meter_id is not None else None,
        meters={id_: yard.get(Meter, id_) for id_ in sorted(ids)},
        recordings=tuple(recordings),
        readings=tuple(readings),
        marks=tuple(yard.marks(run.id)),
        repeatability=yard.info().repeatability,
        site=yard.site() if by_panels else None,
        arrays=tuple(yard.arrays()) if by_panels else (),
        claims=tuple(c.claim for c in yard.claims(run.station_id)) if looks_at_claims else (),
        entries=tuple(yard.entries(run.id)),
    )


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
    traces = ((record, yard.samples(record)) for record in by_meter)
    recorded = tuple(Recorded(record=r, trace=t) for r, t in traces if t is not None)
    return analyse_records(records, recorded)


def analyses_of(yard: YardFile, station: Station) -> list[RunAnalysis]:
    """Every ended run of a station, worked out."""
    return [analyse_run(yard, run) for run in yard.runs(station.id) if run.has_ended]
