"""A discharge as JSON with unit-bearing keys, and as a short table for a shell."""

from collections.abc import Callable
from typing import Any

from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.formatting import format_clock, format_with_uncertainty
from yardtoll.core.uncertainty.budget import Budget, Measured
from yardtoll.core.uncertainty.energy_budget import (
    duration_budget,
    mean_power_budget,
    usable_ratio,
    usable_ratio_window,
)
from yardtoll.report.tables.rows import budget_json, budget_rows, gaps_json, table, warnings_json

_NOTHING = Budget(unit="Wh", lines=())


def discharge_json(result: DischargeResult, budget: Budget | None = None) -> dict[str, Any]:
    """The keys of `yardtoll compute discharge --json`; None where something cannot be told.

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
    """A short table with units; figures that cannot be told are left out."""
    rating = result.rating
    window = f"{rating.soc_from:g} → {rating.soc_to:g} %"
    expanded = budget.expanded if budget is not None else 0.0
    rows = [("Delivered", f"{format_with_uncertainty(result.delivered_wh, expanded)} Wh")]
    if budget is not None:
        rows += budget_rows(budget)
    if result.own_draw_wh:
        rows.append(("  of it meters' own draw", f"{result.own_draw_wh:.1f} Wh"))
    if len(result.logs) > 1:
        rows += [
            (f"  {name or f'meter {number}'}", f"{energy:.1f} Wh")
            for number, (name, energy) in enumerate(result.logs, start=1)
        ]
    share = _percent(usable_ratio(result, budget or _NOTHING))
    rows.append(("Of rated", f"{share} of {rating.rated_wh:g} Wh"))
    if rating.window < 1:
        share = _percent(usable_ratio_window(result, budget)) if budget else ""
        share = share or f"{100 * result.usable_ratio_window:.1f} %"
        rows.append(("Of the window", f"{share} of {window}"))
    optional: tuple[tuple[str, float | None, Callable[[float], str]], ...] = (
        ("Duration", result.duration_s, lambda v: f"{format_clock(v)} h:mm:ss"),
        ("Mean power", result.mean_w, lambda v: f"{v:.1f} W"),
        ("Highest power", result.max_w, lambda v: f"{v:.1f} W"),
        ("C-rate", result.c_rate, lambda v: f"{v:.3f} 1/h"),
        ("Volts under load", result.volts_mean, lambda v: f"{v:.1f} V"),
        ("Lowest volts", result.volts_min, lambda v: f"{v:.1f} V"),
        ("Sag", result.sag_ratio, lambda v: f"{v:.1%}"),
    )
    rows += [(name, shown(value)) for name, value, shown in optional if value is not None]
    return table(rows, result.notices)


def _percent(share: Measured) -> str:
    """Like "89.4 ± 0.6 %", without ± where nothing is known of it."""
    return f"{format_with_uncertainty(100 * share.value, 100 * share.expanded)} %"
