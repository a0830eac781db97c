"""A figure against a yardstick, as a row with its verdict."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.conformance.verdict import Outcome, Rule, Verdict, judge
from yardtoll.core.conformance.yardsticks import Basis, Yardstick
from yardtoll.core.electrical.doubts import doubt_reason
from yardtoll.core.electrical.trace import Code
from yardtoll.core.formatting import format_probability, format_with_uncertainty
from yardtoll.core.uncertainty.budget import Budget, Measured
from yardtoll.review.budgets import NO_METER
from yardtoll.review.run_analysis import RunAnalysis


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
        repeat_to_empty: the run was ended by hand: one to empty would be better evidence.
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
    repeat_to_empty: bool = False


def judged_row(
    title: str,
    subtitle: str,
    analysis: RunAnalysis | None,
    value: float | None,
    measured: Measured | None,
    yardstick: Yardstick,
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
            yardstick.limit,
            yardstick.basis.direction,
            rule,
            coverage_factor=budget.coverage_factor if budget else 2.0,
            degrees_of_freedom=budget.degrees_of_freedom if budget else math.inf,
            doubt=doubt_reason(doubts) if doubts else "",
        )
        word = verdict.outcome.words
        reasons = (_figure_sentence(verdict, yardstick),)
        if verdict.outcome is Outcome.CANNOT_BE_JUDGED:
            reasons, verdict, budget = (f"{reasons[0]} {_sentence_of(verdict.reason)}",), None, None
    return YardstickRow(
        title=title, subtitle=subtitle, analysis=analysis, value=value, budget=budget,
        verdict=verdict, word=word, reasons=reasons,
    )  # fmt: skip


def _sentence_of(reason: str) -> str:
    return f"{reason[:1].upper()}{reason[1:]}."


def _figure_sentence(verdict: Verdict, yardstick: Yardstick) -> str:
    scale = 100.0 if yardstick.basis.is_share else 1.0
    unit = " %" if yardstick.basis.is_share else ""
    figure = format_figure(verdict.value, verdict.expanded, yardstick.basis)
    side = "above" if verdict.value >= verdict.limit else "below"
    apart = f"{scale * abs(verdict.value - verdict.limit):.2g}"
    said = f"{figure} {yardstick.basis.words}: {apart}{' points' if unit else ''} {side} "
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
