"""The equations of the loss split, solved by weighed least squares, and what that may be off by."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.errors import ValueOutOfRangeError
from yardtoll.core.uncertainty.accuracy import MeterAccuracy

REPEATABILITY = 0.005
"""Relative standard deviation of what a station delivers from run to run, where nothing is known
(common practice, no source)."""
REPEATABILITY_DEGREES_OF_FREEDOM = 6.0
"""Degrees of freedom of that prior: it is known to about three tenths (JCGM 100:2008, eq. G.3)."""
IDLE_STORE_LIMIT = 0.05
"""Idle watts read off a display rest on the rating as store, ± this share of it."""
HIGHEST_P1 = 0.25
"""No inverter loses more of its output in proportion (common practice, no source)."""
WIDEST_P1_U = 0.25
"""A proportional toll less certain than this is not shown by an idle test."""
HELD_OHMIC_SHARE = 0.04
"""Where p2 is held at 0 it may be as large as to cost this share at the highest load (common
practice, no source)."""
TERMS = ("e0", "p0", "p1", "p2")


@dataclass(frozen=True, kw_only=True)
class RunAtLoad:
    """One whole discharge.

    Attributes:
        mean_sq_w2: mean of P² over the run; the square of the mean power where not measured.
        temperature_c: of the air or the station; None where it was not noted.

    Raises:
        ValueOutOfRangeError: a figure is not above 0.
    """

    energy_wh: float
    duration_s: float
    mean_sq_w2: float | None = None
    temperature_c: float | None = None

    def __post_init__(self) -> None:
        for name, value in (("energy_wh", self.energy_wh), ("duration", self.duration_s)):
            if not (math.isfinite(value) and value > 0):
                raise ValueOutOfRangeError(f"{{run}} {name}", value, "above 0")
        if self.mean_sq_w2 is not None and self.mean_sq_w2 < 0.999 * self.mean_w**2:
            raise ValueOutOfRangeError(
                "{run} mean_sq_w2",
                self.mean_sq_w2,
                f"at least the mean W squared, {self.mean_w**2:g}",
            )

    @property
    def hours(self) -> float:
        """How long it ran."""
        return self.duration_s / SECONDS_PER_HOUR

    @property
    def mean_w(self) -> float:
        """Energy ÷ time."""
        return self.energy_wh / self.hours

    @property
    def square_w2h(self) -> float:
        """∫P²dt in W²h."""
        mean_sq = self.mean_w**2 if self.mean_sq_w2 is None else self.mean_sq_w2
        return mean_sq * self.hours


@dataclass(frozen=True, kw_only=True)
class IdleDraw:
    """An idle draw from a test of its own, with its standard uncertainty, both in W."""

    watts: float
    u_w: float

    @classmethod
    def from_display(cls, watts: float) -> "IdleDraw":
        """One that rests on the rating as store: ± 5 % of it, rectangular."""
        return cls(watts=watts, u_w=IDLE_STORE_LIMIT * watts / math.sqrt(3))


@dataclass(frozen=True, kw_only=True, eq=False)
class Covariances:
    """(4, 4) each, of E0, p0, p1, p2; zeros for what is not fitted.

    Attributes:
        runs: repeatability, and how the runs scatter about the fit.
        held: the ohmic toll, where too few loads hold it at 0.
        idle: the idle draw that set the scale.
        meter: the gain that all the runs' readings have in common.
    """

    runs: FloatArray
    held: FloatArray
    idle: FloatArray
    meter: FloatArray

    @property
    def total(self) -> FloatArray:
        """All of them together."""
        return np.asarray(self.runs + self.held + self.idle + self.meter)


def wanted_terms(loads: int, idle: IdleDraw | None) -> tuple[list[str], list[tuple[str, str]]]:
    """The terms to fit, and why others are not."""
    names, why = ["e0"], []
    if idle is None:
        names.append("p0")
        why.append(("p1", "cannot be separated from the store without an idle test: held at 0"))
    else:
        names.append("p1")
        why.append(("p0", "known from the idle test"))
    if loads >= 3:
        names.append("p2")
    else:
        why.append(("p2", "needs runs at three loads: held at 0"))
    return names, why


def equations(
    runs: Sequence[RunAtLoad], names: Sequence[str], idle_w: float | None
) -> tuple[FloatArray, FloatArray]:
    """A·x = b, A (runs, names) and b (runs,): E0 − p0·t − p1·E − p2·S = E (+ p0·t where known)."""
    columns = {
        "e0": np.ones(len(runs)),
        "p0": -np.array([run.hours for run in runs]),
        "p1": -np.array([run.energy_wh for run in runs]),
        "p2": -np.array([run.square_w2h for run in runs]),
    }
    known = np.array([run.energy_wh + (idle_w or 0.0) * run.hours for run in runs])
    return np.column_stack([columns[name] for name in names]), known


def own_sigmas(
    runs: Sequence[RunAtLoad], accuracy: MeterAccuracy | None, repeatability: float
) -> FloatArray:
    """(runs,) standard uncertainty in Wh of each run's own: repeatability, level gain, floor."""
    energies = np.array([run.energy_wh for run in runs])
    # What varies is the store; the quickest runs, which lose least, come nearest to it.
    squares = (repeatability * float(energies.max())) ** 2 + np.zeros(len(runs))
    if accuracy is not None:
        hours = np.array([run.hours for run in runs])
        squares += (accuracy.level_limit * energies) ** 2 / 3 + (accuracy.floor_w * hours) ** 2 / 3
    return np.asarray(np.sqrt(squares))


