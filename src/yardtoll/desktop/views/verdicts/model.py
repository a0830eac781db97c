"""Verdicts on a station's runs, as rows and sentences."""

from dataclasses import dataclass

from yardtoll.core.discharge import DischargeResult
from yardtoll.core.figures import format_with_uncertainty
from yardtoll.core.methods import METHODS
from yardtoll.core.trace import Code
from yardtoll.core.verdict import Outcome, Rule
from yardtoll.core.yardsticks import Basis, JudgedRun, Yardstick, judge_discharge
from yardtoll.desktop.widgets.verdict_rails import RailRow
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.when import local_date
from yardtoll.store.records import RunState

RULE_WORDS = {
    Rule.GUARDED: "Guarded: must clear the limit by U",
    Rule.SIMPLE: "Simple: the numbers alone",
    Rule.SHARED: "Shared: the more likely side",
}
_MARGIN = 0.04


@dataclass(frozen=True, kw_only=True)
class JudgedRow:
    """One run with its verdict; ``judged`` is None where none can be given."""

    analysis: RunAnalysis
    judged: JudgedRun | None
    row: RailRow
    reasons: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class VerdictPage:
    """All rows with the finding above them."""

    headline: str
    rows: tuple[JudgedRow, ...]
    low: float
    high: float


def verdict_page(analyses: list[RunAnalysis], yardstick: Yardstick, rule: Rule) -> VerdictPage:
    """Judge a station's capacity runs; runs at different loads stay apart."""
    capacity = [a for a in analyses if METHODS[a.run.method].gives_capacity]
    rows = tuple(_judged(a, yardstick, rule) for a in capacity)
    ends = [yardstick.limit - 0.1, yardstick.limit + 0.1]
    for row in rows:
        if row.row.value is not None:
            whisker = row.row.whisker or 0.0
            ends += [row.row.value - whisker - _MARGIN, row.row.value + whisker + _MARGIN]
    return VerdictPage(
        headline=_headline(rows, yardstick), rows=rows, low=max(min(ends), 0.0), high=max(ends)
    )


def _headline(rows: tuple[JudgedRow, ...], yardstick: Yardstick) -> str:
    outcomes = [r.judged.verdict.outcome for r in rows if r.judged]
    if not outcomes:
        return "Nothing to judge yet"
    words = {
        Outcome.MEETS: ("run meets it", "runs meet it"),
        Outcome.FALLS_SHORT: ("run falls short", "runs fall short"),
        Outcome.TOO_CLOSE: ("run is too close to call", "runs are too close to call"),
    }
    parts = []
    for outcome, (one, many) in words.items():
        if count := outcomes.count(outcome):
            parts.append(f"{count} {one if count == 1 else many}")
    limit = f"{100 * yardstick.limit:g} % {yardstick.basis.words}"
    return f"Against {limit}: {', '.join(parts)}"


def _judged(analysis: RunAnalysis, yardstick: Yardstick, rule: Rule) -> JudgedRow:
    run, result = analysis.run, analysis.result
    load = f" at {result.mean_w:.0f} W" if result and result.mean_w else ""
    c_rate = f" · {result.c_rate:.2f} C" if result and result.c_rate else ""
    port = ", DC" if run.method == "capacity_dc" else ""
    title = f"Run {run.number}{load}{port}"
    subtitle = f"{run.soc_from:g} → {run.soc_to:g} %{c_rate} · {local_date(run.started_at)}"
    not_judged = _why_not(analysis, rule)
    if not_judged or result is None:
        word, reason = not_judged or ("nothing to tell", analysis.problem)
        value = None
        figure = "–"
        if result is not None and run.state != RunState.VOID.value:
            value = _ratio(analysis, yardstick)
            figure = f"{100 * value:.1f} %, ± unknown"
        row = RailRow(title, subtitle, value, None, yardstick.limit, "", word, figure)
        return JudgedRow(analysis=analysis, judged=None, row=row, reasons=(reason,))
    expanded = analysis.budget.expanded if analysis.budget else 0.0
    judged = judge_discharge(result, expanded, yardstick, rule)
    verdict = judged.verdict
    if verdict.outcome is not Outcome.MEETS and (incomplete := _incomplete(result)):
        figure = f"at least {100 * verdict.value:.1f} %"
        row = RailRow(
            title, subtitle, verdict.value, None, verdict.limit, "", "cannot be judged", figure
        )
        return JudgedRow(analysis=analysis, judged=None, row=row, reasons=(incomplete,))
    row = RailRow(
        title=title,
        subtitle=subtitle,
        value=verdict.value,
        whisker=verdict.expanded if analysis.budget else None,
        limit=verdict.limit,
        outcome=verdict.outcome.value,
        word=verdict.outcome.words,
        figure=f"{format_with_uncertainty(100 * verdict.value, 100 * verdict.expanded)} % "
        f"{yardstick.basis.words}",
    )
    return JudgedRow(analysis=analysis, judged=judged, row=row, reasons=judged.reasons)


def _why_not(analysis: RunAnalysis, rule: Rule) -> tuple[str, str] | None:
    """(word, reason) where a run is not judged."""
    if analysis.run.state == RunState.VOID.value:
        return "void", f"Void and kept: {analysis.run.void_reason or 'no reason given'}."
    if analysis.result is None:
        return "cannot be judged", analysis.problem
    if analysis.budget is None and rule is not Rule.SIMPLE:
        return (
            "cannot be judged",
            "No meter is stated, so the uncertainty is not known. State it under Ledger, Edit the "
            "run; or judge by the simple rule.",
        )
    return None


def _incomplete(result: DischargeResult) -> str:
    """Why the delivered energy is only a lower bound, "" if it is all there was.

    A lower bound that meets a limit meets it; one that does not says nothing.
    """
    if result.has(Code.NO_CUTOFF):
        return "The run ends under load: the station may have had more to give. Run it to empty."
    if result.has(Code.STARTS_LOADED):
        return "The log begins under load: what was delivered before is not in it."
    return ""


def _ratio(analysis: RunAnalysis, yardstick: Yardstick) -> float:
    assert analysis.result is not None
    if yardstick.basis is Basis.OF_WINDOW:
        return analysis.result.usable_ratio_window
    return analysis.result.usable_ratio
