"""A verdict as JSON and as a short table."""

from typing import Any

from yardtoll.core.conformance.verdict import Verdict
from yardtoll.core.electrical.trace import Code, Notice
from yardtoll.core.formatting import format_probability
from yardtoll.report.tables.rows import table, warnings_json


def verdict_json(verdict: Verdict) -> dict[str, Any]:
    """The keys of `yardtoll compute verdict --json`."""
    return {
        "verdict": verdict.outcome.value,
        "reason": verdict.reason or None,
        "probability": verdict.probability,
        "rule": verdict.rule.value,
        "margin": verdict.margin,
        "warnings": warnings_json(_notices(verdict)),
    }


def _notices(verdict: Verdict) -> list[Notice]:
    if not verdict.u_too_large:
        return []
    message = (
        f"U of {verdict.expanded:g} is larger than the tolerance of {verdict.tolerance:g}, so no "
        "value could meet or miss it"
    )
    return [Notice(code=Code.UNCERTAINTY_EXCEEDS_TOLERANCE, message=message)]


def verdict_table(verdict: Verdict) -> str:
    """The verdict first, then what it rests on."""
    rows = [
        ("Verdict", verdict.outcome.words),
        ("Probability", f"{format_probability(verdict.probability)} that the claim holds"),
        ("Rule", verdict.rule.value),
        ("Margin", f"{verdict.margin:+.6g} (U = {verdict.expanded:g})"),
    ]
    if verdict.reason:
        rows.insert(1, ("Because", verdict.reason))
    return table(rows, _notices(verdict))