class LossFit:
    """The equations of one choice of terms, weighed, and what their solution may be off by."""

    def __init__(
        self,
        runs: Sequence[RunAtLoad],
        names: Sequence[str],
        idle: IdleDraw | None,
        sigma: FloatArray,
        accuracy: MeterAccuracy | None,
    ) -> None:
        self.runs, self.names, self.idle = runs, list(names), idle
        self.design, self.known = equations(runs, names, idle.watts if idle else None)
        self._known_sigma = bool(np.all(sigma > 0))
        self._sigma = sigma if self._known_sigma else np.ones(len(runs))
        self.weights = self._sigma.min() / self._sigma
        self._gain_u = accuracy.common_limit / math.sqrt(3) if accuracy is not None else 0.0
        self.degrees_of_freedom = len(runs) - self.design.shape[1]
        prior = REPEATABILITY_DEGREES_OF_FREEDOM if self._known_sigma else 0.0
        self.spread_degrees_of_freedom = prior + self.degrees_of_freedom

    def free(self) -> FloatArray:
        """The solution without bounds."""
        return self._inverse() @ self.known

    def scatter(self, values: FloatArray) -> float:
        """χ² of the residuals."""
        residuals = (self.known - self.design @ values) / self._sigma
        return float(np.sum(residuals**2))

    def covariances(self, values: FloatArray) -> Covariances:
        """Of the terms at ``values``; of the whole model, also where a bound holds.

        A term at its bound is not known to be 0: the others' uncertainties count its freedom too.
        """
        inverse = self._inverse()
        spread = self._spread(values)
        runs = spread * inverse @ np.diag(self._sigma**2) @ inverse.T
        p1, p2 = (
            dict(zip(self.names, values, strict=True)).get(name, 0.0) for name in ("p1", "p2")
        )
        energies = np.array([run.energy_wh for run in self.runs])
        squares = np.array([run.square_w2h for run in self.runs])
        by_gain = inverse @ (energies * (1 + p1) + 2 * p2 * squares)
        idle = np.zeros((4, 4))
        if self.idle is not None:
            moved = self._at_terms(inverse @ np.array([run.hours for run in self.runs]))
            moved[TERMS.index("p0")] = 1.0
            idle = np.outer(moved, moved) * self.idle.u_w**2
        held = np.zeros((4, 4))
        if "p2" not in self.names:
            moved = self._at_terms(inverse @ squares)
            moved[TERMS.index("p2")] = 1.0
            highest_w = max(run.mean_w for run in self.runs)
            held = np.outer(moved, moved) * (HELD_OHMIC_SHARE / highest_w) ** 2 / 3
        gain = self._at_terms(by_gain) * self._gain_u
        at = [TERMS.index(name) for name in self.names]
        whole = np.zeros((4, 4))
        whole[np.ix_(at, at)] = runs
        return Covariances(runs=whole, held=held, idle=idle, meter=np.outer(gain, gain))

    def _spread(self, values: FloatArray) -> float:
        """What the variance of the prior is multiplied with, once the scatter is known."""
        degrees_of_freedom = self.spread_degrees_of_freedom
        if degrees_of_freedom <= 0:
            return 0.0
        prior = REPEATABILITY_DEGREES_OF_FREEDOM if self._known_sigma else 0.0
        scale: float = (prior + self.scatter(values)) / degrees_of_freedom
        # The standard deviation of a t-distribution; it has none below three degrees of freedom.
        return (
            float(scale * degrees_of_freedom / (degrees_of_freedom - 2))
            if degrees_of_freedom > 2
            else scale
        )

    def _inverse(self) -> FloatArray:
        """(terms, runs): the weighed pseudo-inverse of the design."""
        weighed = self.design * self.weights[:, None]
        scale = np.linalg.norm(weighed, axis=0)
        return np.asarray(np.linalg.pinv(weighed / scale) / scale[:, None] * self.weights)

    def _at_terms(self, moved: FloatArray) -> FloatArray:
        """(4,) with the fitted terms at their places."""
        whole = np.zeros(4)
        whole[[TERMS.index(name) for name in self.names]] = moved
        return whole


