"""A loss split as JSON with unit-bearing keys, and as a table."""

from typing import Any

from yardtoll.core.ledger.loss_figures import loss_figures
from yardtoll.core.ledger.losses import LossSplit, Term
from yardtoll.report.tables.rows import table, warnings_json


def losses_json(split: LossSplit) -> dict[str, Any]:
    """The keys of `yardtoll compute losses --json`; intervals are at 95 %."""
    made: dict[str, Any] = {}
    for name, term in _terms(split):
        made[name] = term.value
        made[f"{name}_u"] = term.u
    made["intervals_95"] = {
        name: None if term.low is None else [term.low, term.high] for name, term in _terms(split)
    }
    return {
        **made,
        "fixed": [{"term": term, "why": why} for term, why in split.fixed],
        "euro_efficiency": split.euro_efficiency,
        "cec_efficiency": split.cec_efficiency,
        "euro_efficiency_at_most": split.euro_at_most,
        "cec_efficiency_at_most": split.cec_at_most,
        "residuals_wh": list(split.residuals_wh),
        "warnings": warnings_json(split.notices),
    }


def losses_table(split: LossSplit) -> str:
    """The fitted terms with their uncertainty, the efficiencies, and what was not fitted."""
    rows = [
        (figure.title, figure.shown + (" (k = 2)" if figure.budget is not None else ""))
        for figure in loss_figures(split)
    ]
    rows += [(f"  {term}", why) for term, why in split.fixed]
    return table(rows, split.notices)


def _terms(split: LossSplit) -> tuple[tuple[str, Term], ...]:
    return (
        ("e0_wh", split.e0_wh),
        ("p0_w", split.p0_w),
        ("p1", split.p1),
        ("p2_per_w", split.p2_per_w),
    )
