"""Each claim against the findings that speak to it: meets, falls short, or why neither can be said.

A claim is judged by a finding that meets its condition. Where several do, the latest stands, as
repeats at one load were averaged before. A lower bound can meet a limit; that it misses one says
nothing.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from yardtoll.core.claims.kinds import Claim, Group, Sense
from yardtoll.core.conformance.conditions import (
    DEFAULT_HOLD_S,
    HELD,
    HOLD_SLACK,
    Condition,
    misfit,
    read_condition,
)
from yardtoll.core.conformance.findings import Finding, Left
from yardtoll.core.conformance.settling import what_would_settle
from yardtoll.core.conformance.verdict import Direction, Outcome, Rule, Verdict, judge
from yardtoll.core.figures import (
    decimals_for,
    format_probability,
    format_span,
    format_with_uncertainty,
)
from yardtoll.core.uncertainty.budget import COVERAGE_FACTOR

_SENSES = {
    Sense.AT_LEAST: Direction.AT_LEAST,
    Sense.AT_MOST: Direction.AT_MOST,
    Sense.NOMINAL: Direction.WITHIN,
    Sense.YES_NO: Direction.WITHIN,
}


class Standing(StrEnum):
    """The words of a claim's verdict."""

    MEETS = "meets"
    FALLS_SHORT = "falls_short"
    TOO_CLOSE = "too_close_to_call"
    NOT_TESTED = "not_tested"
    CANNOT_BE_JUDGED = "cannot_be_judged"

    @property
    def words(self) -> str:
        """As shown to a reader."""
        return self.value.replace("_", " ")


@dataclass(frozen=True, kw_only=True)
class JudgedClaim:
    """A claim with its verdict.

    Attributes:
        finding, verdict: None where there is none to judge by.
        sentence: the verdict as one sentence with its figures, or why there is none.
        advice: what would bring a verdict; "" where nothing needs to.
        missing_method: key of the method that would test it, to be planned; "" where none would.
        missing_w: W of the load that run needs; None where the method's own will do.
    """

    claim: Claim
    standing: Standing
    finding: Finding | None = None
    verdict: Verdict | None = None
    sentence: str
    advice: str = ""
    missing_method: str = ""
    missing_w: float | None = None

    @property
    def figure(self) -> str:
        """What was found, with its ± and unit, or yes or no; "" where nothing was."""
        finding = self.finding
        if finding is None:
            return ""
        if self.claim.about.sense is Sense.YES_NO:
            return "yes" if finding.value else "no"
        expanded = finding.budget.expanded if finding.budget else 0.0
        figure = format_with_uncertainty(finding.value, expanded)
        return f"{figure} {self.claim.about.unit}".rstrip()


def stated_sentence(judged: Sequence[JudgedClaim]) -> str:
    """What is the maker's word alone, each figure once; "" where there is nothing."""
    words = dict.fromkeys(
        f"{j.claim.about.title} {j.claim.shown}" for j in judged if only_stated(j.claim)
    )
    return f"Said by the maker, not tested here: {'; '.join(words)}." if words else ""


def judge_claim(
    claim: Claim, findings: Sequence[Finding], left: Sequence[Left] = (), rule: Rule = Rule.GUARDED
) -> JudgedClaim:
    """Judge one claim by the findings of its kind, in the order of their runs."""
    if only_stated(claim):
        return JudgedClaim(
            claim=claim,
            standing=Standing.NOT_TESTED,
            sentence=_stated_words(claim, findings),
        )
    asked = read_condition(claim)
    mine = [finding for finding in findings if finding.kind == claim.kind]
    fitting = [finding for finding in mine if not misfit(claim, asked, finding)]
    if fitting and asked.open:
        return JudgedClaim(
            claim=claim,
            standing=Standing.CANNOT_BE_JUDGED,
            finding=fitting[-1],
            sentence=f"It is claimed “{asked.open}”, and no run notes that it was so.",
        )
    if fitting:
        return _judged(claim, asked, fitting[-1], rule)
    return _without(claim, asked, mine, left)


def only_stated(claim: Claim) -> bool:
    """Whether a claim is the maker's word alone, or about what is inside: no station is opened."""
    about = claim.about
    inside = about.group is Group.ENERGY and not about.method
    return about.sense is Sense.STATED or inside or claim.value is None


def _stated_words(claim: Claim, findings: Sequence[Finding]) -> str:
    """What was seen of a figure whose limits nobody tries."""
    seen = [found for found in findings if found.kind == claim.kind and found.runs]
    if not seen or claim.value is None:
        return "Said by the maker; nothing on this bench tests it."
    last = seen[-1]
    inside = last.value >= claim.value if claim.kind.endswith("_min") else last.value <= claim.value
    where = "within it" if inside else "outside it"
    return f"Said by the maker, its limit not tried; run {last.runs[-1]} {last.seen}, {where}."


