"""Budgets of what is fitted from several runs: terms, efficiencies, the curve, a ledger's tolls.

Each rests on the energies of all runs of the fit, so it carries their budgets through the fit's
sensitivities (JCGM 100:2008, eq. 13), one meter's gain moving all of them together, and how the
runs scatter about the fit (type A) where there are more of them than terms.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.figures import format_with_uncertainty
from yardtoll.core.ledger import Answers, Stage, Toll
from yardtoll.core.losses import CEC, EURO, LossSplit
from yardtoll.core.uncertainty.budget import Budget, Contribution, Evaluation, Measured, linear
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.cycle_figures import drawn_of
from yardtoll.review.findings.budgets import idle_budget
from yardtoll.review.port_runs import PortRuns, port_of
from yardtoll.review.together import CycleRuns, Together, cycle_of

EXACT_FIT = (
    "As many terms as runs: the ± is the meters' alone; a run at a further load would test the fit."
)
_NOTHING = 1e-6
"""A ± below this share of what was delivered is rounding of the fit."""
_PERCENT = "%"


@dataclass(frozen=True, kw_only=True)
class FittedFigure:
    """A fitted figure with the budget behind it; None where a run of the fit has no meter."""

    value: float
    unit: str
    budget: Budget | None

    @property
    def shown(self) -> str:
        """Like "1718 ± 12 Wh"."""
        expanded = self.budget.expanded if self.budget else 0.0
        return f"{format_with_uncertainty(self.value, expanded)} {self.unit}"


def fitted_terms(runs: PortRuns) -> dict[str, FittedFigure]:
    """Store, overhead and weighted efficiencies by name; empty where nothing was told."""
    split = runs.split
    if split is None or split.e0_wh.value is None or split.p0_w.value is None:
        return {}
    found = {
        "Usable store": _figure(runs, split.e0_wh.value, "Wh", (1.0, 0.0, 0.0, 0.0)),
        "Overhead": _figure(runs, split.p0_w.value, "W", (0.0, 1.0, 0.0, 0.0)),
    }
    for name, value, weights in (
        ("Euro weights", split.euro_efficiency, EURO),
        ("CEC weights", split.cec_efficiency, CEC),
    ):
        if value is not None:
            gradient = split.weighted_gradient(weights)
            found[name] = _figure(runs, 100 * value, _PERCENT, 100 * gradient)
    return found


def delivered_at(runs: PortRuns, power_w: float) -> FittedFigure | None:
    """What a run at a steady load would deliver, with its budget."""
    split = runs.split
    value = split.delivered_wh(power_w) if split is not None else None
    if split is None or value is None:
        return None
    return _figure(runs, value, "Wh", split.delivered_gradient(power_w))


def ledger_budgets(
    places: Sequence[Stage | Toll], analysis: RunAnalysis, found: Together
) -> list[Budget | None]:
    """Of every stage and toll of a run's ledger; None where it has no ± or a meter is unknown."""
    cycle = cycle_of(analysis, found)
    runs = _through(cycle, found)
    return [_place_budget(place.answers, cycle, runs) for place in places]


def _through(cycle: CycleRuns, found: Together) -> PortRuns | None:
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
    makings = runs.makings if runs is not None else None
    if makings is not None and runs is not None and runs.split is not None and slope.any():
        for run, through_fit in zip(makings.runs, slope @ makings.by_run, strict=True):
            budget, of_its_own = direct.pop(run.run.id, (run.budget, 0.0))
            if budget is None:
                return None
            parts.append((budget, float(through_fit) + of_its_own))
        if makings.idle is not None:
            parts.append((idle_budget(makings.idle), float(slope @ makings.by_idle)))
        scatter = _scatter(runs.split, slope, len(makings.runs))
    parts += direct.values()
    return linear(unit, parts, scatter)


def _scatter(split: LossSplit, slope: np.ndarray, count: int) -> list[Contribution]:
    """How the runs scatter about the fit; nothing where as many terms as runs fit exactly."""
    u = split.scatter_u(slope)
    if u is None:
        return []
    line = Contribution(
        name="Fit of the loss split",
        why=f"how {count} runs scatter about it",
        u=u,
        evaluation=Evaluation.A,
        freedom=split.freedom,
    )
    return [line]


def fitted_euro(runs: PortRuns) -> Measured | None:
    """The Euro efficiency as a share; None where nothing was told or a meter is unknown."""
    figure = fitted_terms(runs).get("Euro weights")
    if figure is None or figure.budget is None:
        return None
    return Measured(value=figure.value / 100, budget=figure.budget.scaled(1 / 100, ""))
