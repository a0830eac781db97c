"""A charge's page: what was drawn, when 80 and 100 % were reached, and the cycle it closes."""

from collections.abc import Sequence

from yardtoll.core.charge.analysis import RechargeResult, round_trip_notices
from yardtoll.core.charge.figures import USUAL_TARGET_SOC, time_to
from yardtoll.core.charge.inputs_together import InputsTogether
from yardtoll.core.claims.kinds import Claim
from yardtoll.core.formatting import format_span
from yardtoll.core.uncertainty.budget import Budget, Measured, Worked, ratio
from yardtoll.core.uncertainty.figure import Figure, Sentence, Style
from yardtoll.review.budgets import EXACT, watts_budget
from yardtoll.review.display_words import audit_words
from yardtoll.review.kinds.charge.analysis import ChargeOutcome
from yardtoll.review.kinds.charge.other_sources import from_other_sources, set_against_drawn
from yardtoll.review.page import RunPage
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.beside import inputs_beside
from yardtoll.review.station.cycle import CycleRuns, cycle_of, ledger_of, round_trip_of
from yardtoll.review.station.fitted import Fitted, fitted_terms, ledger_budgets
from yardtoll.review.station.runs import StationRuns

_MOST_PHASES = 8


def charge_page(
    run: RunAnalysis, outcome: ChargeOutcome, station: StationRuns, claims: Sequence[Claim]
) -> RunPage:
    """One charge beside the station's other runs."""
    result = outcome.result
    cycle = cycle_of(run, station)
    above = (
        round_trip_notices(cycle.delivered_wh, cycle.drawn_wh)
        if cycle.delivered_wh is not None and cycle.drawn_wh
        else []
    )
    ledger = ledger_of(run, station)
    return RunPage(
        headline=_headline(result),
        ledger=ledger,
        places=ledger_budgets(ledger.places, run, station) if ledger is not None else (),
        figures=(*outcome.figures, *_efficiencies(result, cycle, station)),
        notices=(
            *(notice.message for notice in (*result.notices, *above)),
            *([wrong] if (wrong := set_against_drawn(run)) else ()),
        ),
        words=(
            *((_phases(run, result),) if result.phases else ()),
            *((_inputs_together(beside.pair),) for beside in inputs_beside(run, station)),
            *([(other,)] if (other := from_other_sources(run, claims)) else ()),
            *((said,) for said in (audit_words(outcome.audit) if outcome.audit else ())),
        ),
    )


def _inputs_together(pair: InputsTogether) -> str:
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


def _headline(result: RechargeResult) -> str:
    took = f" in {format_span(result.duration_s)}" if result.duration_s else ""
    reached = time_to(result, USUAL_TARGET_SOC)
    after = f", {USUAL_TARGET_SOC:g} % after {format_span(reached.s)}" if reached else ""
    if result.drawn_wh is None:
        return f"Charged{took}{after}, energy not read"
    return f"{result.drawn_wh:.0f} Wh drawn{took}{after}"


def _efficiencies(result: RechargeResult, cycle: CycleRuns, station: StationRuns) -> list[Figure]:
    """Round trip and charge efficiency, each named for what it is."""
    found = []
    drawn_wh = cycle.drawn_wh or result.drawn_wh
    if not drawn_wh:
        return []
    if len(cycle.charges) > 1:
        drawn = cycle.drawn
        found.append(
            Figure(
                key="drawn_from_all_wh",
                title=f"Drawn from {cycle.source}",
                value=drawn_wh,
                unit="Wh",
                budget=drawn.budget if drawn is not None else None,
            )
        )
    if cycle.delivered_wh is not None and cycle.discharge is not None:
        measured = round_trip_of(cycle)
        found.append(
            Figure(
                key="round_trip",
                title=f"Round trip, run {cycle.discharge.run.number} delivered ÷ drawn",
                value=cycle.delivered_wh / drawn_wh,
                budget=measured.budget if measured is not None else None,
                style=Style.PERCENT,
                worked=Worked(
                    formula="delivered ÷ drawn, over the same window of charge",
                    put_in=f"{cycle.delivered_wh:.1f} Wh ÷ {drawn_wh:.1f} Wh = "
                    f"{100 * cycle.delivered_wh / drawn_wh:.2f} %",
                    source="definition; it is no charge efficiency",
                ),
            )
        )
    efficiency = _charge_efficiency(result, cycle, station)
    return [*found, efficiency] if efficiency is not None else found


def _charge_efficiency(
    result: RechargeResult, cycle: CycleRuns, station: StationRuns
) -> Figure | None:
    """Stored ÷ drawn, named by what "stored" rests on."""
    drawn_wh = cycle.drawn_wh or result.drawn_wh
    through = station.through(cycle.discharge) if cycle.discharge is not None else station.ac
    window = (result.soc[1] - result.soc[0]) / 100
    if window <= 0 or not drawn_wh:
        return None
    spread: Budget | None = EXACT
    title, stored_wh = "Charge efficiency, rated ÷ drawn", result.window.rated_wh
    store = fitted_terms(through).get(Fitted.STORE)
    if store is not None and store.value:
        title, stored_wh = "Charge efficiency, fitted store ÷ drawn", store.value
        spread = store.budget
    budget, drawn = None, cycle.drawn
    if drawn is not None and spread is not None:
        stored = Measured(value=stored_wh, budget=spread).scaled(window, "Wh")
        budget = ratio(stored, drawn, names=("Stored", "Drawn")).budget
    return Figure(
        key="charge_efficiency",
        title=title,
        value=stored_wh * window / drawn_wh,
        budget=budget,
        style=Style.PERCENT,
    )


def _phases(run: RunAnalysis, result: RechargeResult) -> Sentence:
    """The phases in one line; of many, as under clouds, the time spent in each kind."""
    if len(result.phases) > _MOST_PHASES:
        spent: dict[str, float] = {}
        for phase in result.phases:
            name = phase.name.words
            spent[name] = spent.get(name, 0.0) + phase.end_s - phase.start_s
        parts = [f"{name} {format_span(s)}" for name, s in spent.items()]
        return (f"The power changes {len(result.phases) - 1} times: {', '.join(parts)} in all.",)
    said: list[str | Figure] = []
    for place, phase in enumerate(result.phases):
        words = f"{phase.name.words} {format_span(phase.end_s - phase.start_s)} at "
        said.append(f", then {words}" if place else f"{words[:1].upper()}{words[1:]}")
        said.append(
            Figure(
                key="mean_w",
                title=f"{phase.name.words[:1].upper()}{phase.name.words[1:]}",
                value=phase.mean_w,
                unit="W",
                budget=watts_budget(phase.mean_w, run),
            )
        )
    return (*said, ".")
