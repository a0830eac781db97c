"""A recharge as JSON with unit-bearing keys, and as a table."""

from dataclasses import dataclass
from typing import Any

from yardtoll.core.charge.analysis import RechargeResult
from yardtoll.core.charge.figures import charge_figures, to_soc_figure
from yardtoll.core.formatting import format_clock, format_with_uncertainty
from yardtoll.core.uncertainty.accuracy import MeterAccuracy
from yardtoll.core.uncertainty.budget import Budget, Measured, ratio
from yardtoll.core.uncertainty.energy_budget import (
    AC,
    DC,
    duration_budget,
    mean_power_budget,
    read_energy_budget,
    recharge_budget,
)
from yardtoll.report.tables.rows import (
    budget_json,
    budget_rows,
    figure_rows,
    gaps_json,
    table,
    warnings_json,
)


@dataclass(frozen=True, kw_only=True)
class RechargeBudgets:
    """The budgets of a recharge's measured figures; None where a figure is not known."""

    drawn: Budget | None
    duration: Budget | None
    mean_w: Budget | None
    round_trip: Budget | None


def measured_recharge(
    result: RechargeResult,
    accuracy: MeterAccuracy,
    *,
    power_factor: float | None = None,
    dc: bool = False,
) -> RechargeBudgets:
    """The budgets of a recharge read by one meter.

    The delivered Wh of its round trip are taken as read by the same meter at a level of their own:
    only the common part of its gain falls out.
    """
    range_ = DC if dc else AC
    drawn = None
    if result.drawn_wh is not None:
        drawn = recharge_budget(result, accuracy, "meter", range_=range_, power_factor=power_factor)
    duration = (
        duration_budget(result.edges_s)
        if result.duration_s and result.start_s is not None
        else None
    )
    mean = None
    if drawn is not None and result.duration_s and result.mean_w is not None:
        mean = mean_power_budget(drawn, result.mean_w, result.duration_s, result.edges_s)
    trip = None
    delivered_wh = result.window.delivered_wh
    if drawn is not None and result.round_trip is not None and delivered_wh is not None:
        delivered = Measured(
            value=delivered_wh,
            budget=read_energy_budget(delivered_wh, accuracy, "meter", range_=range_, level="out"),
        )
        assert result.drawn_wh is not None
        trip = ratio(delivered, Measured(value=result.drawn_wh, budget=drawn)).budget
    return RechargeBudgets(drawn=drawn, duration=duration, mean_w=mean, round_trip=trip)


def recharge_json(result: RechargeResult, budgets: RechargeBudgets | None = None) -> dict[str, Any]:
    """The keys of `yardtoll compute recharge --json`; ``to_soc`` counts from charge start.

    Args:
        budgets: None where no meter is stated.
    """
    uncertain: dict[str, Any] = {}
    if budgets is not None:
        uncertain = {
            "drawn_wh_U": _expanded(budgets.drawn),
            "duration_s_U": _expanded(budgets.duration),
            "mean_w_U": _expanded(budgets.mean_w),
            "round_trip_U": _expanded(budgets.round_trip),
            "budget": budget_json(budgets.drawn) if budgets.drawn is not None else None,
        }
    elif result.is_noted:
        # What the lines allow needs no meter's accuracy.
        uncertain = {
            "duration_s_U": duration_budget(result.edges_s).expanded if result.duration_s else None
        }
    return {
        "drawn_wh": result.drawn_wh,
        "start_s": result.start_s,
        "duration_s": result.duration_s,
        "peak_w": result.peak_w,
        "full_power_w": result.full_power_w,
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
        "spikes": result.spikes,
        "gaps": gaps_json(result.gaps),
        "warnings": warnings_json(result.notices),
    }


def _expanded(budget: Budget | None) -> float | None:
    return None if budget is None else budget.expanded


def recharge_table(result: RechargeResult, budgets: RechargeBudgets | None = None) -> str:
    """A short table; unknown figures are left out."""
    figures = charge_figures(result, budgets.drawn if budgets is not None else None)
    rows = figure_rows(figure for figure in figures if figure.key == "drawn_wh")
    if budgets is not None and budgets.drawn is not None:
        rows += budget_rows(budgets.drawn)
    later = [f for f in figures if f.key != "drawn_wh" and not f.key.startswith("to_soc")]
    rows += figure_rows(later)
    if result.full_power_w is not None:
        rows.append(("Full power", f"{result.full_power_w:.1f} W"))
    rows += [
        (
            f"  {phase.name.words}",
            f"{format_clock(phase.start_s)} – {format_clock(phase.end_s)}  {phase.mean_w:.0f} W",
        )
        for phase in result.phases
    ]
    rows += figure_rows(to_soc_figure(at) for at in result.to_soc)
    if result.round_trip is not None:
        trip = budgets.round_trip if budgets is not None else None
        share = format_with_uncertainty(100 * result.round_trip, 100 * (_expanded(trip) or 0.0))
        rows.append(("Round trip", f"{share} % (delivered ÷ drawn)"))
    if result.charge_efficiency is not None:
        basis = "rated energy" if result.efficiency_basis == "rated" else "fitted store"
        rows.append(("Charge efficiency", f"{result.charge_efficiency:.1%} (by the {basis})"))
    return table(rows, result.notices)
