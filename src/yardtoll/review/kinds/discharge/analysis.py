"""Results of a discharge: from the logs of its meters, or from readings by eye."""

from dataclasses import dataclass, replace

import numpy as np

from yardtoll.core.discharge.analysis import DischargeResult, Rating, analyse_discharge
from yardtoll.core.discharge.display_audit import (
    DisplayAudit,
    Shown,
    audit_display,
    audit_of_entries,
)
from yardtoll.core.discharge.figures import discharge_figures
from yardtoll.core.electrical.energy import slice_between
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.output.hold import HoldResult
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import discharge_budget
from yardtoll.review.kinds.discharge.figures import budgets_of_run
from yardtoll.review.kinds.discharge.held import held_in, held_in_notes
from yardtoll.review.outcome import EnergyOut, Outcome
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.run_records import RunRecords
from yardtoll.store.records import Meter, ReadingKind


@dataclass(frozen=True, kw_only=True)
class DischargeOutcome(Outcome):
    """The results of a discharge.

    Attributes:
        result: of the core.
        budget: of the delivered Wh; None where a meter is not stated.
        audit: the display against the meter; None where it was not read.
        held: loads at and above the rating; None where the run is not about that.
    """

    result: DischargeResult
    budget: Budget | None
    audit: DisplayAudit | None = None
    held: HoldResult | None = None


def analyse(run: RunAnalysis) -> DischargeOutcome:
    """Energy, span, volts and the display of one discharge.

    Several meters at the outlet, each with a recording of its own, add up.
    """
    records = run.records
    own = [records.run.own_draw_w] if records.run.own_draw_w else []
    rating = Rating(
        rated_wh=records.station.rated_wh,
        soc_from=records.run.soc_from,
        soc_to=records.run.soc_to,
    )
    if records.typed:
        further = records.notes_of_further
        others = [records.meters.get(id_) for id_ in further]
        own += [meter.own_draw_w for meter in others if meter is not None and meter.own_draw_w]
        noted = analyse_discharge([records.notes, *further.values()], rating, own_draw_w=own)
        made = _outcome(run, noted, [records.meter, *others], [])
        return made if further else replace(made, held=held_in_notes(run, noted.max_w))
    outputs = [r for r in run.recorded if r.record.role == run.method.role.value]
    outputs = outputs or [r for r in run.recorded if Role(r.record.role).is_energy]
    if not outputs:
        raise UnusableDataError("no samples were recorded")
    result = analyse_discharge([r.trace for r in outputs], rating, own_draw_w=own)
    meters = [records.meter_of(r.record) for r in outputs]
    return _outcome(run, result, meters, [r.trace for r in outputs])


def _outcome(
    run: RunAnalysis, result: DischargeResult, meters: list[Meter | None], traces: list[Trace]
) -> DischargeOutcome:
    known = [meter for meter in meters if meter is not None]
    budget = None
    if known and len(known) == len(meters):
        accuracies = [meter.accuracy for meter in known]
        names = [str(meter.id) for meter in known]
        budget = discharge_budget(result, accuracies, names, range_=run.range_)
    main = traces[0] if traces else None
    audit = _audit(run.records, main, result) if main is not None else _noted_audit(run, result)
    return DischargeOutcome(
        result=result,
        budget=budget,
        audit=audit,
        held=held_in(run, main, result.max_w) if len(traces) == 1 else None,
        figures=discharge_figures(result, budget, budgets_of_run(run, result, budget)),
        notices=result.notices,
        energy_out=EnergyOut(
            result=result,
            budget=budget,
            mean_sq_w2=_mean_square(main, result) if len(traces) == 1 and main else None,
            outlet=run.method.outlet if run.method.is_whole_discharge else None,
            counts=run.method.counts_for_capacity,
        ),
    )


def _audit(records: RunRecords, samples: Trace, result: DischargeResult) -> DisplayAudit | None:
    """The display's readings against the meter; None where nothing was read."""
    time_s, power = samples.valid(Quantity.POWER)
    if not records.readings or time_s.size < 2:
        return None
    if result.start_s is None or result.cutoff_s is None:
        return None

    def of(kind: ReadingKind) -> list[Shown]:
        return [Shown(s=r.time_s, value=r.value) for r in records.readings_of(kind)]

    return audit_display(
        time_s,
        power,
        (result.start_s, result.cutoff_s),
        watts=of(ReadingKind.DISPLAY_W),
        soc=of(ReadingKind.SOC),
        time_left=of(ReadingKind.TIME_LEFT),
        soc_to=records.run.soc_to,
    )


def _noted_audit(run: RunAnalysis, result: DischargeResult) -> DisplayAudit | None:
    """Of readings that were noted; None where the display was not read."""
    if not result.display:
        return None
    return audit_of_entries(
        result.display, result.delivered_wh - result.own_draw_wh, soc_to=run.run.soc_to
    )


def _mean_square(samples: Trace, result: DischargeResult) -> float | None:
    """Mean of P² over the run, at least the square of its mean."""
    time_s, power = samples.valid(Quantity.POWER)
    if result.start_s is None or result.cutoff_s is None or not result.mean_w:
        return None
    within = slice_between(time_s, result.start_s, result.cutoff_s)
    t, p = time_s[within], power[within]
    if t.size < 2:
        return None
    return max(float(np.trapezoid(p**2, t) / (t[-1] - t[0])), result.mean_w**2)
