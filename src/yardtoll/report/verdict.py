"""A verdict as JSON and as a short table."""

from typing import Any

from yardtoll.core.conformance.verdict import Verdict


def verdict_json(verdict: Verdict) -> dict[str, Any]:
    """The keys of `yardtoll compute verdict --json`."""
    return {
        "verdict": verdict.outcome.value,
        "probability": verdict.probability,
        "rule": verdict.rule.value,
        "margin": verdict.margin,
        "warnings": [],
    }


def verdict_table(verdict: Verdict) -> str:
    """The verdict first, then what it rests on."""
    return "\n".join(
        (
            f"Verdict      {verdict.outcome.words}",
            f"Probability  {verdict.probability:.1%} that the claim holds",
            f"Rule         {verdict.rule.value}",
            f"Margin       {verdict.margin:+.6g} (U = {verdict.expanded:g})",
        )
    )
