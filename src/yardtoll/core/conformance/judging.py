"""Each claim against the findings that speak to it: meets, falls short, or why neither can be said.

A claim is judged by a finding that meets its condition. Where several do, the latest counts, as
repeats at one load were averaged before. A lower bound can meet a limit; that it misses one says
nothing.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from yardtoll.core.claims.kinds import CLAIM_KINDS, Claim, GoodSide, Group
from yardtoll.core.claims.meaning import LimitType, Meaning, meaning_of
from yardtoll.core.conformance.conditions import (
    CONTINUOUS,
    DEFAULT_HOLD_S,
    HELD,
    SURGE_S,
    SURGE_W,
    Condition,
    mismatch_reason,
    read_condition,
    surge_pair,
)
from yardtoll.core.conformance.findings import ExcludedRun, Finding
from yardtoll.core.conformance.service_volts import service_words
from yardtoll.core.conformance.settling import what_would_settle
from yardtoll.core.conformance.verdict import Direction, Outcome, Rule, Verdict, judge
from yardtoll.core.electrical.doubts import doubt_reason
from yardtoll.core.formatting import (
    decimals_for,
    format_probability,
    format_span,
    format_with_uncertainty,
)
from yardtoll.core.methods import method_testing


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
        meaning: how the claim is read; None for what is the maker's word alone.
        missing_method: key of the method that would test it, to be planned; "" where none would.
        missing_w: W of the load that run needs; None where the method's own will do.
    """

    claim: Claim
    standing: Standing
    finding: Finding | None = None
    verdict: Verdict | None = None
    sentence: str
    advice: str = ""
    meaning: Meaning | None = None
    missing_method: str = ""
    missing_w: float | None = None

    @property
    def figure(self) -> str:
        """What was found, with its ± and unit, or yes or no; "" where nothing was."""
        finding = self.finding
        if finding is None:
            return ""
        if finding.agrees is not None:
            return "yes" if finding.agrees else "no"
        # The seconds of a surge are judged by the watts that were held for them.
        unit = CLAIM_KINDS[finding.kind].unit
        expanded = finding.budget.expanded if finding.budget else 0.0
        if finding.ends is not None:
            return f"{_ends_shown(finding)} {unit}".rstrip()
        return f"{format_with_uncertainty(finding.value, expanded)} {unit}".rstrip()


def stated_sentence(judged: Sequence[JudgedClaim]) -> str:
    """What is the maker's word alone, each figure once; "" where there is nothing."""
    words = dict.fromkeys(
        f"{j.claim.about.title} {j.claim.shown}" for j in judged if only_stated(j.claim)
    )
    return f"Said by the maker, not tested here: {'; '.join(words)}." if words else ""


def judge_claim(
    claim: Claim,
    findings: Sequence[Finding],
    excluded: Sequence[ExcludedRun] = (),
    rule: Rule = Rule.GUARDED,
    claims: Sequence[Claim] = (),
) -> JudgedClaim:
    """Judge one claim by the findings of its kind, in the order of their runs.

    Args:
        claims: the station's other claims: surge watts and seconds of one source are one claim.
    """
    if only_stated(claim):
        return JudgedClaim(
            claim=claim,
            standing=Standing.NOT_TESTED,
            sentence=_stated_words(claim, findings),
        )
    asked = read_condition(claim)
    kind = claim.kind
    if kind == SURGE_S:
        return _judged_with_watts(claim, findings, excluded, rule, claims)
    mine = [finding for finding in findings if finding.kind == kind]
    fitting = [finding for finding in mine if not mismatch_reason(claim, asked, finding)]
    meaning = meaning_of(claim)
    if fitting and asked.open:
        return JudgedClaim(
            claim=claim,
            standing=Standing.CANNOT_BE_JUDGED,
            finding=fitting[-1],
            meaning=meaning,
            sentence=f"It is claimed “{asked.open}”, and no run notes that it was so.",
        )
    if fitting:
        return _judged(claim, asked, fitting[-1], rule, meaning)
    return replace(_without(claim, asked, mine, excluded), meaning=meaning)


