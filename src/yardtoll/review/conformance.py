"""A station's claims and yardsticks judged, from its runs and from what was noted."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.judging import JudgedClaim, judge_claim
from yardtoll.core.conformance.verdict import Outcome, Rule, Verdict, judge
from yardtoll.core.conformance.yardsticks import Basis, Yardstick, judge_discharge
from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.discharge.repeats import SAME_LOAD_SHARE
from yardtoll.core.electrical.doubts import doubt_reason
from yardtoll.core.electrical.trace import Code
from yardtoll.core.formatting import format_probability, format_with_uncertainty
from yardtoll.core.ledger.loss_fit import REPEATABILITY_FREEDOM
from yardtoll.core.methods import METHODS
from yardtoll.core.uncertainty.budget import Budget, Measured, station_mean
from yardtoll.core.uncertainty.energy_budget import usable_ratio, usable_ratio_window
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.cycle_figures import doubts_of_cycle, station_round_trip
from yardtoll.review.findings.budgets import EXACT, NO_METER
from yardtoll.review.findings.station import findings
from yardtoll.review.fitted import EXACT_FIT, fitted_euro, fitted_terms
from yardtoll.review.port_runs import Port, port_of
from yardtoll.review.together import CycleRuns, StationRuns, cycle_of
from yardtoll.review.when import local_date
from yardtoll.store.records import Observation, Receiving, RunState

FULL_LOAD_SHARE = 0.95
"""A discharge at this share of the rated W is one at full load."""


@dataclass(frozen=True, kw_only=True)
class YardstickRow:
    """One figure against a yardstick.

    Attributes:
        analysis: the run to open as evidence; None where there is none.
        verdict: None where it cannot be judged.
        word: meets, falls short, void …
        lower_bound: the value is only what was seen; there may be more.
        at_most: the value is a bound from above: nothing is judged by it.
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
    at_most: bool = False


def judged_claims(
    found: StationRuns,
    claims: Sequence[Claim],
    receiving: Receiving | None = None,
    observations: Sequence[Observation] = (),
    rule: Rule = Rule.GUARDED,
) -> list[JudgedClaim]:
    """Every claim with its verdict, in the order of the claims."""
    made, excluded = findings(found, claims, receiving, observations)
    return [judge_claim(claim, made, excluded, rule, claims) for claim in claims]


def stick_rows(
    found: StationRuns, stick: Yardstick, rule: Rule, receiving: Receiving | None = None
) -> list[YardstickRow]:
    """Everything of a station that a yardstick speaks to; runs at different loads stay apart."""
    if stick.basis is Basis.ROUND_TRIP:
        return [_round_trip(cycle, stick, rule) for cycle in _cycles(found)]
    if stick.basis is Basis.CONVERSION:
        return _conversion(found, stick, rule)
    if stick.basis is Basis.PRICE_PER_WH:
        return _price(found, stick, rule, receiving)
    runs = [a for a in found.analyses if METHODS[a.run.method].gives_capacity]
    return [
        _of_runs(same, stick, rule)
        for same in _repeats([a for a in runs if _speaks(a, stick.basis)])
    ]


def _repeats(runs: Sequence[RunAnalysis]) -> list[list[RunAnalysis]]:
    """Runs that say one thing of the station: whole ones of a method, window and load together.

    Every other run stands by itself.
    """
    groups: list[list[RunAnalysis]] = []
    for run in runs:
        fitting = next((g for g in groups if _are_repeats(g[0], run)), None)
        if fitting is None:
            groups.append([run])
        else:
            fitting.append(run)
    return groups


def _are_repeats(one: RunAnalysis, other: RunAnalysis) -> bool:
    if not (one.counts and other.counts and one.result and other.result):
        return False
    if one.doubts or other.doubts or _incomplete(one.result) or _incomplete(other.result):
        return False
    if not (one.result.mean_w and other.result.mean_w):
        return False
    alike = (one.run.method, one.run.soc_from, one.run.soc_to) == (
        other.run.method,
        other.run.soc_from,
        other.run.soc_to,
    )
    return alike and abs(other.result.mean_w / one.result.mean_w - 1) <= SAME_LOAD_SHARE


