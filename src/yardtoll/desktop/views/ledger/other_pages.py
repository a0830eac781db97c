"""The Ledger view of a recharge and of an idle test."""

from collections.abc import Sequence

from yardtoll.core.charge.analysis import RechargeResult, round_trip_notices
from yardtoll.core.charge.inputs_together import InputsTogether
from yardtoll.core.charge.soc_times import ToSoc
from yardtoll.core.claims.kinds import Claim
from yardtoll.core.formatting import (
    decimals_for,
    format_clock,
    format_span,
    format_with_uncertainty,
)
from yardtoll.core.uncertainty.budget import Budget, Measured, ratio
from yardtoll.core.uncertainty.energy_budget import display_step_budget
from yardtoll.desktop.views.ledger.other_sources import from_other_sources, set_against_drawn
from yardtoll.desktop.views.ledger.page import (
    LedgerPage,
    duration_row,
    power_shown,
)
from yardtoll.desktop.views.ledger.words import audit_words
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.cycle_figures import drawn_of, round_trip_of
from yardtoll.review.findings.budgets import (
    EXACT,
    run_mean_power_budget,
    run_time_budget,
    watts_budget,
)
from yardtoll.review.fitted import fitted_terms, ledger_budgets
from yardtoll.review.together import CycleRuns, StationRuns, cycle_of, inputs_beside, ledger_of

_TOLD_SOC = 80.0
_MOST_PHASES = 8


def recharge_page(
    analysis: RunAnalysis,
    found: StationRuns,
    subtitle: str,
    budget: tuple[tuple[str, str], ...],
    claims: Sequence[Claim] = (),
) -> LedgerPage:
    """What was drawn, when 80 and 100 % were reached, and the cycle it closes."""
    result = analysis.recharge
    assert result is not None
    expanded = analysis.budget.expanded if analysis.budget else 0.0
    runs = cycle_of(analysis, found)
    discharge = runs.discharge
    above = (
        round_trip_notices(discharge.result.delivered_wh, runs.drawn_wh)
        if discharge is not None and discharge.result is not None and runs.drawn_wh
        else []
    )
    ledger = ledger_of(analysis, found)
    return LedgerPage(
        headline=_headline(result),
        subtitle=subtitle,
        ledger=ledger,
        places=ledger_budgets(ledger.places, analysis, found) if ledger is not None else (),
        figures=(
            ("Drawn", f"{format_with_uncertainty(result.drawn_wh, expanded)} Wh"),
            *_times(analysis, result),
            *_efficiencies(result, runs, found),
        ),
        budget=budget,
        notices=(
            *(notice.message for notice in (*result.notices, *above)),
            *([wrong] if (wrong := set_against_drawn(analysis)) else ()),
        ),
        words=(
            *((_phases(analysis, result),) if result.phases else ()),
            *(_beside(beside.pair) for beside in inputs_beside(analysis, found)),
            *([told] if (told := from_other_sources(analysis, claims)) else ()),
            *(audit_words(analysis.audit) if analysis.audit is not None else ()),
        ),
        budgets=_budgets(analysis, runs, found),
        in_words=_phase_budgets(analysis, result),
    )


def _beside(pair: InputsTogether) -> str:
    """Two inputs at once, in a sentence."""
    mine, other = pair.names
    said = (
        f"Together with {other} for {format_span(pair.together_s)}: {mine} gave "
        f"{100 * pair.first_share:.0f} % of {sum(pair.energies_wh):.0f} Wh"
    )
    if pair.cap_w is not None:
        said += f"; the sum is capped at {pair.cap_w:.0f} W"
    if pair.yields:
        said += f"; {pair.yields} yields by {pair.yielded_w:.0f} W"
    return f"{said}."


