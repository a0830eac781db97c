"""A discharge as JSON with unit-bearing keys, and as a short table for a shell."""

from typing import Any

from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.discharge.figures import discharge_figures
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import (
    duration_budget,
    mean_power_budget,
    usable_ratio,
    usable_ratio_window,
)
from yardtoll.report.tables.rows import (
    budget_json,
    budget_rows,
    figure_rows,
    gaps_json,
    table,
    warnings_json,
)


def discharge_json(result: DischargeResult, budget: Budget | None = None) -> dict[str, Any]:
    """The keys of `yardtoll compute discharge --json`; None where a figure is not known.

    Args:
        budget: of the delivered energy; None where no meter is stated.
    """
    uncertain: dict[str, Any] = {}
    if budget is not None:
        uncertain = {
            "delivered_wh_U": budget.expanded,
            "usable_ratio_U": usable_ratio(result, budget).expanded,
            "usable_ratio_window_U": usable_ratio_window(result, budget).expanded,
            "duration_s_U": _duration_expanded(result),
            "mean_w_U": _mean_w_expanded(result, budget),
            "budget": budget_json(budget),
        }
    elif result.is_noted:
        # What the lines allow needs no meter's accuracy.
        uncertain = {"duration_s_U": _duration_expanded(result)}
    return {
        "delivered_wh": result.delivered_wh,
        "own_draw_wh": result.own_draw_wh,
        "logs": [{"file": name, "delivered_wh": energy} for name, energy in result.logs],
        "start_s": result.start_s,
        "cutoff_s": result.cutoff_s,
        "duration_s": result.duration_s,
        "mean_w": result.mean_w,
        "max_w": result.max_w,
        "c_rate": result.c_rate,
        "usable_ratio": result.usable_ratio,
        "usable_ratio_window": result.usable_ratio_window,
        "volts_mean": result.volts_mean,
        "volts_min": result.volts_min,
        "sag_ratio": result.sag_ratio,
        "end_seen": result.end_seen,
        "after_cutoff_wh": result.after_cutoff_wh,
        "negative_wh": result.negative_wh,
        "spikes": result.spikes,
        "display": None
        if not result.display
        else [
            {
                "at_s": entry.at_s,
                "shown_soc": entry.shown_soc,
                "energy_left_wh": entry.energy_left_wh,
                "shown_w": entry.shown_w,
                "meter_w": entry.meter_w,
                "shown_left_s": entry.shown_left_s,
                "true_left_s": entry.true_left_s,
            }
            for entry in result.display
        ],
        "reserve_wh": result.reserve_wh,
        "reserve_s": result.reserve_s,
        **uncertain,
        "gaps": gaps_json(result.gaps),
        "warnings": warnings_json(result.notices),
    }


def _duration_expanded(result: DischargeResult) -> float | None:
    if result.duration_s is None or result.start_s is None:
        return None
    return duration_budget(result.edges_s).expanded


def _mean_w_expanded(result: DischargeResult, budget: Budget) -> float | None:
    if result.duration_s is None or result.mean_w is None:
        return None
    return mean_power_budget(budget, result.mean_w, result.duration_s, result.edges_s).expanded


def discharge_table(result: DischargeResult, budget: Budget | None = None) -> str:
    """A short table with units; unknown figures are left out."""
    delivered, *others = discharge_figures(result, budget)
    rows = figure_rows([delivered])
    if budget is not None:
        rows += budget_rows(budget)
    if len(result.logs) > 1:
        rows += [
            (f"  {name or f'meter {number}'}", f"{energy:.1f} Wh")
            for number, (name, energy) in enumerate(result.logs, start=1)
        ]
    rating = result.rating
    of = {
        "usable_ratio": f" of {rating.rated_wh:g} Wh",
        "usable_ratio_window": f" of {rating.soc_from:g} → {rating.soc_to:g} %",
    }
    rows += [(figure.title, f"{figure.shown}{of.get(figure.key, '')}") for figure in others]
    return table(rows, result.notices)
