"""The loss split: store, overhead, proportional and ohmic tolls from runs at several loads.

Battery power = P + p0 + p1·P + p2·P², so over a run E0 = E·(1 + p1) + p0·t + p2·∫P²dt. The scale
is free: p1 can be told from E0 only when p0 is known from an idle test; without one p1 is held at
0 and E0, p0, p2 are as seen at the outlet (each ÷ (1 + p1)).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import lsq_linear
from scipy.stats import t as student_t

from yardtoll.core.energy import SECONDS_PER_HOUR
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.trace import Code, FloatArray, Notice
from yardtoll.core.uncertainty.propagation import propagate

STORE_SLACK = 0.02
"""A store above the rated energy by more than this is pointed at."""
POOR_FIT_SHARE = 0.02
"""A run that lies off the fit by more than this share of its energy is pointed at."""
SCALE_SHARE = 0.02
"""An idle figure that leaves the store less certain than this does not set its scale."""
_SAME_LOAD_SHARE = 0.03
"""Runs whose mean W lie this close tell the terms no further apart."""
_COVERAGE = 0.975
# Load shares and weights of the European and Californian efficiencies (IEC 61683, EN 50530, CEC;
# from memory).
EURO = ((5, 0.03), (10, 0.06), (20, 0.13), (30, 0.10), (50, 0.48), (100, 0.20))
CEC = ((10, 0.04), (20, 0.05), (30, 0.12), (50, 0.21), (75, 0.53), (100, 0.05))


@dataclass(frozen=True, kw_only=True)
class RunAtLoad:
    """One whole discharge.

    Attributes:
        mean_sq_w2: mean of P² over the run; the square of the mean power where not measured.

    Raises:
        ValueOutOfRangeError: a figure is not above 0.
    """

    energy_wh: float
    duration_s: float
    mean_sq_w2: float | None = None

    def __post_init__(self) -> None:
        for name, value in (("energy_wh", self.energy_wh), ("duration", self.duration_s)):
            if not (math.isfinite(value) and value > 0):
                raise ValueOutOfRangeError(f"--run {name}", value, "above 0")
        if self.mean_sq_w2 is not None and self.mean_sq_w2 < 0.999 * self.mean_w**2:
            raise ValueOutOfRangeError(
                "--run mean_sq_w2",
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
class Term:
    """One fitted figure.

    Attributes:
        u: standard uncertainty; None for exact fits and held terms.
        low, high: the 95 % interval (Student's t for the fit's degrees of freedom); None likewise.
    """

    value: float | None
    u: float | None = None
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True, kw_only=True)
class LossSplit:
    """What the runs say together; None where they cannot tell.

    Attributes:
        fixed: (term, why) for each that was not fitted.
        residuals_wh: E0 less what a run accounts for, one a run.
        covariance: (4, 4) of E0, p0, p1, p2; 0 for what is not fitted; None for an exact fit.
        rated_w: what the weighted efficiencies are shares of.
        freedom: degrees of freedom of the fit.
    """

    e0_wh: Term
    p0_w: Term
    p1: Term
    p2_per_w: Term
    fixed: tuple[tuple[str, str], ...]
    euro_efficiency: float | None
    cec_efficiency: float | None
    residuals_wh: tuple[float, ...]
    freedom: int
    notices: tuple[Notice, ...]
    covariance: FloatArray | None = None
    rated_w: float | None = None

    def has(self, code: Code) -> bool:
        """Whether a notice of this kind was made."""
        return any(notice.code is code for notice in self.notices)

    def delivered_wh(self, power_w: float) -> float | None:
        """What a run at a steady load would deliver; None where nothing was told."""
        if self.e0_wh.value is None or power_w <= 0:
            return None
        return self.e0_wh.value * power_w / self.battery_w(power_w)

    def delivered_gradient(self, power_w: float) -> FloatArray:
        """(4,) of :meth:`delivered_wh` by E0, p0, p1 and p2."""
        drawn = self.battery_w(power_w)
        share = (self.e0_wh.value or 0.0) * power_w / drawn**2
        return np.array([power_w / drawn, -share, -share * power_w, -share * power_w**2])

    def weighted_gradient(self, weights: Sequence[tuple[int, float]]) -> FloatArray:
        """(4,) of a weighted efficiency (a share) by E0, p0, p1 and p2; zeros without a rated W."""
        gradient = np.zeros(4)
        for percent, weight in weights if self.rated_w is not None else ():
            power = (self.rated_w or 0.0) * percent / 100
            share = weight * power / self.battery_w(power) ** 2
            gradient -= share * np.array([0.0, 1.0, power, power**2])
        return gradient

    def scatter_u(self, gradient: FloatArray) -> float | None:
        """Standard uncertainty, from how the runs scatter, of what has this gradient by the terms.

        None for an exact fit, which leaves no scatter.
        """
        if self.covariance is None:
            return None
        return math.sqrt(max(float(propagate(gradient, self.covariance)[0, 0]), 0.0))

    def battery_w(self, power_w: float) -> float:
        """Battery W for W at the outlet (as seen at the outlet when p1 is held at 0)."""
        p0, p1, p2 = (t.value or 0.0 for t in (self.p0_w, self.p1, self.p2_per_w))
        return power_w + p0 + p1 * power_w + p2 * power_w**2


def fit_losses(
    runs: Sequence[RunAtLoad],
    rated_wh: float,
    *,
    idle_w: float | None = None,
    rated_w: float | None = None,
) -> LossSplit:
    """Fit what can be told; no term lies below 0.

    Raises:
        ValueOutOfRangeError: a rating not above 0 or an idle draw below it.
        UnusableDataError: there is no run.
    """
    _check(rated_wh, idle_w, rated_w)
    if not runs:
        raise UnusableDataError("there is no run to fit")
    loads = _distinct_loads(runs)
    if loads < 2:
        return _nothing(runs)
    names, why = _wanted(loads, idle_w)
    matrix, known = equations(runs, names, idle_w)
    values, held = _bounded(matrix, known, names)
    freedom = len(runs) - matrix.shape[1]
    covariance = _covariance(matrix, known, values, freedom)
    spread = [None] * len(names) if covariance is None else np.sqrt(np.diag(covariance)).tolist()
    terms = {name: Term(value=value) for name, value in zip(names, values, strict=True)}
    factor = float(student_t.ppf(_COVERAGE, freedom)) if freedom > 0 else 0.0
    for name, value, u in zip(names, values, spread, strict=True):
        if u is not None and name not in held:
            low = value - factor * u if name == "e0" else max(value - factor * u, 0.0)
            terms[name] = Term(value=value, u=u, low=low, high=value + factor * u)
    residuals = known - matrix @ values
    split = _split(runs, rated_wh, idle_w, rated_w, terms, held, why, -residuals, freedom)
    return replace(split, covariance=_spread_out(covariance, names), rated_w=rated_w)


def idle_sets_the_scale(
    runs: Sequence[RunAtLoad], rated_wh: float, idle_w: float, idle_u_w: float
) -> bool:
    """Whether an idle figure is sharp enough to tell the store from the proportional toll.

    The store answers to it many times over: an idle draw off by its standard uncertainty must not
    move the store by more than 2 % of the rated energy.

    Args:
        idle_u_w: standard uncertainty of the idle draw in W.
    """
    stores = [
        fit_losses(runs, rated_wh, idle_w=max(idle, 0.0)).e0_wh.value
        for idle in (idle_w - idle_u_w, idle_w + idle_u_w)
    ]
    if stores[0] is None or stores[1] is None:
        return False
    return abs(stores[1] - stores[0]) / 2 <= SCALE_SHARE * rated_wh


def _check(rated_wh: float, idle_w: float | None, rated_w: float | None) -> None:
    if not (math.isfinite(rated_wh) and rated_wh > 0):
        raise ValueOutOfRangeError("--rated-wh", rated_wh, "above 0 Wh")
    if idle_w is not None and not (math.isfinite(idle_w) and idle_w >= 0):
        raise ValueOutOfRangeError("--idle-w", idle_w, "0 W or more")
    if rated_w is not None and not (math.isfinite(rated_w) and rated_w > 0):
        raise ValueOutOfRangeError("--rated-w", rated_w, "above 0 W")


def _distinct_loads(runs: Sequence[RunAtLoad]) -> int:
    """How many loads there are that differ by more than a few per cent."""
    found: list[float] = []
    for load in sorted(run.mean_w for run in runs):
        if not found or load > found[-1] * (1 + _SAME_LOAD_SHARE):
            found.append(load)
    return len(found)


def _nothing(runs: Sequence[RunAtLoad]) -> LossSplit:
    """One load tells nothing apart."""
    one = len(runs) == 1
    message = (
        "one run cannot tell store, overhead and conversion apart"
        if one
        else "all runs are at about one load, so they cannot tell the terms apart"
    )
    unknown = Term(value=None)
    return LossSplit(
        e0_wh=unknown,
        p0_w=unknown,
        p1=unknown,
        p2_per_w=unknown,
        fixed=(),
        euro_efficiency=None,
        cec_efficiency=None,
        residuals_wh=(),
        freedom=0,
        notices=(Notice(code=Code.NOT_SEPARABLE, message=f"{message}; add one at another load"),),
    )


def _wanted(loads: int, idle_w: float | None) -> tuple[list[str], list[tuple[str, str]]]:
    """The terms to fit, and why others are not."""
    names, why = ["e0"], []
    if idle_w is None:
        names.append("p0")
        why.append(("p1", "cannot be told from the store without an idle test: held at 0"))
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


def _bounded(
    design: FloatArray, known: FloatArray, names: Sequence[str]
) -> tuple[FloatArray, set[str]]:
    """Least squares with no term below 0; which terms the bound holds."""
    scale = np.linalg.norm(design, axis=0)
    found = lsq_linear(design / scale, known, bounds=(0, np.inf), method="bvls", tol=1e-14)
    values = found.x / scale
    held = {name for name, x in zip(names, found.x, strict=True) if x <= 1e-9 * np.abs(known).max()}
    values = np.where([name in held for name in names], 0.0, values)
    return values, held


def _covariance(
    design: FloatArray, known: FloatArray, values: FloatArray, freedom: int
) -> FloatArray | None:
    """Covariance of the terms from the residuals; of the whole model, also where a bound holds.

    A term at its bound is not known to be 0: the others' uncertainties count its freedom too.
    """
    if freedom <= 0:
        return None
    scale = np.linalg.norm(design, axis=0)
    scaled = design / scale
    residuals = known - design @ values
    variance = float(residuals @ residuals) / freedom
    return np.asarray(variance * np.linalg.pinv(scaled.T @ scaled) / np.outer(scale, scale))


def _spread_out(covariance: FloatArray | None, names: Sequence[str]) -> FloatArray | None:
    """The fitted terms' covariance among all four."""
    if covariance is None:
        return None
    at = [("e0", "p0", "p1", "p2").index(name) for name in names]
    whole = np.zeros((4, 4))
    whole[np.ix_(at, at)] = covariance
    return whole


