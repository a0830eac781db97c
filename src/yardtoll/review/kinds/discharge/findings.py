"""Findings of a discharge: energy to empty, power held, surge, volts, hertz and amps under load."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from yardtoll.core.claims.kinds import PORTS, Claim
from yardtoll.core.conformance.conditions import (
    CONTINUOUS,
    HOLD_SLACK,
    SURGE_W,
    surge_pair,
)
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.core.discharge.repeats import SAME_LOAD_SHARE
from yardtoll.core.electrical.energy import best_mean_w, slice_between
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.timebase import usual_step_s
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.ledger.loss_fit import REPEATABILITY_DEGREES_OF_FREEDOM
from yardtoll.core.methods import Outlet
from yardtoll.core.uncertainty.budget import Budget, Measured, station_mean
from yardtoll.review.budgets import (
    NO_HERTZ,
    NO_METER,
    NO_VOLTS,
    amps_budget,
    hertz_budget,
    of_station,
    volts_budget,
    watts_budget,
)
from yardtoll.review.kinds.discharge.ended_by import what_ended
from yardtoll.review.kinds.discharge.held import lowered_clause
from yardtoll.review.run_analysis import RunAnalysis, once_a_run
from yardtoll.review.station.outlet_runs import is_whole, off_the_usual_load, outlet_of
from yardtoll.review.station.runs import StationRuns

_PORT_APART = 0.25
_SUSTAINED_S = 300.0
_SAMPLES_IN_A_SURGE = 5
"""A meter that sees a surge has so many readings of it."""
_FASTEST_S = 0.2


def capacity_findings(station: StationRuns) -> Iterator[Finding]:
    """The energy to empty, by load: repeats at one load as their mean.

    The load nearest to 0.2 C comes last: it is used where a claim names none.
    """
    whole = [a for a in station.analyses if is_whole(a) and outlet_of(a) is Outlet.AC]
    whole.sort(key=off_the_usual_load, reverse=True)
    while whole:
        first = whole[0]
        load = _mean_w(first)
        same = [a for a in whole if abs(_mean_w(a) / load - 1) <= SAME_LOAD_SHARE]
        whole = [a for a in whole if a not in same]
        trusted = [a for a in same if not a.doubts]
        same = sorted(trusted or same, key=lambda a: a.run.number)
        measured = _energy(same)
        value = measured.value if measured else sum(_delivered(a) for a in same) / len(same)
        count = f", mean of {len(same)} runs" if len(same) > 1 else ""
        for kind in ("usable_wh", "rated_wh"):
            yield Finding(
                kind=kind,
                value=value,
                budget=measured.budget if measured else None,
                unknown=NO_METER,
                runs=tuple(a.run.number for a in same),
                method=same[-1].run.method,
                load_w=load,
                lower_bound=kind == "rated_wh",
                why_bound="The rated energy is in the cells; what reaches the outlet is held "
                "against the yardsticks.",
                doubts=same[-1].doubts,
                seen=f"delivered at {load:.0f} W{count}",
            )


def _energy(same: Sequence[RunAnalysis]) -> Measured | None:
    """The station's energy from repeats, with its budget; None where one has no meter."""
    known = [a.energy_out.measured for a in same if a.energy_out is not None]
    parts = [measured for measured in known if measured is not None]
    if len(parts) < len(same):
        return None
    return station_mean(parts, same[0].repeatability, REPEATABILITY_DEGREES_OF_FREEDOM)


def power_findings(analysis: RunAnalysis, claims: Sequence[Claim]) -> Iterator[Finding]:
    """Power held, surge as watts for seconds, and power in voltage-lowering mode."""
    result = _result(analysis)
    if result is None or not result.duration_s or not result.mean_w or not analysis.method.steady:
        return
    watts, held_s = result.mean_w, result.duration_s
    if analysis.method.outlet is not Outlet.DC:
        yield _of_run(
            CONTINUOUS,
            watts,
            of_station(watts, watts_budget(watts, analysis), analysis),
            analysis,
            load_w=watts,
            held_s=held_s,
            ended_by=what_ended(analysis, at_most_w=_highest_claim(CONTINUOUS, claims)),
            unfit=lowered_clause(analysis, result),
            seen=f"held for {held_s / 60:.0f} min",
        )
        if analysis.run.conditions.lowers_voltage:
            yield _of_run(
                "lifted_w",
                watts,
                of_station(watts, watts_budget(watts, analysis), analysis),
                analysis,
                lower_bound=True,
                why_bound="No higher load was tried in that mode.",
                seen="drawn with voltage-lowering mode on",
            )
    yield from _surges(analysis, claims)


