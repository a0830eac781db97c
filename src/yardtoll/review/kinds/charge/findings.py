"""Findings of a recharge: watts taken, times over a window, amps at the input."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace

import numpy as np

from yardtoll.core.charge.analysis import RechargeResult
from yardtoll.core.charge.soc_times import SocReading, time_between
from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.methods.sources import WALL_AND_SUN
from yardtoll.core.uncertainty.budget import Budget, Measured, rectangular, total
from yardtoll.core.uncertainty.energy_budget import display_step_budget
from yardtoll.review.budgets import (
    NO_METER,
    NO_VOLTS,
    amps_budget,
    of_station,
    watts_budget,
)
from yardtoll.review.run_analysis import RunAnalysis, once_a_run
from yardtoll.review.station.beside import Beside, inputs_beside
from yardtoll.review.station.outlet_runs import WHOLE_CHARGE
from yardtoll.review.station.runs import StationRuns

_WHOLE = (0.0, 100.0)
_OVER_S = 30.0
_LEVEL_PERCENTILE, _NEAR_LEVEL = 95.0, 0.02
"""The level of two inputs together, and how near to it a sample belongs to it."""


WattsFindings = Callable[[], Iterator[Finding]]


def charge_findings(
    analysis: RunAnalysis,
    station: StationRuns,
    claims: Sequence[Claim],
    watts: WattsFindings | None = None,
) -> Iterator[Finding]:
    """Watts, times and amps of one charge; two inputs at once speak to the sum alone.

    Args:
        watts: what gives the input's watts, where it is not the full power.
    """
    charged, source = analysis.energy_in, analysis.method.source
    if charged is None or source is None:
        return
    result = charged.result
    beside = inputs_beside(analysis, station)
    full = result.full_power_w
    if watts is not None and not beside:
        yield from watts()
    elif full and not beside:
        budget = of_station(full, watts_budget(full, analysis), analysis)
        yield _of_charge(source.watts, full, budget, analysis, "at full power")
    if beside:
        yield _together(analysis, beside[0])
    elif source.time:
        yield from _charge_times(source.time, source.time_unit_s, analysis, claims)
    amps = _charge_amps(analysis)
    if amps is not None and source.amps:
        budget = of_station(amps, amps_budget(amps, _usual_v(analysis), analysis), analysis)
        made = _of_charge(source.amps, amps, budget, analysis, "at the highest")
        yield replace(made, unknown=NO_VOLTS)


def _together(analysis: RunAnalysis, beside: Beside) -> Finding:
    """The level of both inputs' sum, with the budget of both meters."""
    powers = beside.pair.powers_w
    sums = powers.sum(axis=0)
    level = float(np.percentile(sums, _LEVEL_PERCENTILE))
    near = np.abs(sums - level) <= _NEAR_LEVEL * level
    parts = []
    for watts, one in zip(powers[:, near].mean(axis=1), (analysis, beside.other), strict=True):
        budget = watts_budget(float(watts), one)
        if budget is not None:
            parts.append(Measured(value=float(watts), budget=budget))
    budget = total(parts).budget if len(parts) == len(powers) else None
    budget = of_station(level, budget, analysis)
    made = _of_charge(WALL_AND_SUN.watts, level, budget, analysis, "with both inputs")
    return replace(made, runs=tuple(sorted((beside.other.run.number, analysis.run.number))))


def _of_charge(
    kind: str, value: float, budget: Budget | None, analysis: RunAnalysis, seen: str
) -> Finding:
    return Finding(
        kind=kind,
        value=value,
        budget=budget,
        unknown=NO_METER,
        runs=(analysis.run.number,),
        method=analysis.run.method,
        doubts=analysis.doubts,
        seen=seen,
    )


def _charge_times(
    kind: str, unit_s: float, analysis: RunAnalysis, claims: Sequence[Claim]
) -> Iterator[Finding]:
    """The time over every window that a claim asks for, and of the whole charge."""
    assert analysis.energy_in is not None
    result = analysis.energy_in.result
    unit = "min" if unit_s == 60.0 else "h"
    asked = {claim.soc_window for claim in claims if claim.kind == kind}
    windows: list[tuple[float, float]] = sorted(w or _WHOLE for w in asked)
    for window in dict.fromkeys(windows):
        found = _time_over(window, unit_s, unit, result)
        if found is None:
            continue
        value, budget, seen = found
        yield Finding(
            kind=kind,
            value=value,
            budget=of_station(value, budget, analysis),
            unknown="The display was read too seldom there for its uncertainty to be known.",
            runs=(analysis.run.number,),
            method=analysis.run.method,
            soc=window,
            doubts=analysis.doubts,
            seen=seen,
        )


def _time_over(
    window: tuple[float, float], unit_s: float, unit: str, result: RechargeResult
) -> tuple[float, Budget | None, str] | None:
    """(time, budget, words) over a window: by the display, else of a whole charge by its power."""
    try:
        between = time_between(_from_the_start(result), *window, result.curve)
    except UnusableDataError:
        whole = result.soc[1] - result.soc[0] >= WHOLE_CHARGE
        if window != _WHOLE or not whole or not result.duration_s:
            return None
        why = "when a charge counts as over, to half a minute"
        line = rectangular("Start and end", max(*result.edges_s, _OVER_S) / unit_s, why)
        return result.duration_s / unit_s, Budget.of(unit, [line]), "until nothing more was drawn"
    budget = None
    if between.plus_minus_s is not None:
        budget = display_step_budget(between.plus_minus_s / unit_s, unit)
    words = f"from {window[0]:g} to {window[1]:g} % by the display"
    return between.s / unit_s, budget, words


def _from_the_start(result: RechargeResult) -> list[SocReading]:
    """The display's readings, and the state the charge is known to have begun at."""
    first = min((reading.soc for reading in result.readings), default=100.0)
    if result.soc[0] < first:
        return [SocReading(s=0.0, soc=result.soc[0]), *result.readings]
    return list(result.readings)


@once_a_run
def _usual_v(analysis: RunAnalysis) -> float:
    """The median of the volts; 0 where none were logged."""
    if analysis.trace is None:
        return 0.0
    _, volts = analysis.trace.valid(Quantity.VOLTS)
    return float(np.median(volts)) if volts.size else 0.0


@once_a_run
def _charge_amps(analysis: RunAnalysis) -> float | None:
    """The highest amps: measured, else from W and V."""
    if analysis.trace is None:
        return None
    _, amps = analysis.trace.valid(Quantity.AMPS)
    if amps.size:
        return float(np.percentile(amps, 99))
    power, volts = (analysis.trace.columns.get(q) for q in (Quantity.POWER, Quantity.VOLTS))
    if power is None or volts is None:
        return None
    with np.errstate(divide="ignore", invalid="ignore"):
        ratio = power / volts
    ratio = ratio[np.isfinite(ratio)]
    return float(np.percentile(ratio, 99)) if ratio.size else None
