"""Budgets of the figures of a yard's discharge, by the limits of the run's meter."""

from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.discharge.figures import DischargeBudgets
from yardtoll.core.electrical.energy import counter_step_wh
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import sag_budget
from yardtoll.review.budgets import volts_budget, watts_budget
from yardtoll.review.run_analysis import RunAnalysis


def budgets_of_run(
    run: RunAnalysis, result: DischargeResult, energy: Budget | None
) -> DischargeBudgets:
    """By the limits of the run's meter.

    Args:
        energy: budget of the delivered Wh; None where no meter is stated.
    """
    max_w = None
    if energy is not None and result.max_w is not None:
        max_w = watts_budget(result.max_w, run)
    return DischargeBudgets(
        max_w=max_w,
        volts=volts_budget(result.volts_mean, run) if result.volts_mean is not None else None,
        sag=_sag_budget(run, result),
    )


def _sag_budget(run: RunAnalysis, result: DischargeResult) -> Budget | None:
    """Of the sag; None where it, or the volts' last digit, is not known."""
    if run.trace is None or result.sag_ratio is None or not result.volts_mean:
        return None
    step_v = counter_step_wh(run.trace.valid(Quantity.VOLTS)[1])
    return sag_budget(result.sag_ratio, result.volts_mean, step_v) if step_v else None