def _highest_claim(kind: str, claims: Sequence[Claim]) -> float | None:
    values = [c.value for c in claims if c.kind == kind and c.value is not None]
    return max(values) if values else None


def _surges(analysis: RunAnalysis, claims: Sequence[Claim]) -> Iterator[Finding]:
    """For each claimed surge the highest power held so long, of a run that went there at all."""
    result = _result(analysis)
    asked = [c for c in claims if c.kind == SURGE_W and c.value]
    if result is None or result.max_w is None or not asked:
        return
    rated_w = analysis.station.rated_w
    if result.max_w <= rated_w * (1 + HOLD_SLACK) or not analysis.has_trace:
        return
    for claim in asked:
        claimed_w, seconds = surge_pair(claim, claims)
        assert claimed_w is not None
        yield _surge(analysis, claimed_w, seconds)


@once_a_run
def _interval_s(analysis: RunAnalysis) -> float:
    """Between its readings of power."""
    if analysis.trace is None:
        return 0.0
    return usual_step_s(analysis.trace.valid(Quantity.POWER)[0])


def _surge(analysis: RunAnalysis, claimed_w: float, seconds: float | None) -> Finding:
    result = _result(analysis)
    assert result is not None
    highest = result.max_w or 0.0
    number = analysis.run.number
    reach_s = seconds if seconds is not None else 0.0
    level = _best_mean(analysis, Quantity.POWER, reach_s) if reach_s else highest
    level = highest if level is None else level
    words = f"for {seconds:g} s, {highest:.0f} W at the highest" if seconds else "at the highest"
    made = _of_run(
        SURGE_W,
        level,
        of_station(level, watts_budget(level, analysis), analysis),
        analysis,
        for_value=claimed_w,
        seen=words,
    )
    why, interval_s = "", _interval_s(analysis)
    if interval_s > max(reach_s / _SAMPLES_IN_A_SURGE, _FASTEST_S):
        why = (
            f"Run {number} has a reading every {interval_s:g} s, too slow for a surge of "
            f"{seconds:g} s."
            if seconds
            else f"Run {number} has a reading every {interval_s:g} s: it shows the least there was."
        )
    elif highest < claimed_w * (1 - HOLD_SLACK):
        why = f"Run {number} went to {highest:.0f} W, not to {claimed_w:g} W."
    elif (ended := EndedBy(what_ended(analysis))) is EndedBy.UNKNOWN:
        why = f"Run {number} went there; what ended it is not known: say so under Edit the run."
    elif ended is not EndedBy.TRIP:
        why = f"Run {number} went there and did not trip: it was not asked for longer."
    return replace(made, lower_bound=bool(why), why_bound=why)


def supply_findings(analysis: RunAnalysis, claims: Sequence[Claim]) -> Iterator[Finding]:
    """Volts, hertz and amps under load, of the AC outlet or the DC port whose claim is nearest."""
    result = _result(analysis)
    if result is None:
        return
    dc = analysis.method.outlet is Outlet.DC
    volts = _volts_under_load(analysis)
    port = _dc_port(volts.usual, claims) if dc and volts is not None else ""
    if volts is not None and (port or not dc):
        yield _volts(f"{port}_v" if dc else "ac_v", volts, analysis)
    hertz = _hertz_under_load(analysis)
    if hertz is not None and not dc:
        yield _of_run(
            "ac_hz",
            hertz.middle,
            hertz.budget,
            analysis,
            unknown=NO_HERTZ,
            ends=hertz.ends,
            seen="under load",
        )
    yield from _capability(port, dc=dc, analysis=analysis)


@dataclass(frozen=True, kw_only=True)
class _UnderLoad:
    """A quantity while power flows: mean, median, lowest and highest, and the mean's budget."""

    middle: float
    usual: float
    ends: tuple[float, float]
    budget: Budget | None


@once_a_run
def _volts_under_load(analysis: RunAnalysis) -> _UnderLoad | None:
    return _under_load(analysis, Quantity.VOLTS, volts_budget)


@once_a_run
def _hertz_under_load(analysis: RunAnalysis) -> _UnderLoad | None:
    return _under_load(analysis, Quantity.HERTZ, hertz_budget)


def _under_load(
    analysis: RunAnalysis,
    quantity: Quantity,
    budget: Callable[[float, RunAnalysis, FloatArray], Budget | None],
) -> _UnderLoad | None:
    values = _loaded(analysis, quantity)
    if not values.size:
        return None
    middle = float(values.mean())
    return _UnderLoad(
        middle=middle,
        usual=float(np.median(values)),
        ends=(float(values.min()), float(values.max())),
        budget=budget(middle, analysis, values),
    )


