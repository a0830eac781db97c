"""Verdicts on a station's claims and by a yardstick, as rails and sentences."""

from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.claims.meaning import LimitType, Meaning, choices_for, demand_of
from yardtoll.core.conformance.judging import JudgedClaim, Standing, only_stated, stated_sentence
from yardtoll.core.conformance.settling import what_would_settle
from yardtoll.core.conformance.verdict import Direction, Outcome, Verdict
from yardtoll.core.conformance.yardsticks import Yardstick
from yardtoll.core.methods import method_testing
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.report.charts.rails import RailRow
from yardtoll.review.yardstick_rows import YardstickRow, format_figure

_MARGIN = 0.04
_ORDER = (
    Standing.FALLS_SHORT,
    Standing.TOO_CLOSE,
    Standing.MEETS,
    Standing.CANNOT_BE_JUDGED,
    Standing.NOT_TESTED,
)


@dataclass(frozen=True, kw_only=True)
class VerdictRow:
    """One rail with its evidence.

    Attributes:
        run_number: of the run to open as evidence; None where there is none.
        figure: what the budget is of, in words.
        note_claim: the claim that may be settled by looking, such as a yes/no; None else.
        read_claim: the claim that may be read in another way; None else.
        plan_method, plan_w: the run that is missing; "" where none would help.
    """

    row: RailRow
    sentence: str
    advice: str = ""
    run_number: int | None = None
    budget: Budget | None = None
    figure: str = ""
    note_claim: Claim | None = None
    read_claim: Claim | None = None
    plan_method: str = ""
    plan_w: float | None = None


@dataclass(frozen=True, kw_only=True)
class VerdictPage:
    """All rows with the finding above them, and what is said once below."""

    headline: str
    rows: tuple[VerdictRow, ...]
    below: str = ""


# claims


def claims_page(judged: Sequence[JudgedClaim]) -> VerdictPage:
    """The maker's claims, those with something to say first; what only the maker says, below."""
    tested = [j for j in judged if not only_stated(j.claim)]
    tested.sort(key=lambda j: _ORDER.index(j.standing))
    return VerdictPage(
        headline=_claims_headline(tested),
        rows=tuple(_claim_row(j) for j in tested),
        below=stated_sentence(judged),
    )


def _claims_headline(judged: Sequence[JudgedClaim]) -> str:
    if not judged:
        return "No claims yet"
    counts = {standing: sum(j.standing is standing for j in judged) for standing in Standing}
    words = {
        Standing.MEETS: ("claim is met", "claims are met"),
        Standing.FALLS_SHORT: ("falls short", "fall short"),
        Standing.TOO_CLOSE: ("is too close to call", "are too close to call"),
    }
    parts = [
        f"{counts[standing]} {one if counts[standing] == 1 else many}"
        for standing, (one, many) in words.items()
        if counts[standing]
    ]
    untested = counts[Standing.NOT_TESTED]
    if not parts:
        return f"{untested} claims, none judged yet" if untested else "No claim can be judged yet"
    return ", ".join(parts) + (f"; {untested} not tested" if untested else "")


def _is_noted(claim: Claim) -> bool:
    """Whether looking settles it: yes or no at any time, a count where no run tells it."""
    return not claim.about.is_number or method_testing(claim.kind) is None


def _claim_row(judged: JudgedClaim) -> VerdictRow:
    claim, finding, verdict = judged.claim, judged.finding, judged.verdict
    about = claim.about
    budget = finding.budget if finding else None
    expanded = budget.expanded if budget else None
    as_seen = judged.meaning is not None and judged.meaning.limit is LimitType.AS_SEEN
    figure = judged.figure or "–"
    good = _good_side(judged.meaning, claim.value or 0.0)
    posts = [end for end in good if end is not None]
    limit = verdict.limit if verdict else posts[0]
    low, high = _range(good, _shown_value(judged), expanded or 0.0)
    judged_here = judged.standing in (Standing.MEETS, Standing.FALLS_SHORT, Standing.TOO_CLOSE)
    return VerdictRow(
        row=RailRow(
            title=about.title,
            subtitle=f"{demand_of(claim)} · {claim.source}".rstrip(" ·"),
            value=None if as_seen else _shown_value(judged),
            whisker=expanded,
            limit=limit,
            outcome=judged.standing.value if judged_here else "",
            word=judged.standing.words,
            figure=figure,
            low=low,
            high=high,
            good=good,
        ),
        sentence=judged.sentence,
        advice=judged.advice,
        run_number=finding.runs[-1] if finding and finding.runs else None,
        budget=budget if budget and budget.lines else None,
        figure=f"{about.title}: {figure}",
        note_claim=claim if as_seen and _is_noted(claim) else None,
        read_claim=claim if choices_for(claim.kind) else None,
        plan_method=judged.missing_method,
        plan_w=judged.missing_w,
    )


