"""What a run came to, in the fewest words, with the digits its uncertainty allows."""

from yardtoll.core.formatting import format_with_uncertainty
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.review.analysis import RunAnalysis


def came_to_budget(analysis: RunAnalysis) -> Budget | None:
    """What stands behind the figure of :func:`came_to_words`; None without a meter."""
    return analysis.idle.budget if analysis.idle is not None else analysis.budget


def came_to_words(analysis: RunAnalysis) -> str:
    """Like "1742 ± 9 Wh", "1946 ± 10 Wh drawn", "18.2 ± 1.9 W idle"; "" where nothing is told."""
    budget = came_to_budget(analysis)

    def shown(value: float) -> str:
        return format_with_uncertainty(value, budget.expanded) if budget else f"{value:.0f}"

    if analysis.result is not None:
        return f"{shown(analysis.result.delivered_wh)} Wh"
    if analysis.recharge is not None:
        return f"{shown(analysis.recharge.drawn_wh)} Wh drawn"
    if analysis.idle is not None:
        return f"{shown(analysis.idle.idle_w)} W idle"
    return ""