def _volts(kind: str, volts: _UnderLoad, analysis: RunAnalysis) -> Finding:
    """The lowest and the highest volts under load."""
    whole = ", from full to empty" if is_whole(analysis) else ""
    return _of_run(
        kind,
        volts.middle,
        volts.budget,
        analysis,
        unknown=NO_VOLTS,
        ends=volts.ends,
        load_w=_mean_w(analysis),
        unfit=lowered_clause(analysis, _result(analysis)),
        seen=f"under load{whole}",
    )


def _capability(port: str, *, dc: bool, analysis: RunAnalysis) -> Iterator[Finding]:
    """Watts and amps that a port or outlet gave for five minutes: it may give more."""
    watts = _best_mean(analysis, Quantity.POWER, _SUSTAINED_S)
    if (dc and not port) or watts is None:
        return
    volts = _volts_under_load(analysis)
    bound = "No higher load was tried."
    if dc:
        yield _of_run(
            f"{port}_w",
            watts,
            of_station(watts, watts_budget(watts, analysis), analysis),
            analysis,
            lower_bound=True,
            why_bound=bound,
            seen="sustained over 5 minutes",
        )
    if volts is not None:
        usual_v = volts.usual
        logged = _best_mean(analysis, Quantity.AMPS, _SUSTAINED_S)
        amps = logged if logged is not None else watts / usual_v
        yield _of_run(
            f"{port}_a" if dc else "ac_a",
            amps,
            of_station(amps, amps_budget(amps, usual_v, analysis), analysis),
            analysis,
            unknown=NO_VOLTS,
            lower_bound=True,
            why_bound=bound,
            seen="sustained over 5 minutes",
        )


def _best_mean(analysis: RunAnalysis, quantity: Quantity, seconds: float) -> float | None:
    """The best mean over so long of what was logged; None where it did not last so long."""

    def work() -> float | None:
        if analysis.trace is None:
            return None
        time_s, values = analysis.trace.valid(quantity)
        return best_mean_w(time_s, values, seconds) if time_s.size > 1 else None

    return analysis.known((_best_mean, quantity, seconds), work)


def _of_run(
    kind: str,
    value: float,
    budget: Budget | None,
    analysis: RunAnalysis,
    *,
    unknown: str = NO_METER,
    ends: tuple[float, float] | None = None,
    load_w: float | None = None,
    held_s: float | None = None,
    ended_by: str | None = None,
    for_value: float | None = None,
    lower_bound: bool = False,
    why_bound: str = "",
    unfit: str = "",
    seen: str = "",
) -> Finding:
    return Finding(
        kind=kind,
        value=value,
        budget=budget,
        unknown=unknown,
        ends=ends,
        runs=(analysis.run.number,),
        method=analysis.run.method,
        load_w=load_w,
        held_s=held_s,
        ended_by=ended_by,
        for_value=for_value,
        lower_bound=lower_bound,
        why_bound=why_bound,
        unfit=unfit,
        doubts=analysis.doubts,
        seen=seen,
    )


def _dc_port(volts: float, claims: Sequence[Claim]) -> str:
    """The DC port whose claimed volts are nearest; "" where none is near."""
    known = [c for c in claims if c.kind in {f"{port}_v" for port in PORTS} and c.value]
    if not known:
        return ""
    nearest = min(known, key=lambda c: abs(volts / (c.value or 1.0) - 1))
    near = abs(volts / (nearest.value or 1.0) - 1) <= _PORT_APART
    return nearest.kind.removesuffix("_v") if near else ""


def _loaded(analysis: RunAnalysis, quantity: Quantity) -> FloatArray:
    """(n,) values under load: while power flows, where that was logged."""
    result = _result(analysis)
    if analysis.trace is None or result is None or result.start_s is None:
        return np.empty(0)
    time_s, values = analysis.trace.valid(quantity)
    within = slice_between(time_s, result.start_s, result.cutoff_s or np.inf)
    inside = values[within]
    power_t, power_w = analysis.trace.valid(Quantity.POWER)
    if power_t.size < 2 or inside.size == 0:
        return inside
    drawn = np.interp(time_s[within], power_t, power_w)
    return inside[drawn > 0.5 * float(np.median(drawn))]


def _mean_w(analysis: RunAnalysis) -> float:
    return (analysis.energy_out.mean_w if analysis.energy_out else 0.0) or 1.0


def _delivered(analysis: RunAnalysis) -> float:
    return analysis.energy_out.delivered_wh if analysis.energy_out else 0.0


def _result(analysis: RunAnalysis) -> DischargeResult | None:
    return analysis.energy_out.result if analysis.energy_out is not None else None
