"""Budgets of figures other than an energy, and what to say where there is none."""

import numpy as np

from yardtoll.core.electrical.energy import counter_step_wh
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.ledger.loss_fit import REPEATABILITY_DEGREES_OF_FREEDOM
from yardtoll.core.uncertainty.budget import (
    Budget,
    Contribution,
    Measured,
    linear,
    rectangular,
    station_mean,
)
from yardtoll.core.uncertainty.energy_budget import (
    power_budget,
    stated_budget,
)
from yardtoll.review.run_analysis import RunAnalysis

EXACT = Budget(unit="", lines=())
_COARSEST_STEP = 1.0
"""A few values far apart do not show a meter's digits: whole ones at most."""
NO_METER = "No meter is stated, so its uncertainty is not known: edit the run under Ledger."
NO_VOLTS = "The meter's accuracy for volts is not stated: enter it under the yard's meters."
NO_HERTZ = "The meter's accuracy for hertz is not stated: enter it under the yard's meters."


def watts_budget(watts: float, analysis: RunAnalysis, level: str = "") -> Budget | None:
    """Of a power in this run: the meter's gain and floor; None without a meter."""
    meter = analysis.meter
    if meter is None:
        return None
    accuracy, range_ = meter.accuracy, analysis.range_
    return power_budget(watts, accuracy, str(meter.id), range_=range_, level=level)


def of_station(value: float, budget: Budget | None, analysis: RunAnalysis) -> Budget | None:
    """Of what the station does rather than this run: with the named repeatability in it."""
    if budget is None:
        return None
    measured = Measured(value=value, budget=budget)
    return station_mean([measured], analysis.repeatability, REPEATABILITY_DEGREES_OF_FREEDOM).budget


def volts_budget(
    volts: float, analysis: RunAnalysis, logged: FloatArray | None = None
) -> Budget | None:
    """Of volts, by the limits stated for them and the last digit logged; None where none are."""
    meter = analysis.meter
    if meter is None or meter.volts_share is None:
        return None
    made = stated_budget(volts, "V", meter.volts_share, meter.volts_floor_v or 0.0, "volts")
    return made.plus(*_last_digit(logged, "V"))


def hertz_budget(
    hertz: float, analysis: RunAnalysis, logged: FloatArray | None = None
) -> Budget | None:
    """Of hertz, by the limit stated for them and the last digit logged; None where none is."""
    meter = analysis.meter
    if meter is None or meter.hertz_floor_hz is None:
        return None
    made = stated_budget(hertz, "Hz", 0.0, meter.hertz_floor_hz, "hertz")
    return made.plus(*_last_digit(logged, "Hz"))


def _last_digit(logged: FloatArray | None, unit: str) -> list[Contribution]:
    """Half the last digit of what was logged: each value was rounded to it."""
    if logged is None or logged.size == 0:
        return []
    step = min(counter_step_wh(np.unique(logged)), _COARSEST_STEP)
    return [rectangular("Last digit", step / 2, f"steps of {step:g} {unit}")]


def amps_budget(amps: float, volts: float, analysis: RunAnalysis) -> Budget | None:
    """Of amps at so many volts, as watts ÷ volts, with the limits of both.

    None where either is not stated, or without volts.
    """
    if volts <= 0:
        return None
    of_watts = watts_budget(amps * volts, analysis)
    of_volts = volts_budget(volts, analysis)
    if of_watts is None or of_volts is None:
        return None
    return linear("A", [(of_watts, 1 / volts), (of_volts, -amps / volts)])
