"""Budgets of what is fitted from several runs: terms, efficiencies, the curve, a ledger's tolls.

Each rests on the energies of all runs of the fit, so it carries their budgets through the fit's
sensitivities (JCGM 100:2008, eq. 13), the common part of one meter's gain moving all of them
together, and what differs from run to run: the named repeatability, and how the runs scatter about
the fit where there are more of them than terms.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from yardtoll.core.formatting import format_with_uncertainty
from yardtoll.core.ledger.ledger import Answers, Stage, Toll
from yardtoll.core.ledger.loss_fit import HELD_OHMIC_SHARE
from yardtoll.core.ledger.losses import CEC, EURO, LossSplit
from yardtoll.core.uncertainty.budget import Budget, Contribution, Evaluation, Measured, linear
from yardtoll.core.uncertainty.propagation import propagate
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.cycle_figures import drawn_of
from yardtoll.review.port_runs import PortRuns, port_of
from yardtoll.review.together import CycleRuns, StationRuns, cycle_of

EXACT_FIT = (
    "As many terms as runs: the ± is the meters' and the assumed repeatability; a run at a further "
    "load would test the fit."
)
_NOTHING = 1e-6
"""A ± below this share of what was delivered is rounding of the fit."""
_PERCENT = "%"


@dataclass(frozen=True, kw_only=True)
class FittedFigure:
    """A fitted figure with the budget behind it; None where a run of the fit has no meter.

    ``at_most`` says that a held term makes it a bound: nothing is judged by it.
    """

    value: float
    unit: str
    budget: Budget | None
    at_most: bool = False

    @property
    def shown(self) -> str:
        """Like "1718 ± 12 Wh", "at most 94.2 ± 0.6 %"."""
        expanded = self.budget.expanded if self.budget else 0.0
        bound = "at most " if self.at_most else ""
        return f"{bound}{format_with_uncertainty(self.value, expanded)} {self.unit}"


def fitted_terms(runs: PortRuns) -> dict[str, FittedFigure]:
    """Store, overhead and weighted efficiencies by name; empty where nothing was told."""
    split = runs.split
    if split is None or split.e0_wh.value is None or split.p0_w.value is None:
        return {}
    found = {
        "Usable store": _figure(runs, split.e0_wh.value, "Wh", (1.0, 0.0, 0.0, 0.0)),
        "Overhead": _figure(runs, split.p0_w.value, "W", (0.0, 1.0, 0.0, 0.0)),
    }
    for name, value, bound, weights in (
        ("Euro weights", split.euro_efficiency, split.euro_at_most, EURO),
        ("CEC weights", split.cec_efficiency, split.cec_at_most, CEC),
    ):
        known = value if value is not None else bound
        if known is not None:
            figure = _figure(runs, 100 * known, _PERCENT, 100 * split.weighted_gradient(weights))
            found[name] = replace(figure, at_most=value is None)
    return found


def delivered_at(runs: PortRuns, power_w: float) -> FittedFigure | None:
    """What a run at a steady load would deliver, with its budget."""
    split = runs.split
    value = split.delivered_wh(power_w) if split is not None else None
    if split is None or value is None:
        return None
    return _figure(runs, value, "Wh", split.delivered_gradient(power_w))


def ledger_budgets(
    places: Sequence[Stage | Toll], analysis: RunAnalysis, found: StationRuns
) -> list[Budget | None]:
    """Of every stage and toll of a run's ledger; None where it has no ± or a meter is unknown."""
    cycle = cycle_of(analysis, found)
    runs = _through(cycle, found)
    return [_place_budget(place.answers, cycle, runs) for place in places]


def _through(cycle: CycleRuns, found: StationRuns) -> PortRuns | None:
    if cycle.discharge is None or port_of(cycle.discharge) is None:
        return None
    return found.through(cycle.discharge)


def _place_budget(answers: Answers, cycle: CycleRuns, runs: PortRuns | None) -> Budget | None:
    discharge, drawn = cycle.discharge, drawn_of(cycle)
    further: list[tuple[Budget, float]] = []
    if answers.drawn:
        if drawn is None:
            return None
        further.append((drawn.budget, answers.drawn))
    delivered = {}
    if answers.delivered and discharge is not None:
        if discharge.budget is None:
            return None
        delivered = {discharge.run.id: (discharge.budget, answers.delivered)}
    found = _budget(runs, "Wh", answers.terms, delivered, further)
    most = _NOTHING * (discharge.result.delivered_wh if discharge and discharge.result else 1.0)
    return found if found is not None and found.u > most else None


def _figure(
    runs: PortRuns, value: float, unit: str, gradient: Sequence[float] | np.ndarray
) -> FittedFigure:
    return FittedFigure(value=value, unit=unit, budget=_budget(runs, unit, gradient, {}, ()))


def _budget(
    runs: PortRuns | None,
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
            budget, of_its_own = direct.pop(run.run.id, (run.budget, 0.0))
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
    scattered = f", and how {count} runs scatter about the fit" if split.freedom else ""
    lines = [
        Contribution(
            name="Run to run",
            why=f"assumed repeatability{scattered}",
            u=u_runs,
            evaluation=Evaluation.A if split.freedom else Evaluation.B,
            repeats_help=True,
        ),
        Contribution(
            name="Ohmic toll not told",
            why=f"held at 0; it may cost up to {HELD_OHMIC_SHARE:.0%} at the highest load",
            u=u_held,
        ),
    ]
    return [line for line in lines if line.u]


def fitted_euro(runs: PortRuns) -> Measured | None:
    """The Euro efficiency as a share; None where it is a bound or a meter is unknown."""
    figure = fitted_terms(runs).get("Euro weights")
    if figure is None or figure.budget is None or figure.at_most:
        return None
    return Measured(value=figure.value / 100, budget=figure.budget.scaled(1 / 100, ""))