def _split(
    runs: Sequence[RunAtLoad],
    rated_wh: float,
    idle_w: float | None,
    rated_w: float | None,
    terms: dict[str, Term],
    held: set[str],
    why: list[tuple[str, str]],
    residuals: FloatArray,
    freedom: int,
) -> LossSplit:
    """Terms, efficiencies and what must be said of them."""
    p0 = terms.get("p0", Term(value=idle_w))
    p1 = terms.get("p1", Term(value=0.0))
    p2 = terms.get("p2", Term(value=0.0))
    notices = []
    for name in sorted(held):
        words = f"{name} would come out below 0 and is held at 0"
        notices.append(Notice(code=Code.BOUND_REACHED, message=f"{words}: look for a bad run"))
        why = [*why, (name, "would be below 0: held at 0")]
    e0 = terms["e0"].value or 0.0
    if e0 > rated_wh * (1 + STORE_SLACK):
        message = f"the fitted store of {e0:.0f} Wh is more than the {rated_wh:g} Wh rated"
        notices.append(
            Notice(code=Code.STORE_ABOVE_RATED, message=f"{message}: look for a bad run")
        )
    worst = max(
        range(len(runs)), key=lambda i: abs(float(residuals[i])) / runs[i].energy_wh, default=0
    )
    off = abs(float(residuals[worst])) / runs[worst].energy_wh
    if off > POOR_FIT_SHARE:
        message = f"run {worst + 1} at {runs[worst].mean_w:.0f} W lies {off:.1%} off the fit"
        notices.append(Notice(code=Code.POOR_FIT, message=message))
    weighted = [
        _weighted(weights, rated_w, p0.value or 0.0, p1.value or 0.0, p2.value or 0.0)
        if rated_w is not None
        else None
        for weights in (EURO, CEC)
    ]
    return LossSplit(
        e0_wh=terms["e0"],
        p0_w=p0,
        p1=p1,
        p2_per_w=p2,
        fixed=tuple(why),
        euro_efficiency=weighted[0],
        cec_efficiency=weighted[1],
        residuals_wh=tuple(float(r) for r in residuals),
        freedom=freedom,
        notices=tuple(notices),
    )


def _weighted(
    weights: Sequence[tuple[int, float]], rated_w: float, p0: float, p1: float, p2: float
) -> float:
    """Σ weight × efficiency at that share of the rated power."""
    total = 0.0
    for percent, weight in weights:
        power = rated_w * percent / 100
        total += weight * power / (power + p0 + p1 * power + p2 * power**2)
    return total
