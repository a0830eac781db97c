"""A loss split as JSON with unit-bearing keys, and as a table."""

from typing import Any

from yardtoll.core.formatting import format_with_uncertainty
from yardtoll.core.ledger.losses import LossSplit, Term
from yardtoll.report.tables.rows import table, warnings_json

_TINY = 5e-4
"""Uncertainties below this are shown with a power of ten."""


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
    """The fitted terms with their uncertainty, and what was not fitted."""
    units = {"e0_wh": "Wh", "p0_w": "W", "p1": "", "p2_per_w": "1/W"}
    words = {"e0_wh": "Usable store", "p0_w": "Overhead", "p1": "Proportional", "p2_per_w": "Ohmic"}
    rows = []
    for name, term in _terms(split):
        if term.value is not None:
            rows.append((words[name], _shown(term.value, term.u, units[name])))
    rows += [(f"  {term}", why) for term, why in split.fixed]
    if split.euro_efficiency is not None and split.cec_efficiency is not None:
        rows.append(("Euro efficiency", f"{split.euro_efficiency:.1%}"))
        rows.append(("CEC efficiency", f"{split.cec_efficiency:.1%}"))
    if split.euro_at_most is not None and split.cec_at_most is not None:
        rows.append(("Euro efficiency", f"at most {split.euro_at_most:.1%}"))
        rows.append(("CEC efficiency", f"at most {split.cec_at_most:.1%}"))
    return table(rows, split.notices)


def _shown(value: float, u: float | None, unit: str) -> str:
    """Like "1910 ± 130 Wh (k = 2)", "1.1e-05 ± 2.3e-05 1/W (k = 2)"."""
    if u is None:
        return f"{value:.4g} {unit}".rstrip()
    figure = format_with_uncertainty(value, 2 * u)
    if 0 < u < _TINY:
        figure = f"{value:.2g} ± {2 * u:.2g}"
    return f"{figure} {unit}".rstrip() + " (k = 2)"


def _terms(split: LossSplit) -> tuple[tuple[str, Term], ...]:
    return (
        ("e0_wh", split.e0_wh),
        ("p0_w", split.p0_w),
        ("p1", split.p1),
        ("p2_per_w", split.p2_per_w),
    )