def _judged_with_watts(
    claim: Claim,
    findings: Sequence[Finding],
    excluded: Sequence[ExcludedRun],
    rule: Rule,
    claims: Sequence[Claim],
) -> JudgedClaim:
    """Seconds of a surge: judged with the watts they are claimed for, or not at all."""
    partner = next(
        (
            c
            for c in claims
            if c.kind == SURGE_W and surge_pair(c, claims) == surge_pair(claim, claims)
        ),
        None,
    )
    if partner is None:
        return JudgedClaim(
            claim=claim,
            standing=Standing.CANNOT_BE_JUDGED,
            meaning=meaning_of(claim),
            sentence="No watts are claimed beside these seconds, so nothing can be tested.",
        )
    judged = judge_claim(partner, findings, excluded, rule, claims)
    return replace(judged, claim=claim, sentence=f"With {partner.shown}: {judged.sentence}")


def only_stated(claim: Claim) -> bool:
    """Whether a claim is the maker's word alone, or about what is inside: no station is opened."""
    about = claim.about
    inside = about.group is Group.ENERGY and method_testing(claim.kind) is None
    return about.good_side is GoodSide.STATED or inside or claim.value is None


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
    claim: Claim, asked: Condition, mine: Sequence[Finding], excluded: Sequence[ExcludedRun]
) -> JudgedClaim:
    """No finding fits: not tested, or tested in a way that cannot be judged."""
    missing_w = claim.value if claim.kind in (*HELD, SURGE_W) else asked.load_w
    others = [f"Run {out.run} {out.reason}" for out in excluded if out.kind == claim.kind]
    others += [
        f"{why[:1].upper()}{why[1:]}" for f in mine if (why := mismatch_reason(claim, asked, f))
    ]
    method = method_testing(claim.kind)
    return JudgedClaim(
        claim=claim,
        standing=Standing.CANNOT_BE_JUDGED if others else Standing.NOT_TESTED,
        sentence=f"{'; '.join(others)}."
        if others
        else (claim.about.needs or "No run tests it yet.")
        if method
        else "Nothing on this bench tests it yet.",
        missing_method=method.key if method else "",
        missing_w=missing_w,
    )


def _judged(
    claim: Claim, asked: Condition, finding: Finding, rule: Rule, meaning: Meaning
) -> JudgedClaim:
    if finding.agrees is not None:
        return _seen_by_eye(claim, finding, meaning)

    def cannot(sentence: str) -> JudgedClaim:
        return JudgedClaim(
            claim=claim,
            standing=Standing.CANNOT_BE_JUDGED,
            finding=finding,
            meaning=meaning,
            sentence=sentence,
        )

    short = (finding.held_s or 0.0) < 0.995 * (asked.held_s or DEFAULT_HOLD_S)
    if claim.kind == CONTINUOUS and short and finding.ended_by == "trip":
        return _tripped(claim, asked, finding, meaning)
    if finding.budget is None and rule is not Rule.SIMPLE:
        return cannot(finding.unknown or "The uncertainty of the figure is not known.")
    verdicts = [
        _verdict(value, finding, meaning, rule) for value in finding.ends or (finding.value,)
    ]
    verdict = min(verdicts, key=lambda v: _WORST.index(v.outcome))
    if verdict.outcome is Outcome.CANNOT_BE_JUDGED:
        reason = f"{verdict.reason[:1].upper()}{verdict.reason[1:]}"
        return cannot(f"{_seen(claim, finding)}. {reason}.")
    if finding.lower_bound and verdict.outcome is not Outcome.MEETS:
        return cannot(f"{_seen(claim, finding)}. {finding.why_bound}")
    advice = ""
    if verdict.outcome is Outcome.TOO_CLOSE and finding.budget is not None:
        advice = what_would_settle(verdict.value, finding.budget, abs(verdict.margin))
    return JudgedClaim(
        claim=claim,
        standing=Standing(verdict.outcome.value),
        finding=finding,
        verdict=verdict,
        meaning=meaning,
        sentence=_sentence(claim, finding, verdict, meaning),
        advice=advice,
    )


_WORST = (Outcome.FALLS_SHORT, Outcome.CANNOT_BE_JUDGED, Outcome.TOO_CLOSE, Outcome.MEETS)


def _verdict(value: float, finding: Finding, meaning: Meaning, rule: Rule) -> Verdict:
    """One value against what the claim is read as."""
    if meaning.low is not None and meaning.high is not None:
        limit, direction = (meaning.low + meaning.high) / 2, Direction.WITHIN
    elif meaning.low is not None:
        limit, direction = meaning.low, Direction.AT_LEAST
    else:
        limit, direction = meaning.high or 0.0, Direction.AT_MOST
    width = ((meaning.high or 0.0) - (meaning.low or 0.0)) / 2
    budget = finding.budget
    return judge(
        value,
        budget.expanded if budget else 0.0,
        limit,
        direction,
        rule,
        tolerance=width if direction is Direction.WITHIN else 0.0,
        coverage_factor=budget.coverage_factor if budget else 2.0,
        degrees_of_freedom=budget.degrees_of_freedom if budget else float("inf"),
        doubt=doubt_reason(finding.doubts) if finding.doubts else "",
    )