def idle_page(analysis: RunAnalysis, subtitle: str) -> LedgerPage:
    """What the station used up by itself."""
    idle = analysis.idle
    assert idle is not None
    draw = Measured(value=idle.idle_w, budget=idle.budget)
    told = {
        "Idle draw": draw,
        "Self-discharge": draw.scaled(100 / analysis.station.rated_wh, "%/h"),
    }
    if idle.hours_to_empty is not None:
        days = idle.hours_to_empty / 24
        # Days are inverse to the draw: the same share either way.
        budget = draw.budget.scaled(days / idle.idle_w, "days")
        told["Full to empty"] = Measured(value=days, budget=budget)
    return LedgerPage(
        headline=f"{idle.idle_w:.1f} W are gone with nothing plugged in",
        subtitle=subtitle,
        ledger=None,
        figures=tuple(
            (name, f"{format_with_uncertainty(m.value, m.expanded)} {m.budget.unit}")
            for name, m in told.items()
        ),
        budget=(("The display's steps, ± ½ point at either end", f"{idle.idle_w_expanded:.1f} W"),),
        notices=(),
        words=("Idle draw comes from two display readings: twice the time halves its ±.",),
        budgets={name: measured.budget for name, measured in told.items()},
    )


def _headline(result: RechargeResult) -> str:
    took = f" in {format_span(result.duration_s)}" if result.duration_s else ""
    to_80 = _at(result, _TOLD_SOC)
    told = f", {_TOLD_SOC:g} % after {format_span(to_80.s)}" if to_80 is not None else ""
    return f"{result.drawn_wh:.0f} Wh drawn{took}{told}"


def _at(result: RechargeResult, soc: float) -> ToSoc | None:
    return next((at for at in result.to_soc if at.soc == soc), None)


def _times(analysis: RunAnalysis, result: RechargeResult) -> list[tuple[str, str]]:
    rows = []
    if result.duration_s is not None:
        rows.append(duration_row(result.duration_s, run_time_budget(analysis)))
    if result.mean_w is not None and result.peak_w is not None:
        rows.append(("Mean power", power_shown(result.mean_w, run_mean_power_budget(analysis))))
        peak = power_shown(result.peak_w, watts_budget(result.peak_w, analysis))
        rows.append(("Highest", peak))
    for soc in (_TOLD_SOC, 100.0):
        at = _at(result, soc)
        if at is not None:
            budget = _step_budget(at)
            within = (
                f" ± {budget.expanded:.{decimals_for(budget.expanded)}f} min"
                if budget is not None
                else ""
            )
            rows.append((f"To {soc:g} %", f"{format_clock(at.s)}{within}"))
    return rows


def _efficiencies(
    result: RechargeResult, runs: CycleRuns, found: StationRuns
) -> list[tuple[str, str]]:
    """Round trip and charge efficiency, each named for what it is."""
    rows = []
    drawn_wh, discharge = runs.drawn_wh or result.drawn_wh, runs.discharge
    if len(runs.recharges) > 1:
        drawn = drawn_of(runs)
        summed = format_with_uncertainty(drawn_wh, drawn.expanded if drawn else 0.0)
        rows.append((_drawn_title(runs), f"{summed} Wh"))
    if discharge is not None and discharge.result is not None:
        share = discharge.result.delivered_wh / drawn_wh
        measured = round_trip_of(runs)
        shown = format_with_uncertainty(100 * share, 100 * measured.expanded if measured else 0.0)
        rows.append((_round_trip_title(discharge), f"{shown} %"))
    efficiency = _charge_efficiency(result, runs, found)
    if efficiency is not None:
        title, of_store, share = efficiency
        expanded = 100 * of_store.expanded if of_store else 0.0
        rows.append((title, f"{format_with_uncertainty(100 * share, expanded)} %"))
    return rows


def _step_budget(at: ToSoc) -> Budget | None:
    """Of the time to a charge, min; None where the display was read too seldom."""
    return display_step_budget(at.plus_minus_s / 60, "min") if at.plus_minus_s else None


