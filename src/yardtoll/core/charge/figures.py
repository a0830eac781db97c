"""The figures of one charge, whether from a yard or from a log at the command line."""

from yardtoll.core.charge.analysis import RechargeResult
from yardtoll.core.charge.soc_times import ToSoc
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import display_step_budget
from yardtoll.core.uncertainty.figure import Figure, Style
from yardtoll.core.uncertainty.run_budgets import run_mean_power_budget, run_time_budget

USUAL_TARGET_SOC = 80.0
"""The state of charge that makers like to name beside full."""


def charge_figures(
    result: RechargeResult, budget: Budget | None, peak: Budget | None = None
) -> tuple[Figure, ...]:
    """Every figure that is known, the drawn energy first where it is.

    Args:
        budget: of the drawn Wh; None where no meter is stated.
        peak: of the peak power.
    """
    found = []
    if result.drawn_wh is not None:
        found.append(
            Figure(key="drawn_wh", title="Drawn", value=result.drawn_wh, unit="Wh", budget=budget)
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
    if result.mean_w is not None:
        mean = run_mean_power_budget(result, budget)
        found.append(
            Figure(key="mean_w", title="Mean power", value=result.mean_w, unit="W", budget=mean)
        )
    if result.peak_w is not None:
        found.append(
            Figure(key="peak_w", title="Peak power", value=result.peak_w, unit="W", budget=peak)
        )
    for soc in (USUAL_TARGET_SOC, 100.0):
        at = time_to(result, soc)
        if at is not None:
            found.append(to_soc_figure(at))
    return tuple(found)


def time_to(result: RechargeResult, soc: float) -> ToSoc | None:
    """When a state of charge was reached; None where the readings do not show it."""
    return next((at for at in result.to_soc if at.soc == soc), None)


def to_soc_figure(at: ToSoc) -> Figure:
    """The time to a state of charge; without a ± where the display was read too seldom."""
    step = display_step_budget(at.plus_minus_s, "s") if at.plus_minus_s else None
    return Figure(
        key=f"to_soc_{at.soc:g}_s",
        title=f"To {at.soc:g} %",
        value=at.s,
        unit="s",
        budget=step,
        style=Style.MINUTES,
    )
