"""Budgets of how long a run took and of its mean power, alike for discharges and charges."""

from yardtoll.core.charge.analysis import RechargeResult
from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import duration_budget, mean_power_budget


def run_time_budget(result: DischargeResult | RechargeResult) -> Budget | None:
    """Of how long a run took; None where its ends are not known."""
    if result.start_s is None or not any(result.edges_s):
        return None
    return duration_budget(result.edges_s)


def run_mean_power_budget(
    result: DischargeResult | RechargeResult, energy: Budget | None
) -> Budget | None:
    """Of the mean power of a run; None without a meter or a time.

    Args:
        energy: of the Wh delivered or drawn.
    """
    if energy is None or not result.duration_s or result.mean_w is None:
        return None
    return mean_power_budget(energy, result.mean_w, result.duration_s, result.edges_s)
