"""Budgets of what is fitted from several runs: terms, efficiencies, the curve, a ledger's tolls.

Each rests on the energies of all runs of the fit, so it carries their budgets through the fit's
sensitivities (JCGM 100:2008, eq. 13), the common part of one meter's gain moving all of them
together, and what differs from run to run: the named repeatability, and how the runs scatter about
the fit where there are more of them than terms.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from enum import StrEnum

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.ledger import worked
from yardtoll.core.ledger.ledger import Sensitivities, Stage, Toll
from yardtoll.core.ledger.loss_fit import HELD_OHMIC_SHARE
from yardtoll.core.ledger.losses import CEC, EURO, LossSplit
from yardtoll.core.uncertainty.budget import Budget, Contribution, Evaluation, Measured, linear
from yardtoll.core.uncertainty.figure import Figure, Style
from yardtoll.core.uncertainty.propagation import propagate
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.cycle import CycleRuns, cycle_of
from yardtoll.review.station.outlet_runs import OutletRuns, outlet_of
from yardtoll.review.station.runs import StationRuns

EXACT_FIT = (
    "As many terms as runs: the ± is the meters' and the assumed repeatability; a run at a further "
    "load would test the fit."
)
_NOTHING = 1e-6
"""A ± below this share of what was delivered is rounding of the fit."""


class Fitted(StrEnum):
    """Keys of what is fitted from several runs."""

    STORE = "e0_wh"
    OVERHEAD = "p0_w"
    EURO = "euro_efficiency"
    CEC = "cec_efficiency"


def fitted_terms(runs: OutletRuns) -> dict[Fitted, Figure]:
    """Store, overhead and weighted efficiencies; empty where none could be fitted."""
    split = runs.split
    if split is None or split.e0_wh.value is None or split.p0_w.value is None:
        return {}
    store = _figure(runs, Fitted.STORE, "Usable store", split.e0_wh.value, (1.0, 0.0, 0.0, 0.0))
    overhead = _figure(runs, Fitted.OVERHEAD, "Overhead", split.p0_w.value, (0.0, 1.0, 0.0, 0.0))
    how = worked.fitted(split)
    found = {
        Fitted.STORE: replace(store, worked=how),
        Fitted.OVERHEAD: replace(overhead, worked=how),
    }
    for key, title, value, bound, weights in (
        (Fitted.EURO, "Euro weights", split.euro_efficiency, split.euro_at_most, EURO),
        (Fitted.CEC, "CEC weights", split.cec_efficiency, split.cec_at_most, CEC),
    ):
        known = value if value is not None else bound
        if known is not None:
            figure = _figure(runs, key, title, known, split.weighted_gradient(weights))
            name = title.removesuffix(" weights")
            found[key] = replace(
                figure, style=Style.PERCENT, at_most=value is None,
                worked=worked.weighted(split, name, weights),
            )  # fmt: skip
    return found


def delivered_at(runs: OutletRuns, power_w: float) -> Figure | None:
    """What a run at a steady load would deliver, with its budget."""
    split = runs.split
    value = split.delivered_wh(power_w) if split is not None else None
    if split is None or value is None:
        return None
    gradient = split.delivered_gradient(power_w)
    return _figure(runs, "delivered_wh", "Delivered", value, gradient)


def fitted_covariance(runs: OutletRuns) -> FloatArray | None:
    """(4, 4) of E0, p0, p1, p2 with all their causes; None where a run has no meter stated.

    From the budgets of sums and differences: cov(a, b) = (var(a + b) − var(a − b)) ÷ 4.
    """
    count = 4
    found = np.zeros((count, count))
    for i in range(count):
        for j in range(i + 1):
            sums = np.zeros(count)
            sums[i] += 1.0
            sums[j] += 1.0
            differences = np.zeros(count)
            differences[i] += 1.0
            differences[j] -= 1.0
            together = _budget(runs, "", sums, {}, ())
            if together is None:
                return None
            # Of a term with itself nothing is left of the difference.
            apart = _budget(runs, "", differences, {}, ()) if i != j else None
            variances = [(b.expanded / 2) ** 2 if b is not None else 0.0 for b in (together, apart)]
            found[i, j] = found[j, i] = (variances[0] - variances[1]) / 4
    return found


def ledger_budgets(
    places: Sequence[Stage | Toll], analysis: RunAnalysis, station: StationRuns
) -> list[Budget | None]:
    """Of every stage and toll of a run's ledger; None where it has no ± or a meter is unknown."""
    cycle = cycle_of(analysis, station)
    runs = _through(cycle, station)
    return [_place_budget(place.sensitivities, cycle, runs) for place in places]