def _speaks(analysis: RunAnalysis, basis: Basis) -> bool:
    """Whether a capacity run is one that the yardstick is for."""
    port = port_of(analysis)
    if basis is Basis.OF_RATED_DC:
        return port is Port.DC
    if basis is Basis.FULL_LOAD:
        mean_w = analysis.result.mean_w if analysis.result else None
        return port is Port.AC and (mean_w or 0.0) >= FULL_LOAD_SHARE * analysis.station.rated_w
    return port is Port.AC or basis is Basis.OF_WINDOW


def _of_runs(same: Sequence[RunAnalysis], stick: Yardstick, rule: Rule) -> YardstickRow:
    """Repeats of one load, or one run, as what they say of the station."""
    analysis = same[-1]
    run, result = analysis.run, analysis.result
    load = f" at {result.mean_w:.0f} W" if result and result.mean_w else ""
    c_rate = f" · {result.c_rate:.2f} C" if result and result.c_rate else ""
    port = ", DC" if port_of(analysis) is Port.DC else ""
    numbers = ", ".join(str(a.run.number) for a in same)
    title = f"Run{'s' if len(same) > 1 else ''} {numbers}{load}{port}"
    subtitle = f"{run.soc_from:g} → {run.soc_to:g} %{c_rate} · {local_date(run.started_at)}"
    if len(same) > 1:
        subtitle += f" · mean of {len(same)}"
    measured = _ratio(same, stick) if run.state != RunState.VOID.value else None
    value = measured.value if measured is not None else None

    def unjudged(word: str, reason: str) -> YardstickRow:
        return YardstickRow(
            title=title, subtitle=subtitle, analysis=analysis, value=value, budget=None,
            verdict=None, word=word, reasons=(reason,),
        )  # fmt: skip

    if run.state == RunState.VOID.value:
        return unjudged("void", f"Void and kept: {run.void_reason or 'no reason given'}.")
    if result is None or measured is None:
        return unjudged("cannot be judged", analysis.problem)
    without_meter = any(a.budget is None for a in same)
    if without_meter and rule is not Rule.SIMPLE:
        return unjudged("cannot be judged", f"{NO_METER} Or judge by the simple rule.")
    judged = judge_discharge(result, measured, stick, rule, analysis.doubts)
    if judged.verdict.outcome is not Outcome.MEETS and (incomplete := _incomplete(result)):
        return replace(unjudged("cannot be judged", incomplete), lower_bound=True)
    if judged.verdict.outcome is Outcome.CANNOT_BE_JUDGED:
        return replace(unjudged("cannot be judged", judged.reasons[0]), reasons=judged.reasons)
    return YardstickRow(
        title=title, subtitle=subtitle, analysis=analysis, value=value,
        budget=None if without_meter else measured.budget,
        verdict=judged.verdict, word=judged.verdict.outcome.words, reasons=judged.reasons,
    )  # fmt: skip


def _ratio(same: Sequence[RunAnalysis], stick: Yardstick) -> Measured | None:
    """Delivered ÷ rated of the station; without a budget's lines where a meter is not stated."""
    parts = []
    for analysis in same:
        result = analysis.result
        if result is None:
            return None
        share = usable_ratio_window if stick.basis is Basis.OF_WINDOW else usable_ratio
        parts.append(share(result, analysis.budget or Budget(unit="Wh", lines=())))
    if any(analysis.budget is None for analysis in same):
        value = sum(part.value for part in parts) / len(parts)
        return Measured(value=value, budget=Budget(unit="", lines=()))
    return station_mean(parts, same[0].repeatability, REPEATABILITY_FREEDOM)


def _incomplete(result: DischargeResult) -> str:
    """Why the delivered energy is only a lower bound, "" if it is all there was.

    A lower bound that meets a limit meets it; one that does not says nothing.
    """
    if result.has(Code.NO_CUTOFF):
        return "The run ends under load: the station may have had more to give. Run it to empty."
    if result.has(Code.STARTS_LOADED):
        return "The log begins under load: what was delivered before is not in it."
    return ""


