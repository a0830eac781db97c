"""Budgets of how long a run took and of its mean power, alike for discharges and charges."""

from typing import Protocol

from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import duration_budget, mean_power_budget


class TimedResult(Protocol):
    """What a discharge and a charge both have, as their analyses say."""

    @property
    def start_s(self) -> float | None:
        """When it began, s; None where that is not known."""
        ...

    @property
    def duration_s(self) -> float | None:
        """How long it took, s; None where that is not known."""
        ...

    @property
    def mean_w(self) -> float | None:
        """Over its duration; None where that is not known."""
        ...

    @property
    def edges_s(self) -> tuple[float, float]:
        """How far its start and its end may be off, s."""
        ...


def run_time_budget(result: TimedResult) -> Budget | None:
    """Of how long a run took; None where its ends are not known."""
    if result.start_s is None or not any(result.edges_s):
        return None
    return duration_budget(result.edges_s)


def run_mean_power_budget(result: TimedResult, energy: Budget | None) -> Budget | None:
    """Of the mean power of a run; None without a meter or a time.

    Args:
        energy: of the Wh delivered or drawn.
    """
    if energy is None or not result.duration_s or result.mean_w is None:
        return None
    return mean_power_budget(energy, result.mean_w, result.duration_s, result.edges_s)