def why_idle_not_used(
    runs: Sequence[RunAtLoad],
    loads: int,
    idle: IdleDraw,
    sigma: FloatArray,
    accuracy: MeterAccuracy | None,
    widest_p1_u: float,
) -> str:
    """Why an idle test does not set the scale, judged by the fit free of bounds; "" where it does.

    At a bound the store stops moving with the idle draw, and the test would look sharp just where
    it is wrong.
    """
    names, _ = wanted_terms(loads, idle)
    fit = LossFit(runs, names, idle, sigma, accuracy)
    values = fit.free()
    p1 = float(values[names.index("p1")])
    u = math.sqrt(max(float(fit.covariances(values).total[2, 2]), 0.0))
    fitted = (
        f"the idle draw of {idle.watts:.1f} W would put the proportional toll at {100 * p1:.0f} "
        f"± {200 * u:.0f} %"
    )
    if not -u <= p1 <= HIGHEST_P1 + u:
        return f"{fitted}, which is not between 0 and {HIGHEST_P1:.0%}: it does not set the scale"
    if u > widest_p1_u:
        return f"{fitted}, which is too uncertain: it does not set the scale"
    return ""


def bounded(
    design: FloatArray, known: FloatArray, names: Sequence[str], weights: FloatArray
) -> tuple[FloatArray, list[str]]:
    """Weighed least squares with no term below 0; which terms the bound holds."""
    # Loading it takes longer than opening the window.
    from scipy.optimize import lsq_linear

    weighed = design * weights[:, None]
    scale = np.linalg.norm(weighed, axis=0)
    found = lsq_linear(
        weighed / scale, known * weights, bounds=(0, np.inf), method="bvls", tol=1e-14
    )
    values = found.x / scale
    smallest = 1e-9 * np.abs(known).max()
    # A term that is 0 by itself is not held there by the bound.
    free = np.linalg.pinv(weighed / scale) @ (known * weights)
    at_bound = (found.x <= smallest) & (np.abs(free) > smallest)
    held = [name for name, bound in zip(names, at_bound, strict=True) if bound]
    return np.where(found.x <= smallest, 0.0, values), held