def _seen_by_eye(claim: Claim, finding: Finding, meaning: Meaning) -> JudgedClaim:
    """What the reviewer saw: so, or not so."""
    words = "Seen to be so" if finding.agrees else "Seen not to be so"
    return JudgedClaim(
        claim=claim,
        standing=Standing.MEETS if finding.agrees else Standing.FALLS_SHORT,
        finding=finding,
        meaning=meaning,
        sentence=f"{words}{_of(finding)}; claimed: {claim.shown}.",
    )


def _tripped(claim: Claim, asked: Condition, finding: Finding, meaning: Meaning) -> JudgedClaim:
    lasted, wanted = finding.held_s or 0.0, asked.held_s or DEFAULT_HOLD_S
    return JudgedClaim(
        claim=claim,
        standing=Standing.FALLS_SHORT,
        finding=finding,
        meaning=meaning,
        sentence=f"The station tripped after {format_span(lasted)} at {finding.value:.0f} W, "
        f"before {format_span(wanted)} were over.",
    )


def _seen(claim: Claim, finding: Finding) -> str:
    """The figure with its ± and what it is."""
    if finding.ends is not None:
        return f"{_ends_shown(finding)} {claim.about.unit}".rstrip() + _of(finding)
    expanded = finding.budget.expanded if finding.budget else 0.0
    figure = format_with_uncertainty(finding.value, expanded)
    return f"{figure} {claim.about.unit}".rstrip() + _of(finding)


def _ends_shown(finding: Finding) -> str:
    """Like "116.2 to 120.4 ± 0.6"."""
    assert finding.ends is not None
    expanded = finding.budget.expanded if finding.budget else 0.0
    low, high = finding.ends
    decimals = decimals_for(expanded) if expanded else 1
    return f"{low:.{decimals}f} to {format_with_uncertainty(high, expanded)}"


def _of(finding: Finding) -> str:
    return f" {finding.seen}" if finding.seen else ""


def _sentence(claim: Claim, finding: Finding, verdict: Verdict, meaning: Meaning) -> str:
    """The finding, how far it is from the limit, and whether that is more than U."""
    unit = claim.about.unit
    decimals = decimals_for(verdict.expanded) if verdict.expanded else 1
    apart = f"{abs(verdict.margin):.{decimals}f} {unit}".rstrip()
    said = f"{_seen(claim, finding)}: {apart} {_side(verdict, meaning)} {unit}".rstrip()
    has_meaning = meaning.minus or meaning.plus or meaning.why or meaning.chosen
    if meaning.limit is not LimitType.AS_SEEN and has_meaning:
        said += f" ({claim.shown}, {meaning.words})"
    under = claim.value is not None and verdict.value < claim.value
    if meaning.limit is LimitType.UPPER_BOUND and verdict.outcome is Outcome.MEETS and under:
        said += "; drawing less than that is not a failure"
    if beside := service_words(claim, finding):
        said += f"; {beside}"
    if not verdict.expanded:
        return f"{said}; the numbers alone."
    chance = f"Probability of conformity {format_probability(verdict.probability)}."
    if verdict.rule is Rule.SIMPLE:
        return f"{said}; the numbers alone. {chance}"
    if verdict.u_too_large:
        return f"{said}; its uncertainty is larger than the tolerance, so nothing can be said."
    if verdict.outcome is Outcome.TOO_CLOSE:
        return f"{said}, which its uncertainty does not settle. {chance}"
    if verdict.rule is Rule.LIKELY:
        return f"{said}. {chance}"
    return f"{said}, more than its uncertainty. {chance}"


def _side(verdict: Verdict, meaning: Meaning) -> str:
    """Like "above 1764", "inside 114 to 126"."""
    if verdict.direction is Direction.WITHIN:
        within = "inside" if verdict.margin >= 0 else "outside"
        return f"{within} {meaning.low or 0:.4g} to {meaning.high or 0:.4g}"
    side = "above" if verdict.value >= verdict.limit else "below"
    return f"{side} {verdict.limit:.5g}"