def _cycles(found: StationRuns) -> list[CycleRuns]:
    """Every discharge with the recharge that follows it, each recharge once."""
    cycles = [cycle_of(a, found) for a in found.analyses if a.counts]
    return [c for c in cycles if c.recharges and c.discharge is not None]


def _round_trip(cycle: CycleRuns, stick: Yardstick, rule: Rule) -> YardstickRow:
    discharge = cycle.discharge
    assert discharge is not None
    assert discharge.result is not None
    runs = "+".join(str(a.run.number) for a in cycle.recharges)
    load = f" at {discharge.result.mean_w:.0f} W" if discharge.result.mean_w else ""
    title = f"Run {discharge.run.number}{load}, recharged in run {runs}"
    subtitle = f"delivered ÷ drawn from {cycle.source} · {local_date(discharge.run.started_at)}"
    value = discharge.result.delivered_wh / cycle.drawn_wh if cycle.drawn_wh else None
    trip = station_round_trip(cycle)
    doubts = doubts_of_cycle(cycle)
    if value is not None and value > 1:
        reason = "More came out than went in: another window, a second input, or a wrong meter."
        return YardstickRow(
            title=title, subtitle=subtitle, analysis=discharge, value=None, budget=None,
            verdict=None, word="cannot be judged", reasons=(reason,),
        )  # fmt: skip
    return _judged_row(title, subtitle, discharge, value, trip, stick, rule, doubts)


def _conversion(found: StationRuns, stick: Yardstick, rule: Rule) -> list[YardstickRow]:
    split = found.ac.split
    if split is None:
        return []
    title = f"Fitted from {len(found.ac.points)} AC runs"
    subtitle = "output ÷ battery power, Euro weights"
    counted = [a for a in found.analyses if a.counts]
    latest = counted[-1] if counted else None
    if split.euro_at_most is not None:
        bound = fitted_terms(found.ac)["Euro weights"]
        reason = (
            f"Conversion is {bound.shown}: without an idle test sharp enough its proportional part "
            "is not known, so nothing is judged by it."
        )
        return [
            YardstickRow(
                title=title, subtitle=subtitle, analysis=latest, value=split.euro_at_most,
                budget=None, verdict=None, word="cannot be judged", reasons=(reason,),
                at_most=True,
            )
        ]  # fmt: skip
    if split.euro_efficiency is None:
        return []
    row = _judged_row(
        title, subtitle, latest, split.euro_efficiency, fitted_euro(found.ac), stick, rule
    )
    return [row if split.freedom else replace(row, reasons=(*row.reasons, EXACT_FIT))]


def _price(
    found: StationRuns, stick: Yardstick, rule: Rule, receiving: Receiving | None
) -> list[YardstickRow]:
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
    doubts: Sequence[Code] = (),
) -> YardstickRow:
    """A figure that is no plain discharge."""
    budget = measured.budget if measured else None
    verdict, word, reasons = None, "cannot be judged", (NO_METER,)
    if value is not None and (budget is not None or rule is Rule.SIMPLE):
        verdict = judge(
            value,
            budget.expanded if budget else 0.0,
            stick.limit,
            stick.basis.direction,
            rule,
            coverage_factor=budget.coverage_factor if budget else 2.0,
            freedom=budget.freedom if budget else math.inf,
            doubt=doubt_reason(doubts) if doubts else "",
        )
        word = verdict.outcome.words
        reasons = (_figure_sentence(verdict, stick),)
        if verdict.outcome is Outcome.CANNOT_BE_JUDGED:
            reasons, verdict, budget = (f"{reasons[0]} {_sentence_of(verdict.reason)}",), None, None
    return YardstickRow(
        title=title, subtitle=subtitle, analysis=analysis, value=value, budget=budget,
        verdict=verdict, word=word, reasons=reasons,
    )  # fmt: skip


def _sentence_of(reason: str) -> str:
    return f"{reason[:1].upper()}{reason[1:]}."


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