def _through(cycle: CycleRuns, station: StationRuns) -> OutletRuns | None:
    if cycle.discharge is None or outlet_of(cycle.discharge) is None:
        return None
    return station.through(cycle.discharge)


def _place_budget(
    sensitivities: Sensitivities, cycle: CycleRuns, runs: OutletRuns | None
) -> Budget | None:
    discharge, drawn = cycle.discharge, cycle.drawn
    out = discharge.energy_out if discharge is not None else None
    further: list[tuple[Budget, float]] = []
    if sensitivities.drawn:
        if drawn is None:
            return None
        further.append((drawn.budget, sensitivities.drawn))
    delivered = {}
    if sensitivities.delivered and discharge is not None and out is not None:
        if out.budget is None:
            return None
        delivered = {discharge.run.id: (out.budget, sensitivities.delivered)}
    found = _budget(runs, "Wh", sensitivities.terms, delivered, further)
    most = _NOTHING * (out.delivered_wh if out is not None else 1.0)
    return found if found is not None and found.u > most else None


def _figure(
    runs: OutletRuns, key: str, title: str, value: float, gradient: Sequence[float] | np.ndarray
) -> Figure:
    """A fitted figure; without a budget where a run of the fit has no meter."""
    unit = "W" if key == Fitted.OVERHEAD else "" if key in (Fitted.EURO, Fitted.CEC) else "Wh"
    return Figure(
        key=key,
        title=title,
        value=value,
        unit=unit,
        budget=_budget(runs, unit, gradient, {}, ()),
    )


def _budget(
    runs: OutletRuns | None,
    unit: str,
    gradient: Sequence[float] | np.ndarray,
    delivered: Mapping[int | None, tuple[Budget, float]],
    further: Sequence[tuple[Budget, float]],
) -> Budget | None:
    """Of a figure that answers to the terms and, directly, to a run's own delivered energy."""
    slope = np.asarray(gradient, dtype=np.float64)
    parts, direct = list(further), dict(delivered)
    scatter: list[Contribution] = []
    inputs = runs.inputs if runs is not None else None
    if inputs is not None and runs is not None and runs.split is not None and slope.any():
        for run, through_fit in zip(inputs.runs, slope @ inputs.by_run, strict=True):
            known = run.energy_out.budget if run.energy_out is not None else None
            budget, of_its_own = direct.pop(run.run.id, (known, 0.0))
            if budget is None:
                return None
            parts.append((budget, float(through_fit) + of_its_own))
        if inputs.idle is not None:
            parts.append((inputs.idle.budget, float(slope @ inputs.by_idle)))
        scatter = _scatter(runs.split, slope, len(inputs.runs))
    parts += direct.values()
    return linear(unit, parts, scatter)


def _scatter(split: LossSplit, slope: np.ndarray, count: int) -> list[Contribution]:
    """Repeatability with the runs' scatter, and the ohmic toll where it had to be held at 0."""
    if split.covariances is None:
        return []
    u_runs, u_held = (
        math.sqrt(max(float(propagate(slope, part)[0, 0]), 0.0))
        for part in (split.covariances.runs, split.covariances.held)
    )
    scattered = f", and how {count} runs scatter about the fit" if split.degrees_of_freedom else ""
    lines = [
        Contribution(
            name="Run to run",
            why=f"assumed repeatability{scattered}",
            u=u_runs,
            evaluation=Evaluation.A if split.degrees_of_freedom else Evaluation.B,
            repeats_help=True,
        ),
        Contribution(
            name="Ohmic toll not known",
            why=f"held at 0; it may cost up to {HELD_OHMIC_SHARE:.0%} at the highest load",
            u=u_held,
        ),
    ]
    return [line for line in lines if line.u]


def fitted_euro(runs: OutletRuns) -> Measured | None:
    """The Euro efficiency as a share; None where it is a bound or a meter is unknown."""
    figure = fitted_terms(runs).get(Fitted.EURO)
    return None if figure is None or figure.at_most else figure.measured
