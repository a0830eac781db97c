"""Small pieces that all tables and JSON of results share."""

from collections.abc import Iterable, Sequence
from typing import Any

from yardtoll.core.electrical.energy import Gap
from yardtoll.core.electrical.trace import Notice
from yardtoll.core.formatting import decimals_for
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.figure import Figure


def warnings_json(notices: Sequence[Notice]) -> list[dict[str, str]]:
    """Notices as code and message."""
    return [{"code": notice.code.value, "message": notice.message} for notice in notices]


def gaps_json(gaps: Sequence[Gap]) -> list[dict[str, Any]]:
    """Gaps with what bridged them."""
    return [
        {
            "start_s": gap.start_s,
            "end_s": gap.end_s,
            "bridged_by": gap.bridged_by,
            "energy_wh": gap.energy_wh,
            "could_hide_wh": gap.could_hide_wh,
        }
        for gap in gaps
    ]


def table(rows: Sequence[tuple[str, str]], notices: Sequence[Notice]) -> str:
    """Names and values in two columns, warnings below."""
    width = max((len(name) for name, _ in rows), default=0)
    lines = [f"{name:<{width}}  {value}" for name, value in rows]
    lines += [f"! {notice.message} [{notice.code}]" for notice in notices]
    return "\n".join(lines)


def figure_rows(figures: Iterable[Figure]) -> list[tuple[str, str]]:
    """Figures by their titles, as every page shows them."""
    return [(figure.title, figure.shown) for figure in figures]


def budget_json(budget: Budget) -> list[dict[str, Any]]:
    """A budget's lines, largest first; ``u`` carries the budget's unit in its key."""
    key = f"u_{budget.unit.lower()}" if budget.unit else "u"
    return [
        {
            "name": line.name,
            "kind": line.evaluation.value,
            key: abs(line.u),
            "share": budget.share(line),
            "why": line.why,
        }
        for line in budget.lines
    ]


def budget_rows(budget: Budget) -> list[tuple[str, str]]:
    """A budget's lines as rows of a table: U = k·u and the share of the variance."""
    k = budget.coverage_factor
    decimals = decimals_for(budget.expanded) + 1
    return [
        (
            f"  {line.name}",
            f"± {k * abs(line.u):.{decimals}f} {budget.unit}  {budget.share(line):.0%}  {line.why}",
        )
        for line in budget.lines
    ]
