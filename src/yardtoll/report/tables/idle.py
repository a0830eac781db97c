"""An idle draw as JSON with unit-bearing keys, and as a table."""

from typing import Any

from yardtoll.core.ledger.idle import IdleResult
from yardtoll.core.ledger.idle_figures import idle_figures
from yardtoll.report.tables.rows import figure_rows, table


def idle_json(result: IdleResult) -> dict[str, Any]:
    """The keys of `yardtoll compute idle --json`; U is expanded, k = 2."""
    return {
        "idle_w": result.idle_w,
        "percent_per_hour": result.percent_per_hour,
        "idle_w_U": result.idle_w_expanded,
        "hours_to_empty": result.hours_to_empty,
        "warnings": [],
    }


def idle_table(result: IdleResult) -> str:
    """The draw, the self-discharge, and how long from full to empty."""
    rows = figure_rows(idle_figures(result))
    name, shown = rows[0]
    rows[0] = (name, f"{shown} (k = {result.budget.coverage_factor:.2g})")
    return table(rows, ())
