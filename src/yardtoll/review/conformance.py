"""A station's claims and yardsticks judged, from its runs and from what was noted."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.judging import JudgedClaim, judge_claim
from yardtoll.core.conformance.verdict import Outcome, Rule, Verdict, judge
from yardtoll.core.conformance.yardsticks import Basis, Yardstick, judge_discharge
from yardtoll.core.discharge import DischargeResult
from yardtoll.core.figures import format_probability, format_with_uncertainty
from yardtoll.core.methods import METHODS
from yardtoll.core.trace import Code
from yardtoll.core.uncertainty.budget import Budget, Measured
from yardtoll.core.uncertainty.energy_budget import usable_ratio, usable_ratio_window
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.cycle_figures import round_trip_of
from yardtoll.review.findings.budgets import EXACT, NO_METER
from yardtoll.review.findings.station import findings
from yardtoll.review.fitted import EXACT_FIT, fitted_euro
from yardtoll.review.port_runs import Port, port_of
from yardtoll.review.together import CycleRuns, Together, cycle_of
from yardtoll.review.when import local_date
from yardtoll.store.records import Observation, Receiving, RunState

FULL_LOAD_SHARE = 0.95
"""A discharge at this share of the rated W is one at full load."""


@dataclass(frozen=True, kw_only=True)
class StickRow:
    """One figure against a yardstick.

    Attributes:
        analysis: the run to open as evidence; None where there is none.
        verdict: None where it cannot be judged.
        word: meets, falls short, void …
        lower_bound: the value is only what was seen; there may be more.
        value: None where there is no figure.
    """

    title: str
    subtitle: str
    analysis: RunAnalysis | None
    value: float | None
    budget: Budget | None
    verdict: Verdict | None
    word: str
    reasons: tuple[str, ...]
    lower_bound: bool = False


def judged_claims(
    found: Together,
    claims: Sequence[Claim],
    receiving: Receiving | None = None,
    observations: Sequence[Observation] = (),
    rule: Rule = Rule.GUARDED,
) -> list[JudgedClaim]:
    """Every claim with its verdict, in the order of the claims."""
    made, left = findings(found, claims, receiving, observations)
    return [judge_claim(claim, made, left, rule) for claim in claims]


def stick_rows(
    found: Together, stick: Yardstick, rule: Rule, receiving: Receiving | None = None
) -> list[StickRow]:
    """Everything of a station that a yardstick speaks to; runs at different loads stay apart."""
    if stick.basis is Basis.ROUND_TRIP:
        return [_round_trip(cycle, stick, rule) for cycle in _cycles(found)]
    if stick.basis is Basis.CONVERSION:
        return _conversion(found, stick, rule)
    if stick.basis is Basis.PRICE_PER_WH:
        return _price(found, stick, rule, receiving)
    runs = [a for a in found.analyses if METHODS[a.run.method].gives_capacity]
    return [_of_run(a, stick, rule) for a in runs if _speaks(a, stick.basis)]


def _speaks(analysis: RunAnalysis, basis: Basis) -> bool:
    """Whether a capacity run is one that the yardstick is for."""
    port = port_of(analysis)
    if basis is Basis.OF_RATED_DC:
        return port is Port.DC
    if basis is Basis.FULL_LOAD:
        mean_w = analysis.result.mean_w if analysis.result else None
        return port is Port.AC and (mean_w or 0.0) >= FULL_LOAD_SHARE * analysis.station.rated_w
    return port is Port.AC or basis is Basis.OF_WINDOW


def _of_run(analysis: RunAnalysis, stick: Yardstick, rule: Rule) -> StickRow:
    run, result = analysis.run, analysis.result
    load = f" at {result.mean_w:.0f} W" if result and result.mean_w else ""
    c_rate = f" · {result.c_rate:.2f} C" if result and result.c_rate else ""
    port = ", DC" if port_of(analysis) is Port.DC else ""
    title = f"Run {run.number}{load}{port}"
    subtitle = f"{run.soc_from:g} → {run.soc_to:g} %{c_rate} · {local_date(run.started_at)}"
    value = None
    if result is not None and run.state != RunState.VOID.value:
        windowed = stick.basis is Basis.OF_WINDOW
        value = result.usable_ratio_window if windowed else result.usable_ratio

    def unjudged(word: str, reason: str) -> StickRow:
        return StickRow(
            title=title, subtitle=subtitle, analysis=analysis, value=value, budget=None,
            verdict=None, word=word, reasons=(reason,),
        )  # fmt: skip

    if run.state == RunState.VOID.value:
        return unjudged("void", f"Void and kept: {run.void_reason or 'no reason given'}.")
    if result is None:
        return unjudged("cannot be judged", analysis.problem)
    if analysis.budget is None and rule is not Rule.SIMPLE:
        return unjudged("cannot be judged", f"{NO_METER} Or judge by the simple rule.")
    share = usable_ratio_window if stick.basis is Basis.OF_WINDOW else usable_ratio
    budget = share(result, analysis.budget).budget if analysis.budget else None
    expanded = budget.expanded if budget else 0.0
    judged = judge_discharge(result, expanded, stick, rule)
    if judged.verdict.outcome is not Outcome.MEETS and (incomplete := _incomplete(result)):
        return replace(unjudged("cannot be judged", incomplete), lower_bound=True)
    return StickRow(
        title=title, subtitle=subtitle, analysis=analysis, value=value, budget=budget,
        verdict=judged.verdict, word=judged.verdict.outcome.words, reasons=judged.reasons,
    )  # fmt: skip


def _incomplete(result: DischargeResult) -> str:
    """Why the delivered energy is only a lower bound, "" if it is all there was.

    A lower bound that meets a limit meets it; one that does not says nothing.
    """
    if result.has(Code.NO_CUTOFF):
        return "The run ends under load: the station may have had more to give. Run it to empty."
    if result.has(Code.STARTS_LOADED):
        return "The log begins under load: what was delivered before is not in it."
    return ""


def _cycles(found: Together) -> list[CycleRuns]:
    """Every discharge with the recharge that follows it, each recharge once."""
    cycles = [cycle_of(a, found) for a in found.analyses if a.counts]
    return [c for c in cycles if c.recharges and c.discharge is not None]


def _round_trip(cycle: CycleRuns, stick: Yardstick, rule: Rule) -> StickRow:
    discharge = cycle.discharge
    assert discharge is not None
    assert discharge.result is not None
    runs = "+".join(str(a.run.number) for a in cycle.recharges)
    load = f" at {discharge.result.mean_w:.0f} W" if discharge.result.mean_w else ""
    title = f"Run {discharge.run.number}{load}, recharged in run {runs}"
    subtitle = f"delivered ÷ drawn from {cycle.source} · {local_date(discharge.run.started_at)}"
    value = discharge.result.delivered_wh / cycle.drawn_wh if cycle.drawn_wh else None
    return _judged_row(title, subtitle, discharge, value, round_trip_of(cycle), stick, rule)


def _conversion(found: Together, stick: Yardstick, rule: Rule) -> list[StickRow]:
    split = found.ac.split
    if split is None or split.euro_efficiency is None:
        return []
    counted = [a for a in found.analyses if a.counts]
    title = f"Fitted from {len(found.ac.points)} AC runs"
    row = _judged_row(
        title, "output ÷ battery power, Euro weights", counted[-1] if counted else None,
        split.euro_efficiency, fitted_euro(found.ac), stick, rule,
    )  # fmt: skip
    return [row if split.freedom else replace(row, reasons=(*row.reasons, EXACT_FIT))]


def _price(
    found: Together, stick: Yardstick, rule: Rule, receiving: Receiving | None
) -> list[StickRow]:
    if receiving is None or not receiving.price or not found.analyses:
        return []
    station = found.analyses[0].station
    value = receiving.price / station.rated_wh
    measured = Measured(value=value, budget=EXACT)
    money = f"{receiving.price:g} {receiving.currency}".rstrip()
    title = f"{money} for {station.rated_wh:g} Wh"
    return [_judged_row(title, "price ÷ rated energy", None, value, measured, stick, rule)]


def _judged_row(
    title: str,
    subtitle: str,
    analysis: RunAnalysis | None,
    value: float | None,
    measured: Measured | None,
    stick: Yardstick,
    rule: Rule,
) -> StickRow:
    """A figure that is no plain discharge."""
    budget = measured.budget if measured else None
    verdict, word, reasons = None, "cannot be judged", (NO_METER,)
    if value is not None and (budget is not None or rule is Rule.SIMPLE):
        expanded = budget.expanded if budget else 0.0
        verdict = judge(value, expanded, stick.limit, stick.basis.direction, rule)
        word = verdict.outcome.words
        reasons = (_figure_sentence(verdict, stick),)
    return StickRow(
        title=title, subtitle=subtitle, analysis=analysis, value=value, budget=budget,
        verdict=verdict, word=word, reasons=reasons,
    )  # fmt: skip


def _figure_sentence(verdict: Verdict, stick: Yardstick) -> str:
    scale = 100.0 if stick.basis.is_share else 1.0
    unit = " %" if stick.basis.is_share else ""
    figure = format_figure(verdict.value, verdict.expanded, stick.basis)
    side = "above" if verdict.value >= verdict.limit else "below"
    apart = f"{scale * abs(verdict.value - verdict.limit):.2g}"
    said = f"{figure} {stick.basis.words}: {apart}{' points' if unit else ''} {side} "
    said += f"{scale * verdict.limit:g}{unit}"
    if not verdict.expanded:
        return f"{said}."
    chance = f"Probability of conformity {format_probability(verdict.probability)}."
    if verdict.outcome is Outcome.TOO_CLOSE:
        return f"{said}, which its uncertainty does not settle. {chance}"
    return f"{said}. {chance}"


def format_figure(value: float, expanded: float, basis: Basis) -> str:
    """Like "84.7 ± 0.3 %" or "0.56"."""
    if basis.is_share:
        return f"{format_with_uncertainty(100 * value, 100 * expanded)} %"
    return f"{value:.2f}"