def _without(
    claim: Claim, asked: Condition, mine: Sequence[Finding], left: Sequence[Left]
) -> JudgedClaim:
    """No finding fits: not tested, or tested in a way that cannot be judged."""
    missing_w = claim.value if claim.kind in HELD else asked.load_w
    others = [f"Run {out.run} {out.reason}" for out in left if out.kind == claim.kind]
    others += [f"{why[:1].upper()}{why[1:]}" for f in mine if (why := misfit(claim, asked, f))]
    method = claim.about.method
    return JudgedClaim(
        claim=claim,
        standing=Standing.CANNOT_BE_JUDGED if others else Standing.NOT_TESTED,
        sentence=f"{'; '.join(others)}."
        if others
        else ("No run tests it yet." if method else "Nothing on this bench tests it yet."),
        missing_method=method,
        missing_w=missing_w,
    )


def _judged(claim: Claim, asked: Condition, finding: Finding, rule: Rule) -> JudgedClaim:
    limit = claim.value if claim.value is not None else 1.0
    held = claim.kind in HELD
    if held and finding.stopped and (finding.held_s or 0.0) < (asked.held_s or DEFAULT_HOLD_S):
        return _stopped(claim, asked, finding)
    if finding.budget is None and rule is not Rule.SIMPLE:
        return JudgedClaim(
            claim=claim,
            standing=Standing.CANNOT_BE_JUDGED,
            finding=finding,
            sentence=finding.unknown or "The uncertainty of the figure is not known.",
        )
    verdict = judge(
        finding.value,
        finding.budget.expanded if finding.budget else 0.0,
        limit * (1 - HOLD_SLACK) if held else limit,
        _SENSES[claim.about.sense],
        rule,
        tolerance=claim.about.tolerance * limit,
        coverage_factor=finding.budget.coverage_factor if finding.budget else COVERAGE_FACTOR,
    )
    if finding.lower_bound and verdict.outcome is not Outcome.MEETS:
        return JudgedClaim(
            claim=claim,
            standing=Standing.CANNOT_BE_JUDGED,
            finding=finding,
            sentence=f"{_seen(claim, finding)}. {finding.why_bound}",
        )
    advice = ""
    if verdict.outcome is Outcome.TOO_CLOSE and finding.budget is not None:
        advice = what_would_settle(finding.value, finding.budget, abs(verdict.margin))
    return JudgedClaim(
        claim=claim,
        standing=Standing(verdict.outcome.value),
        finding=finding,
        verdict=verdict,
        sentence=_sentence(claim, finding, verdict),
        advice=advice,
    )


def _stopped(claim: Claim, asked: Condition, finding: Finding) -> JudgedClaim:
    lasted, wanted = finding.held_s or 0.0, asked.held_s or DEFAULT_HOLD_S
    return JudgedClaim(
        claim=claim,
        standing=Standing.FALLS_SHORT,
        finding=finding,
        sentence=f"The station shut off after {format_span(lasted)} at {finding.value:.0f} W, "
        f"before {format_span(wanted)} were over.",
    )


def _seen(claim: Claim, finding: Finding) -> str:
    """The figure with its ± and what it is."""
    if claim.about.sense is Sense.YES_NO:
        return f"Seen: {'yes' if finding.value else 'no'}{_of(finding)}"
    expanded = finding.budget.expanded if finding.budget else 0.0
    figure = format_with_uncertainty(finding.value, expanded)
    return f"{figure} {claim.about.unit}".rstrip() + _of(finding)


def _of(finding: Finding) -> str:
    return f" {finding.seen}" if finding.seen else ""


def _sentence(claim: Claim, finding: Finding, verdict: Verdict) -> str:
    """The finding, how far it is from the limit, and whether that is more than U."""
    lead = _seen(claim, finding)
    if claim.about.sense is Sense.YES_NO:
        return f"{lead}; claimed: {claim.shown}."
    unit = claim.about.unit
    against = f"{verdict.limit:g}"
    if verdict.direction is Direction.WITHIN:
        against += f" ± {verdict.tolerance:.3g}"
        side = "inside" if verdict.margin >= 0 else "outside"
    else:
        side = "above" if finding.value >= verdict.limit else "below"
    decimals = decimals_for(verdict.expanded) if verdict.expanded else 1
    apart = f"{abs(verdict.margin):.{decimals}f} {unit}".rstrip()
    said = f"{lead}: {apart} {side} {against} {unit}".rstrip()
    if claim.kind in HELD:
        said += f" ({claim.shown} − {HOLD_SLACK:.0%})"
    if not verdict.expanded:
        return f"{said}; the numbers alone."
    chance = f"Probability of conformity {format_probability(verdict.probability)}."
    if verdict.rule is Rule.SIMPLE:
        return f"{said}; the numbers alone. {chance}"
    if verdict.outcome is Outcome.TOO_CLOSE:
        return f"{said}, which its uncertainty does not settle. {chance}"
    if verdict.rule is Rule.SHARED:
        return f"{said}. {chance}"
    return f"{said}, more than its uncertainty. {chance}"
