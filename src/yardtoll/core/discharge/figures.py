"""The figures of one discharge, whether from a yard or from a log at the command line."""

from dataclasses import dataclass

from yardtoll.core.discharge import worked
from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import (
    own_draw_budget,
    usable_ratio,
    usable_ratio_window,
)
from yardtoll.core.uncertainty.figure import Figure, Style
from yardtoll.core.uncertainty.run_budgets import run_mean_power_budget, run_time_budget


@dataclass(frozen=True, kw_only=True)
class DischargeBudgets:
    """Budgets of the figures that the energy's budget does not cover; None if unknown."""

    max_w: Budget | None = None
    volts: Budget | None = None
    sag: Budget | None = None


_UNKNOWN = DischargeBudgets()


def discharge_figures(
    result: DischargeResult, budget: Budget | None, budgets: DischargeBudgets = _UNKNOWN
) -> tuple[Figure, ...]:
    """Every figure that is known, the delivered energy first.

    Args:
        budget: of the delivered Wh; None where no meter is stated.
        budgets: of what the energy's budget does not cover.
    """
    rating = result.rating
    found = [
        Figure(
            key="delivered_wh",
            title="Delivered",
            value=result.delivered_wh,
            unit="Wh",
            budget=budget,
            worked=worked.delivered(result),
        ),
        Figure(
            key="usable_ratio",
            title="Of rated",
            value=result.usable_ratio,
            budget=usable_ratio(result, budget).budget if budget else None,
            style=Style.PERCENT,
            worked=worked.of_rated(result),
        ),
    ]
    if rating.window < 1:
        found.append(
            Figure(
                key="usable_ratio_window",
                title="Of the window",
                value=result.usable_ratio_window,
                budget=usable_ratio_window(result, budget).budget if budget else None,
                style=Style.PERCENT,
                worked=worked.of_window(result),
            )
        )
    if result.duration_s is not None:
        found.append(
            Figure(
                key="duration_s",
                title="Duration",
                value=result.duration_s,
                unit="s",
                budget=run_time_budget(result),
                style=Style.CLOCK,
                worked=worked.duration(result),
            )
        )
    return (*found, *_electrical(result, budget, budgets))


def _electrical(
    result: DischargeResult, budget: Budget | None, budgets: DischargeBudgets
) -> list[Figure]:
    found = []
    if result.mean_w is not None and result.c_rate is not None:
        found.append(
            Figure(
                key="mean_w",
                title="Mean power",
                value=result.mean_w,
                unit="W",
                budget=run_mean_power_budget(result, budget),
                note=f" · {result.c_rate:.2f} C",
                worked=worked.mean_power(result),
            )
        )
    if result.max_w is not None:
        found.append(
            Figure(
                key="max_w",
                title="Peak power",
                value=result.max_w,
                unit="W",
                budget=budgets.max_w,
            )
        )
    if result.volts_mean is not None:
        found.append(
            Figure(
                key="volts_mean",
                title="Voltage under load",
                value=result.volts_mean,
                unit="V",
                budget=budgets.volts,
                note=f", lowest {result.volts_min or 0:.1f} V",
            )
        )
    if result.sag_ratio is not None:
        found.append(
            Figure(
                key="sag_ratio",
                title="Sag",
                value=result.sag_ratio,
                budget=budgets.sag,
                style=Style.PERCENT,
                worked=worked.sag(result),
            )
        )
    if result.own_draw_wh:
        found.append(
            Figure(
                key="own_draw_wh",
                title="Meter's own draw",
                value=result.own_draw_wh,
                unit="Wh",
                budget=own_draw_budget(result.own_draw_wh),
                note=", added",
            )
        )
    return found
