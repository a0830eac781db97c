"""A recharge, a loss split and an idle draw as JSON with unit-bearing keys, and as tables."""

from typing import Any

from yardtoll.core.figures import format_clock, format_with_uncertainty
from yardtoll.core.idle import IdleResult
from yardtoll.core.losses import LossSplit, Term
from yardtoll.core.recharge import RechargeResult
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.report.rows import budget_json, budget_rows, gaps_json, table, warnings_json


def recharge_json(result: RechargeResult, budget: Budget | None = None) -> dict[str, Any]:
    """The keys of `yardtoll compute recharge --json`; ``to_soc`` counts from charge start.

    Args:
        budget: of the drawn energy; None where no meter is stated.
    """
    uncertain: dict[str, Any] = {}
    if budget is not None:
        uncertain = {"drawn_wh_U": budget.expanded, "budget": budget_json(budget)}
    return {
        "drawn_wh": result.drawn_wh,
        "start_s": result.start_s,
        "duration_s": result.duration_s,
        "peak_w": result.peak_w,
        "mean_w": result.mean_w,
        "phases": [
            {
                "name": phase.name.value,
                "start_s": phase.start_s,
                "end_s": phase.end_s,
                "mean_w": phase.mean_w,
            }
            for phase in result.phases
        ],
        "to_soc": [
            {"soc": at.soc, "s": at.s, "plus_minus_s": at.plus_minus_s} for at in result.to_soc
        ],
        "round_trip": result.round_trip,
        "charge_efficiency": {
            "value": result.charge_efficiency,
            "basis": result.efficiency_basis,
        },
        **uncertain,
        "gaps": gaps_json(result.gaps),
        "warnings": warnings_json(result.notices),
    }


def recharge_table(result: RechargeResult, budget: Budget | None = None) -> str:
    """A short table; figures that cannot be told are left out."""
    expanded = budget.expanded if budget is not None else 0.0
    rows = [("Drawn", f"{format_with_uncertainty(result.drawn_wh, expanded)} Wh")]
    if budget is not None:
        rows += budget_rows(budget)
    if result.duration_s is not None:
        rows.append(("Duration", f"{format_clock(result.duration_s)} h:mm:ss"))
    if result.mean_w is not None:
        rows.append(("Mean power", f"{result.mean_w:.1f} W"))
    if result.peak_w is not None:
        rows.append(("Highest power", f"{result.peak_w:.1f} W"))
    rows += [
        (
            f"  {phase.name.words}",
            f"{format_clock(phase.start_s)} – {format_clock(phase.end_s)}  {phase.mean_w:.0f} W",
        )
        for phase in result.phases
    ]
    for at in result.to_soc:
        within = f" ± {at.plus_minus_s:.0f} s" if at.plus_minus_s is not None else ""
        rows.append((f"To {at.soc:g} %", f"{format_clock(at.s)}{within}"))
    if result.round_trip is not None:
        rows.append(("Round trip", f"{result.round_trip:.1%} (delivered ÷ drawn)"))
    if result.charge_efficiency is not None:
        basis = "rated energy" if result.efficiency_basis == "rated" else "fitted store"
        rows.append(("Charge efficiency", f"{result.charge_efficiency:.1%} (by the {basis})"))
    return table(rows, result.notices)


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
            u = f" ± {2 * term.u:.3g} (k = 2)" if term.u is not None else ""
            rows.append((words[name], f"{term.value:.4g} {units[name]}{u}".replace("  ", " ")))
    rows += [(f"  {term}", why) for term, why in split.fixed]
    if split.euro_efficiency is not None and split.cec_efficiency is not None:
        rows.append(("Euro efficiency", f"{split.euro_efficiency:.1%}"))
        rows.append(("CEC efficiency", f"{split.cec_efficiency:.1%}"))
    return table(rows, split.notices)


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
    """Three lines."""
    rows = [
        ("Idle draw", f"{result.idle_w:.1f} ± {result.idle_w_expanded:.1f} W (k = 2)"),
        ("Self-discharge", f"{result.percent_per_hour:.2f} %/h"),
    ]
    if result.hours_to_empty is not None:
        days = result.hours_to_empty / 24
        rows.append(("Full to empty", f"{result.hours_to_empty:.1f} h ({days:.1f} days)"))
    return table(rows, ())


def _terms(split: LossSplit) -> tuple[tuple[str, Term], ...]:
    return (
        ("e0_wh", split.e0_wh),
        ("p0_w", split.p0_w),
        ("p1", split.p1),
        ("p2_per_w", split.p2_per_w),
    )
