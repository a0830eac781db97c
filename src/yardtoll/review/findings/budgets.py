"""Budgets of figures other than an energy, and what to say where there is none."""

import math

from yardtoll.core.idle import IdleResult
from yardtoll.core.uncertainty.budget import COVERAGE_FACTOR, Budget, rectangular
from yardtoll.core.uncertainty.energy_budget import (
    duration_budget,
    power_budget,
    reading_budget,
)
from yardtoll.review.analysis import RunAnalysis

EXACT = Budget(unit="", lines=())
NO_METER = "No meter is stated, so its uncertainty is not known: edit the run under Ledger."


def watts_budget(watts: float, analysis: RunAnalysis) -> Budget | None:
    """Of a power: the meter's gain and floor; None without a meter."""
    if analysis.meter is None:
        return None
    return power_budget(watts, analysis.meter.accuracy, str(analysis.meter.id))


def gain_budget(value: float, unit: str, analysis: RunAnalysis) -> Budget | None:
    """Of volts, amps or hertz; None without a meter."""
    if analysis.meter is None:
        return None
    return reading_budget(value, unit, analysis.meter.accuracy)


def idle_budget(idle: IdleResult) -> Budget:
    """Of an idle draw: the display's steps at either end."""
    limit = math.sqrt(3) * idle.idle_w_expanded / COVERAGE_FACTOR
    return Budget.of("W", [rectangular("Display steps", limit, "±½ point at either end")])


def run_time_budget(analysis: RunAnalysis) -> Budget | None:
    """Of how long a run took; None where its ends were not found in samples."""
    told = analysis.result or analysis.recharge
    return duration_budget(told.edge_s) if told is not None and told.edge_s else None