def _charge_efficiency(
    result: RechargeResult, runs: CycleRuns, found: StationRuns
) -> tuple[str, Measured | None, float] | None:
    """(title, measured, ratio) of stored ÷ drawn, named by what "stored" rests on."""
    drawn_wh = runs.drawn_wh or result.drawn_wh
    through = found.through(runs.discharge) if runs.discharge is not None else found.ac
    window = (result.soc[1] - result.soc[0]) / 100
    if window <= 0 or drawn_wh <= 0:
        return None
    spread: Budget | None = EXACT
    title, stored_wh = "Charge efficiency, rated ÷ drawn", result.window.rated_wh
    if through.split is not None and through.split.e0_wh.value:
        title, stored_wh = "Charge efficiency, fitted store ÷ drawn", through.split.e0_wh.value
        spread = fitted_terms(through)["Usable store"].budget
    drawn, measured = drawn_of(runs), None
    if drawn is not None and spread is not None:
        stored = Measured(value=stored_wh, budget=spread).scaled(window, "Wh")
        measured = ratio(stored, drawn, names=("Stored", "Drawn"))
    return title, measured, stored_wh * window / drawn_wh


def _drawn_title(runs: CycleRuns) -> str:
    return f"Drawn from {runs.source}"


def _round_trip_title(discharge: RunAnalysis) -> str:
    return f"Round trip, run {discharge.run.number} delivered ÷ drawn"


def _budgets(analysis: RunAnalysis, runs: CycleRuns, station: StationRuns) -> dict[str, Budget]:
    """What stands behind the energy drawn and the round trip."""
    found = {"Drawn": analysis.budget} if analysis.budget else {}
    peak_w = analysis.recharge.peak_w if analysis.recharge else None
    powers = {
        "Mean power": run_mean_power_budget(analysis),
        "Highest": watts_budget(peak_w, analysis) if peak_w is not None else None,
    }
    found |= {name: budget for name, budget in powers.items() if budget is not None}
    if analysis.recharge is not None:
        steps = ((at.soc, _step_budget(at)) for at in analysis.recharge.to_soc)
        found |= {f"To {soc:g} %": step for soc, step in steps if step is not None}
        efficiency = _charge_efficiency(analysis.recharge, runs, station)
        if efficiency is not None and efficiency[1] is not None:
            found[efficiency[0]] = efficiency[1].budget
    drawn, measured = drawn_of(runs), round_trip_of(runs)
    if drawn is not None and len(runs.recharges) > 1:
        found[_drawn_title(runs)] = drawn.budget
    if (time := run_time_budget(analysis)) is not None:
        found["Duration"] = time
    if measured is not None and runs.discharge is not None:
        found[_round_trip_title(runs.discharge)] = measured.budget
    return found


def _phase_shown(analysis: RunAnalysis, mean_w: float) -> str:
    return power_shown(mean_w, watts_budget(mean_w, analysis))


def _phase_budgets(analysis: RunAnalysis, result: RechargeResult) -> dict[str, Budget]:
    """Of each phase's power, by how it stands in the words."""
    found = ((p.mean_w, watts_budget(p.mean_w, analysis)) for p in result.phases)
    return {_phase_shown(analysis, watts): budget for watts, budget in found if budget is not None}


def _phases(analysis: RunAnalysis, result: RechargeResult) -> str:
    """The phases in one line; of many, as under clouds, the time spent in each kind."""
    if len(result.phases) > _MOST_PHASES:
        spent: dict[str, float] = {}
        for phase in result.phases:
            name = phase.name.words
            spent[name] = spent.get(name, 0.0) + phase.end_s - phase.start_s
        parts = [f"{name} {format_span(s)}" for name, s in spent.items()]
        return f"The power changes {len(result.phases) - 1} times: {', '.join(parts)} in all."
    parts = [
        f"{phase.name.words} {format_span(phase.end_s - phase.start_s)} at "
        f"{_phase_shown(analysis, phase.mean_w)}"
        for phase in result.phases
    ]
    text = ", then ".join(parts)
    return f"{text[0].upper()}{text[1:]}."
