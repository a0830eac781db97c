"""The figures of one discharge, whether from a yard or from a log at the command line."""

from dataclasses import dataclass

from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.electrical.energy import counter_step_wh
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import (
    own_draw_budget,
    sag_budget,
    usable_ratio,
    usable_ratio_window,
)
from yardtoll.core.uncertainty.figure import Figure, Style
from yardtoll.review.budgets import (
    run_mean_power_budget,
    run_time_budget,
    volts_budget,
    watts_budget,
)
from yardtoll.review.run_analysis import RunAnalysis


@dataclass(frozen=True, kw_only=True)
class DischargeBudgets:
    """What stands behind the figures that the energy's budget does not cover; None if unknown."""

    max_w: Budget | None = None
    volts: Budget | None = None
    sag: Budget | None = None

    @classmethod
    def of_run(
        cls, run: RunAnalysis, result: DischargeResult, energy: Budget | None
    ) -> "DischargeBudgets":
        """By the limits of the run's meter."""
        with_meter = energy is not None
        return cls(
            max_w=watts_budget(result.max_w, run)
            if with_meter and result.max_w is not None
            else None,
            volts=volts_budget(result.volts_mean, run) if result.volts_mean is not None else None,
            sag=_sag_budget(run, result),
        )


def discharge_figures(
    result: DischargeResult, budget: Budget | None, budgets: DischargeBudgets
) -> tuple[Figure, ...]:
    """Every figure that can be told, the delivered energy first.

    Args:
        budget: of the delivered Wh; None where no meter is stated.
    """
    rating = result.rating
    found = [
        Figure(
            key="delivered_wh",
            title="Delivered",
            value=result.delivered_wh,
            unit="Wh",
            budget=budget,
        ),
        Figure(
            key="usable_ratio",
            title="Of rated",
            value=result.usable_ratio,
            budget=usable_ratio(result, budget).budget if budget else None,
            style=Style.PERCENT,
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


def _sag_budget(run: RunAnalysis, result: DischargeResult) -> Budget | None:
    """Of the sag; None where it, or the digits of the volts, cannot be told."""
    if run.trace is None or result.sag_ratio is None or not result.volts_mean:
        return None
    step_v = counter_step_wh(run.trace.valid(Quantity.VOLTS)[1])
    return sag_budget(result.sag_ratio, result.volts_mean, step_v) if step_v else None
