"""Results of a charge: from the log of its meter, or from readings by eye."""

from dataclasses import dataclass

from yardtoll.core.charge.analysis import ChargeWindow, RechargeResult, analyse_recharge
from yardtoll.core.charge.figures import charge_figures
from yardtoll.core.charge.noted import recharge_of_notes
from yardtoll.core.charge.soc_times import SocReading
from yardtoll.core.discharge.display_audit import DisplayAudit, Shown, audit_display
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import recharge_budget
from yardtoll.review.budgets import watts_budget
from yardtoll.review.outcome import EnergyIn, Outcome
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.run_records import RunRecords
from yardtoll.store.records import ReadingKind


@dataclass(frozen=True, kw_only=True)
class ChargeOutcome(Outcome):
    """The results of a charge.

    Attributes:
        result: of the core.
        budget: of the drawn Wh; None where no meter is stated.
        audit: the display against the meter; None where it was not read.
    """

    result: RechargeResult
    budget: Budget | None
    audit: DisplayAudit | None = None


def analyse(run: RunAnalysis) -> ChargeOutcome:
    """Energy, phases, times to a state of charge and the display of one charge.

    Readings count from the charge's start; those before it say where the charge began.
    """
    records, source = run.records, run.method.source
    assert source is not None, "a method that charges names its source"
    window = ChargeWindow(
        rated_wh=records.station.rated_wh, soc_from=records.run.soc_from, soc_to=records.run.soc_to
    )
    audit = None
    if records.typed:
        result = recharge_of_notes(records.notes, window)
    else:
        if run.trace is None:
            raise UnusableDataError("no samples were recorded")
        result = analyse_recharge(run.trace, window, _shown_from(records, 0.0), on_the_log=True)
        audit = _audit(records, run.trace, result)
    budget = None
    if records.meter is not None and result.drawn_wh is not None:
        meter = records.meter
        budget = recharge_budget(result, meter.accuracy, str(meter.id), range_=run.range_)
    peak = watts_budget(result.peak_w, run) if result.peak_w is not None else None
    return ChargeOutcome(
        result=result,
        budget=budget,
        audit=audit,
        figures=charge_figures(result, budget, peak),
        notices=result.notices,
        energy_in=None
        if result.drawn_wh is None
        else EnergyIn(result=result, budget=budget, source=source, by_sun=run.method.uses_panels),
        readings=tuple(result.readings),
        curve=result.curve,
    )


def _shown_from(records: RunRecords, start_s: float) -> list[SocReading]:
    """The display's states of charge, s from charge start."""
    return [
        SocReading(s=max(r.time_s - start_s, 0.0), soc=r.value)
        for r in records.readings_of(ReadingKind.SOC)
    ]


def _audit(records: RunRecords, samples: Trace, result: RechargeResult) -> DisplayAudit | None:
    """The W coming in and the time left that the display showed, against the meter."""
    time_s, power = samples.valid(Quantity.POWER)
    shown = {
        kind: [Shown(s=r.time_s, value=r.value) for r in records.readings_of(kind)]
        for kind in (ReadingKind.INPUT_W, ReadingKind.TIME_LEFT)
    }
    if not any(shown.values()) or time_s.size < 2:
        return None
    if result.start_s is None or result.duration_s is None:
        return None
    span = (result.start_s, result.start_s + result.duration_s)
    return audit_display(
        time_s,
        power,
        span,
        watts=shown[ReadingKind.INPUT_W],
        time_left=shown[ReadingKind.TIME_LEFT],
    )