def _shown_value(judged: JudgedClaim) -> float | None:
    """The value on the rail: the end that decided, where both were judged."""
    if judged.verdict is not None:
        return judged.verdict.value
    return judged.finding.value if judged.finding is not None else None


def _good_side(meaning: Meaning | None, limit: float) -> tuple[float | None, float | None]:
    """(from, to) of the good part of a rail; None for its end."""
    if meaning is None or (meaning.low is None and meaning.high is None):
        return limit, None
    return meaning.low, meaning.high


def _range(
    good: tuple[float | None, float | None], value: float | None, whisker: float
) -> tuple[float, float]:
    """What a rail of its own unit runs from and to: its posts and the whole whisker."""
    ends = [limit for limit in good if limit is not None]
    room = 0.08 * max(abs(end) for end in ends)
    if value is not None:
        ends += [value - whisker, value + whisker]
    width = max(max(ends) - min(ends), room, 1e-9)
    return min(ends) - 0.3 * width, max(ends) + 0.3 * width


# yardsticks


def yardstick_page(rows: Sequence[YardstickRow], yardstick: Yardstick) -> VerdictPage:
    """Everything a yardstick speaks to, on one scale."""
    ends = [yardstick.limit * 0.9, yardstick.limit * 1.1]
    for row in rows:
        if row.value is not None:
            whisker = row.budget.expanded if row.budget else 0.0
            ends += [row.value - whisker - _MARGIN, row.value + whisker + _MARGIN]
    low, high = max(min(ends), 0.0), max(ends)
    return VerdictPage(
        headline=_yardstick_headline([row.verdict for row in rows], yardstick),
        rows=tuple(_yardstick_row(row, yardstick, low, high) for row in rows),
    )


def _yardstick_headline(verdicts: Sequence[Verdict | None], yardstick: Yardstick) -> str:
    outcomes = [verdict.outcome for verdict in verdicts if verdict is not None]
    if not outcomes:
        return f"Nothing to hold against {yardstick.shown} yet"
    words = {
        Outcome.MEETS: ("meets it", "meet it"),
        Outcome.FALLS_SHORT: ("falls short", "fall short"),
        Outcome.TOO_CLOSE: ("is too close to call", "are too close to call"),
    }
    parts = []
    for outcome, (one, many) in words.items():
        if count := outcomes.count(outcome):
            parts.append(f"{count} {one if count == 1 else many}")
    return f"{yardstick.shown}: {', '.join(parts)}"


def _yardstick_row(row: YardstickRow, yardstick: Yardstick, low: float, high: float) -> VerdictRow:
    verdict = row.verdict
    figure = "–"
    if verdict is not None:
        figure = format_figure(verdict.value, verdict.expanded, yardstick.basis)
        figure += f" {yardstick.basis.words}" if yardstick.basis.is_share else ""
    elif row.value is not None:
        bound = "at least " if row.lower_bound else "at most " if row.at_most else ""
        figure = f"{bound}{format_figure(row.value, 0.0, yardstick.basis)}"
    advice = ""
    if verdict is not None and verdict.outcome is Outcome.TOO_CLOSE and row.budget is not None:
        advice = what_would_settle(verdict.value, row.budget, abs(verdict.margin))
    good = (yardstick.limit, None)
    if yardstick.basis.direction is Direction.AT_MOST:
        good = (None, yardstick.limit)  # type: ignore[assignment]
    return VerdictRow(
        row=RailRow(
            title=row.title,
            subtitle=row.subtitle,
            value=row.value,
            whisker=row.budget.expanded if row.budget and verdict else None,
            limit=yardstick.limit,
            outcome=verdict.outcome.value if verdict else "",
            word=row.word,
            figure=figure,
            low=low,
            high=high,
            good=good,
        ),
        sentence=" ".join(row.reasons),
        advice=advice,
        run_number=row.analysis.run.number if row.analysis else None,
        budget=row.budget if row.budget and row.budget.lines else None,
        figure=f"{row.title}: {figure}",
        plan_method=row.analysis.run.method if row.repeat_to_empty and row.analysis else "",
    )
