"""What one run came to: a discharge, a recharge or an idle test, from the yard alone."""

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from yardtoll.core.charge.analysis import ChargeWindow, RechargeResult, analyse_recharge
from yardtoll.core.charge.soc_times import SocReading
from yardtoll.core.charge.typed import typed_recharge
from yardtoll.core.discharge.analysis import DischargeResult, Rating, analyse_discharge
from yardtoll.core.discharge.display_audit import DisplayAudit, Shown, audit_display
from yardtoll.core.discharge.typed import typed_discharge
from yardtoll.core.electrical.doubts import doubts_of, unexplained
from yardtoll.core.electrical.energy import slice_between
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Code, Notice, Trace
from yardtoll.core.electrical.typed_readings import TypedReading
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.ledger.idle import IdleResult, Store, idle_draw
from yardtoll.core.ledger.loss_fit import REPEATABILITY
from yardtoll.core.methods import METHODS, Flow
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import AC, DC, discharge_budget, recharge_budget
from yardtoll.store.records import ENDS, TYPED, Meter, Reading, ReadingKind, Run, RunState, Station
from yardtoll.store.yard_file import YardFile

if TYPE_CHECKING:
    from yardtoll.review.solar import SolarReview

SUN_METHODS = ("recharge_sun", "recharge_wall_sun")
DC_METHODS = ("capacity_dc", "idle_dc", "recharge_car", "recharge_sun")
"""Methods whose meter measures DC; its AC range shares no gain with that."""


@dataclass(frozen=True, kw_only=True)
class RunAnalysis:
    """What a run came to: a discharge, a recharge or an idle test.

    Attributes:
        result: of a discharge; None when nothing can be told: ``problem`` says why.
        budget: None when no meter is stated.
        recharge, idle: of the other flows.
        audit: the display against the meter, where it was read.
        mean_sq_w2: mean of P² from load-on to cut-off; None without power samples.
        solar: what the sun allowed, of a solar run; None of any other.
        repeatability: the yard's relative standard deviation from run to run.
    """

    run: Run
    station: Station
    meter: Meter | None
    trace: Trace | None
    result: DischargeResult | None = None
    budget: Budget | None = None
    recharge: RechargeResult | None = None
    idle: IdleResult | None = None
    audit: DisplayAudit | None = None
    mean_sq_w2: float | None = None
    solar: "SolarReview | None" = None
    repeatability: float = REPEATABILITY
    problem: str = ""

    @property
    def notices(self) -> tuple[Notice, ...]:
        """What must be known of how its figures came about."""
        told = self.result or self.recharge
        return told.notices if told is not None else ()

    @property
    def doubts(self) -> tuple[Code, ...]:
        """What it cannot be trusted for, and nobody has explained."""
        return unexplained(doubts_of(self.notices), self.run.explained)

    @property
    def counts(self) -> bool:
        """Whether the run may be judged: finished, not void, and with a discharge's result."""
        return self.run.state == RunState.FINISHED.value and self.result is not None

    @property
    def tells(self) -> bool:
        """Whether anything came of it."""
        return any(part is not None for part in (self.result, self.recharge, self.idle))


def analyse_run(yard: YardFile, run: Run) -> RunAnalysis:
    """Everything there is to say about one run, from the yard alone."""
    assert run.id is not None
    base = RunAnalysis(
        run=run,
        station=yard.get(Station, run.station_id),
        meter=yard.get(Meter, run.meter_id) if run.meter_id is not None else None,
        trace=yard.trace(run.id),
        repeatability=yard.info().repeatability,
    )
    readings = yard.readings(run.id)
    parts = {Flow.OUT: _discharge, Flow.IN: _recharge, Flow.IDLE: _idle}
    if run.method in SUN_METHODS:
        base = replace(base, solar=_solar(yard, base, readings))
    try:
        return parts[METHODS[run.method].flow](base, readings, _off_s(yard, run))
    except UnusableDataError as error:
        return replace(base, problem=str(error))


def range_of(method: str) -> str:
    """Which of a meter's ranges a method uses."""
    return DC if method in DC_METHODS else AC


def _solar(yard: YardFile, base: RunAnalysis, readings: list[Reading]) -> "SolarReview | None":
    # The sun's models take a second to load, and only solar runs need them.
    from yardtoll.review.solar import review_solar

    return review_solar(yard, base.run, base.trace, readings)


def _discharge_budget(base: RunAnalysis, result: DischargeResult) -> Budget | None:
    if base.meter is None:
        return None
    range_ = range_of(base.run.method)
    return discharge_budget(result, [base.meter.accuracy], [str(base.meter.id)], range_=range_)


