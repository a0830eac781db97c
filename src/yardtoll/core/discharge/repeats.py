"""Runs of one method at one load: mean, standard deviation, spread, and one that is off."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.ledger.loss_fit import REPEATABILITY, REPEATABILITY_DEGREES_OF_FREEDOM
from yardtoll.core.uncertainty.budget import COVERAGE_FACTOR, Budget, Measured, station_mean

SAME_LOAD_SHARE = 0.03
"""Runs whose mean W are closer than this are at one load; others are never averaged."""


@dataclass(frozen=True, kw_only=True)
class Repeat:
    """One run's result in Wh.

    Attributes:
        own_u_wh: standard uncertainty without what all runs of one meter share.
        budget: of the energy; None where no meter is stated.
    """

    number: int
    energy_wh: float
    mean_w: float
    own_u_wh: float
    budget: Budget | None = None


@dataclass(frozen=True, kw_only=True)
class RepeatFigures:
    """Two or more repeats.

    Attributes:
        stdev_wh: sample standard deviation (n − 1).
        spread_wh: highest less lowest.
        off: numbers of runs further from the others' mean than the combined uncertainty.
        mean: with its budget, the scatter in it; None where a run has no meter.
    """

    count: int
    mean_wh: float
    stdev_wh: float
    spread_wh: float
    off: tuple[int, ...]
    mean: Measured | None = None


def alike(runs: Sequence[Repeat], load_w: float) -> list[Repeat]:
    """Those at about a load."""
    return [run for run in runs if abs(run.mean_w / load_w - 1) <= SAME_LOAD_SHARE]


def repeat_figures(
    runs: Sequence[Repeat], repeatability: float = REPEATABILITY
) -> RepeatFigures | None:
    """The figures of runs at one load; None for fewer than two.

    Args:
        repeatability: relative standard deviation from run to run, before the runs show it.
    """
    if len(runs) < 2:
        return None
    energies = np.array([run.energy_wh for run in runs])
    return RepeatFigures(
        count=len(runs),
        mean_wh=float(energies.mean()),
        stdev_wh=float(energies.std(ddof=1)),
        spread_wh=float(np.ptp(energies)),
        off=tuple(run.number for i, run in enumerate(runs) if _is_off(runs, i, repeatability)),
        mean=_mean(runs, repeatability),
    )


def _mean(runs: Sequence[Repeat], repeatability: float) -> Measured | None:
    parts = [Measured(value=r.energy_wh, budget=r.budget) for r in runs if r.budget is not None]
    if len(parts) < len(runs):
        return None
    return station_mean(parts, repeatability, REPEATABILITY_DEGREES_OF_FREEDOM)


def _is_off(runs: Sequence[Repeat], index: int, repeatability: float) -> bool:
    """Whether a run is further from the mean of the others than U of the difference (k = 2)."""
    others = [run for i, run in enumerate(runs) if i != index]
    mean = sum(run.energy_wh for run in others) / len(others)
    apart = repeatability * mean
    u_run = math.hypot(runs[index].own_u_wh, apart)
    u_mean = math.hypot(*(math.hypot(run.own_u_wh, apart) for run in others)) / len(others)
    return abs(runs[index].energy_wh - mean) > COVERAGE_FACTOR * math.hypot(u_run, u_mean)
