"""The figures of one charge, whether from a yard or from a log at the command line."""

from yardtoll.core.charge.analysis import RechargeResult
from yardtoll.core.charge.soc_times import ToSoc
from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.formatting import format_clock
from yardtoll.core.uncertainty.budget import Budget, Worked
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
            Figure(
                key="drawn_wh",
                title="Drawn",
                value=result.drawn_wh,
                unit="Wh",
                budget=budget,
                worked=_drawn(result.drawn_wh),
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
    if result.mean_w is not None:
        mean = run_mean_power_budget(result, budget)
        found.append(
            Figure(
                key="mean_w",
                title="Mean power",
                value=result.mean_w,
                unit="W",
                budget=mean,
                worked=_mean(result),
            )
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


def _drawn(drawn_wh: float) -> Worked:
    return Worked(
        formula="E = Σ ½ (Pᵢ + Pᵢ₊₁) · (tᵢ₊₁ − tᵢ), or the meter's counter where it has one",
        put_in=f"from plugging in to the end of the draw: {drawn_wh:.1f} Wh",
        source="trapezoidal rule",
    )


def _mean(result: RechargeResult) -> Worked | None:
    if result.drawn_wh is None or not result.duration_s or result.mean_w is None:
        return None
    hours = result.duration_s / SECONDS_PER_HOUR
    return Worked(
        formula="E ÷ t",
        put_in=f"{result.drawn_wh:.1f} Wh ÷ {hours:.4f} h = {result.mean_w:.1f} W",
        source="definition",
    )


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
        worked=Worked(
            formula="a straight line between the two readings around it",
            put_in=f"{at.soc:g} % at {format_clock(at.s)}",
            source="linear interpolation of the display's readings",
        ),
    )
