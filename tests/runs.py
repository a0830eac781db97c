"""Runs analysed without a yard file: the same path as from one."""

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from yardtoll.core.charge.figures import charge_figures
from yardtoll.core.discharge.figures import discharge_figures
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.methods import METHODS
from yardtoll.core.uncertainty.figure import plain
from yardtoll.review.analysis import analyse_records
from yardtoll.review.kinds.charge.analysis import ChargeOutcome
from yardtoll.review.kinds.discharge.analysis import DischargeOutcome
from yardtoll.review.kinds.discharge.figures import budgets_of_run
from yardtoll.review.run_analysis import Recorded, RunAnalysis
from yardtoll.review.run_records import RunRecords
from yardtoll.store.records import Meter, Recording, Run, Station


def analysed(
    run: Run,
    station: Station,
    trace: Trace | None = None,
    meter: Meter | None = None,
    *,
    more: Iterable[tuple[Role, Trace, Meter | None]] = (),
    **records: Any,
) -> RunAnalysis:
    """A run with what came of it.

    Args:
        trace: of the run's own meter.
        more: further recordings: where each instrument stood, its samples and its meter.
        records: further fields of its records, such as readings.
    """
    recorded, meters = [], {}
    if trace is not None:
        role = METHODS[run.method].role.value
        recorded.append(
            Recorded(record=Recording(id=1, run_id=run.id or 0, role=role), read=lambda: trace)
        )
    for number, (role, samples, other) in enumerate(more, start=2):
        meter_id = other.id if other is not None else None
        if other is not None:
            meters[other.id or 0] = other
        record = Recording(id=number, run_id=run.id or 0, role=role.value, meter_id=meter_id)
        recorded.append(Recorded(record=record, read=lambda s=samples: s))
    made = RunRecords(
        run=run,
        station=station,
        meter=meter,
        meters=meters,
        recordings=tuple(r.record for r in recorded),
        **records,
    )
    return analyse_records(made, tuple(recorded))


def with_out(run: RunAnalysis, **changes: Any) -> RunAnalysis:
    """A discharge whose result says something else."""
    outcome = run.outcome
    assert isinstance(outcome, DischargeOutcome)
    result = replace(outcome.result, **changes)
    budgets = budgets_of_run(run, result, outcome.budget)
    assert outcome.energy_out is not None
    made = replace(
        outcome,
        result=result,
        figures=discharge_figures(result, outcome.budget, budgets),
        notices=result.notices,
        energy_out=replace(outcome.energy_out, result=result),
    )
    return replace(run, outcome=made)


def with_in(run: RunAnalysis, **changes: Any) -> RunAnalysis:
    """A charge whose result says something else."""
    outcome = run.outcome
    assert isinstance(outcome, ChargeOutcome)
    result = replace(outcome.result, **changes)
    assert outcome.energy_in is not None
    made = replace(
        outcome,
        result=result,
        figures=charge_figures(result, outcome.budget),
        notices=result.notices,
        energy_in=replace(outcome.energy_in, result=result),
    )
    return replace(run, outcome=made)


def with_run(run: RunAnalysis, **changes: Any) -> RunAnalysis:
    """The same outcome under other records of the run itself."""
    return replace(run, records=replace(run.records, run=replace(run.run, **changes)))


def shown_of(page: Any) -> dict[str, str]:
    """A page's figures as shown, by title."""
    return {figure.title: figure.shown for figure in page.figures}


def words_of(page: Any) -> list[str]:
    """A page's sentences as text."""
    return [plain(sentence) for sentence in page.words]


def without_meter(run: RunAnalysis) -> RunAnalysis:
    """The same run with no meter stated."""
    records = replace(run.records, meter=None, run=replace(run.run, meter_id=None))
    return analyse_records(records, run.recorded)