def _typed(readings: list[Reading]) -> list[TypedReading]:
    """The counter readings of a run whose meter was read by eye."""
    return [
        TypedReading(s=r.time_s, energy_wh=r.value)
        for r in readings
        if r.kind == ReadingKind.METER_WH.value
    ]


def _discharge(base: RunAnalysis, readings: list[Reading], off_s: float | None) -> RunAnalysis:
    run = base.run
    rating = Rating(rated_wh=base.station.rated_wh, soc_from=run.soc_from, soc_to=run.soc_to)
    own = [run.own_draw_w] if run.own_draw_w else []
    if run.origin == TYPED:
        typed = typed_discharge(_typed(readings), rating, off_s=off_s, own_draw_w=own)
        return replace(base, result=typed, budget=_discharge_budget(base, typed))
    samples = _samples(base.trace)
    result = analyse_discharge([samples], rating, own_draw_w=own)
    return replace(
        base,
        result=result,
        budget=_discharge_budget(base, result),
        audit=_audit(samples, result, run, readings),
        mean_sq_w2=_mean_square(samples, result),
    )


def _recharge(base: RunAnalysis, readings: list[Reading], off_s: float | None) -> RunAnalysis:
    """Readings count from charge start; those before it say where the charge began."""
    run = base.run
    window = ChargeWindow(rated_wh=base.station.rated_wh, soc_from=run.soc_from, soc_to=run.soc_to)
    if run.origin == TYPED:
        counted = _typed(readings)
        start_s = min((r.s for r in counted), default=0.0)
        result = typed_recharge(counted, window, _shown_from(readings, start_s), off_s=off_s)
    else:
        samples = _samples(base.trace)
        result = analyse_recharge(samples, window, _shown_from(readings, 0.0), on_the_log=True)
        base = replace(base, audit=_charge_audit(samples, result, readings))
    budget = None
    if base.meter is not None:
        range_ = range_of(run.method)
        budget = recharge_budget(result, base.meter.accuracy, str(base.meter.id), range_=range_)
    return replace(base, recharge=result, budget=budget)


def _shown_from(readings: list[Reading], start_s: float) -> list[SocReading]:
    """The display's states of charge, s from charge start."""
    return [
        SocReading(s=max(r.time_s - start_s, 0.0), soc=r.value)
        for r in readings
        if r.kind == ReadingKind.SOC.value
    ]


def _idle(base: RunAnalysis, readings: list[Reading], _: float | None) -> RunAnalysis:
    shown = [r for r in readings if r.kind == ReadingKind.SOC.value]
    if len(shown) < 2:
        raise UnusableDataError(
            "an idle test needs the display's state of charge at its start and at its end"
        )
    first, last = shown[0], shown[-1]
    store = Store.rated(base.station.rated_wh)
    idle = idle_draw(store, first.value, last.value, last.time_s - first.time_s)
    return replace(base, idle=idle)


def _audit(
    samples: Trace, result: DischargeResult, run: Run, readings: list[Reading]
) -> DisplayAudit | None:
    """The display's readings against the meter; None where nothing was read."""
    time_s, power = samples.valid(Quantity.POWER)
    if not readings or time_s.size < 2 or result.start_s is None or result.cutoff_s is None:
        return None

    def of(kind: ReadingKind) -> list[Shown]:
        return [Shown(s=r.time_s, value=r.value) for r in readings if r.kind == kind.value]

    return audit_display(
        time_s,
        power,
        (result.start_s, result.cutoff_s),
        watts=of(ReadingKind.DISPLAY_W),
        soc=of(ReadingKind.SOC),
        time_left=of(ReadingKind.TIME_LEFT),
        soc_to=run.soc_to,
    )


def _charge_audit(
    samples: Trace, result: RechargeResult, readings: list[Reading]
) -> DisplayAudit | None:
    """The W coming in and the time left that the display showed, against the meter."""
    time_s, power = samples.valid(Quantity.POWER)
    kinds = (ReadingKind.INPUT_W.value, ReadingKind.TIME_LEFT.value)
    typed = [r for r in readings if r.kind in kinds]
    if not typed or time_s.size < 2 or result.start_s is None or result.duration_s is None:
        return None
    shown = {
        kind: [Shown(s=r.time_s, value=r.value) for r in typed if r.kind == kind] for kind in kinds
    }
    span = (result.start_s, result.start_s + result.duration_s)
    return audit_display(time_s, power, span, watts=shown[kinds[0]], time_left=shown[kinds[1]])


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


def _off_s(yard: YardFile, run: Run) -> float | None:
    """When the station was marked to have shut off; None where it was not."""
    marks = [m.time_s for m in yard.marks(run.id or 0) if m.word in ENDS]
    return marks[-1] if marks else None


def _samples(trace: Trace | None) -> Trace:
    if trace is None:
        raise UnusableDataError("no samples were recorded")
    return trace
