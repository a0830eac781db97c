"""The loss split: store, overhead, proportional and ohmic tolls from runs at several loads.

Battery power = P + p0 + p1·P + p2·P², so over a run E0 = E·(1 + p1) + p0·t + p2·∫P²dt. The scale
is free: p1 can be separated from E0 only when an idle test gives p0; without one p1 is held at
0 and E0, p0, p2 are as seen at the outlet (each ÷ (1 + p1)).

What a run delivers differs from time to time, so every term carries that repeatability, and an
exact fit is not a sure one. It is a named prior, known to about three tenths; how the runs scatter
about the fit is put together with it (a scaled inverse χ² prior), and the standard uncertainty is
that of the t-distribution which comes of it (JCGM 101:2008, 6.4.9.4).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from yardtoll.core.electrical.trace import Code, FloatArray, Notice
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.ledger.loss_fit import (
    REPEATABILITY,
    TERMS,
    WIDEST_P1_U,
    Covariances,
    IdleDraw,
    LossFit,
    RunAtLoad,
    bounded,
    own_sigmas,
    wanted_terms,
    why_idle_not_used,
)
from yardtoll.core.uncertainty.accuracy import MeterAccuracy
from yardtoll.core.uncertainty.propagation import propagate

STORE_SLACK = 0.02
"""A store above the rated energy by more than this is pointed at."""
POOR_FIT_SHARE = 0.02
"""A run that is off the fit by more than this share of its energy is pointed at."""
TEMPERATURES_APART_K = 8.0
"""Runs this far apart in temperature may have had different stores (common practice, no source)."""
_SCATTER_RATIO = 4.0
_SAME_LOAD_SHARE = 0.03
"""Runs whose mean W are this close do not separate the terms."""
# Load shares and weights of the European and Californian efficiencies (IEC 61683, EN 50530, CEC;
# from memory).
EURO = ((5, 0.03), (10, 0.06), (20, 0.13), (30, 0.10), (50, 0.48), (100, 0.20))
CEC = ((10, 0.04), (20, 0.05), (30, 0.12), (50, 0.21), (75, 0.53), (100, 0.05))


@dataclass(frozen=True, kw_only=True)
class Term:
    """One fitted figure.

    Attributes:
        u: standard uncertainty; None for a term that was not fitted.
        low, high: the 95 % interval; None likewise.
    """

    value: float | None
    u: float | None = None
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True, kw_only=True, eq=False)
class LossSplit:
    """What the runs say together; None where they do not show it.

    Attributes:
        fixed: (term, why) for each that was not fitted, or is held at its bound.
        euro_efficiency, cec_efficiency: None without a rated W, and wherever p1 was held.
        euro_at_most, cec_at_most: bounds where p1 was held, for what it would take off is unknown.
        residuals_wh: E0 less what a run accounts for, one a run.
        covariances: of the terms.
        weights: (runs,) by which the fit weighed them.
        rated_w: what the weighted efficiencies are shares of.
        degrees_of_freedom: runs less terms; 0 for an exact fit.
        spread_degrees_of_freedom: of the terms' uncertainty, the prior's with it.
        idle_w: the idle draw that set the scale; None where none did.
    """

    e0_wh: Term
    p0_w: Term
    p1: Term
    p2_per_w: Term
    fixed: tuple[tuple[str, str], ...]
    euro_efficiency: float | None
    cec_efficiency: float | None
    euro_at_most: float | None = None
    cec_at_most: float | None = None
    residuals_wh: tuple[float, ...]
    degrees_of_freedom: int
    notices: tuple[Notice, ...]
    covariances: Covariances | None = None
    weights: tuple[float, ...] = ()
    rated_w: float | None = None
    spread_degrees_of_freedom: float = math.inf
    idle_w: float | None = None

    def has(self, code: Code) -> bool:
        """Whether a notice of this kind was made."""
        return any(notice.code is code for notice in self.notices)

    @property
    def conversion_held(self) -> bool:
        """Whether the proportional toll was held: efficiencies are bounds then."""
        return any(term == "p1" for term, _ in self.fixed)

    @property
    def ohmic_held(self) -> bool:
        """Whether too few loads held the ohmic toll at 0."""
        return any(term == "p2" for term, _ in self.fixed)

    def delivered_wh(self, power_w: float) -> float | None:
        """What a run at a steady load would deliver; None where nothing was fitted."""
        if self.e0_wh.value is None or power_w <= 0:
            return None
        return self.e0_wh.value * power_w / self.battery_w(power_w)

    def delivered_u(self, power_w: float) -> float | None:
        """Standard uncertainty of :meth:`delivered_wh`, in Wh."""
        if self.covariances is None or self.e0_wh.value is None:
            return None
        return _u_of(self.delivered_gradient(power_w), self.covariances.total)

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

    def battery_w(self, power_w: float) -> float:
        """Battery W for W at the outlet (as seen at the outlet when p1 is held at 0)."""
        p0, p1, p2 = (t.value or 0.0 for t in (self.p0_w, self.p1, self.p2_per_w))
        return power_w + p0 + p1 * power_w + p2 * power_w**2


def fit_losses(
    runs: Sequence[RunAtLoad],
    rated_wh: float,
    *,
    idle: IdleDraw | None = None,
    rated_w: float | None = None,
    accuracy: MeterAccuracy | None = None,
    repeatability: float = REPEATABILITY,
    widest_p1_u: float = WIDEST_P1_U,
) -> LossSplit:
    """Fit the terms that the runs can separate; no term is below 0.

    Args:
        accuracy: of the one meter that measured all runs; None leaves it out of the uncertainty.
        repeatability: relative standard deviation from run to run.
        widest_p1_u: an idle test that leaves p1 less certain than this does not set the scale.

    Raises:
        ValueOutOfRangeError: a rating not above 0, an idle draw or a repeatability below it.
        UnusableDataError: there is no run.
    """
    _check(rated_wh, idle, rated_w, repeatability)
    if not runs:
        raise UnusableDataError("there is no run to fit")
    loads = _distinct_loads(runs)
    if loads < 2:
        return _nothing(runs)
    sigma = own_sigmas(runs, accuracy, repeatability)
    refused = why_idle_not_used(runs, loads, idle, sigma, accuracy, widest_p1_u) if idle else ""
    used = None if refused else idle
    names, why = wanted_terms(loads, used)
    fit = LossFit(runs, names, used, sigma, accuracy)
    values, held = bounded(fit.design, fit.known, names, fit.weights)
    why += [(name, "would be below 0: held at 0") for name in held]
    covariances = fit.covariances(values)
    found = dict(zip(names, values, strict=True))
    total = np.sqrt(np.diag(covariances.total))
    terms = {}
    for name in TERMS:
        value = found.get(name, used.watts if used and name == "p0" else 0.0)
        fitted = name in found or (name == "p0" and used is not None)
        terms[name] = _term(name, value, float(total[TERMS.index(name)]) if fitted else None, fit)
    notices = _bound_notices(held)
    if refused:
        notices.append(Notice(code=Code.IDLE_NOT_USED, message=refused))
    residuals = fit.design @ values - fit.known
    notices += _fit_notices(runs, rated_wh, terms["e0"].value or 0.0, residuals, fit, values)
    split = LossSplit(
        e0_wh=terms["e0"],
        p0_w=terms["p0"],
        p1=terms["p1"],
        p2_per_w=terms["p2"],
        fixed=tuple(why),
        euro_efficiency=None,
        cec_efficiency=None,
        residuals_wh=tuple(float(r) for r in residuals),
        degrees_of_freedom=len(runs) - len(names),
        notices=tuple(notices),
        covariances=covariances,
        weights=tuple(float(w) for w in fit.weights),
        rated_w=rated_w,
        spread_degrees_of_freedom=fit.spread_degrees_of_freedom,
        idle_w=used.watts if used else None,
    )
    return _with_efficiencies(split)


def _check(
    rated_wh: float, idle: IdleDraw | None, rated_w: float | None, repeatability: float
) -> None:
    if not (math.isfinite(rated_wh) and rated_wh > 0):
        raise ValueOutOfRangeError("rated_wh", rated_wh, "above 0 Wh")
    if idle is not None and not (math.isfinite(idle.watts) and idle.watts >= 0):
        raise ValueOutOfRangeError("idle_w", idle.watts, "0 W or more")
    if idle is not None and not (math.isfinite(idle.u_w) and idle.u_w >= 0):
        raise ValueOutOfRangeError("idle_U", 2 * idle.u_w, "0 W or more")
    if rated_w is not None and not (math.isfinite(rated_w) and rated_w > 0):
        raise ValueOutOfRangeError("rated_w", rated_w, "above 0 W")
    if not 0 <= repeatability < 1:
        raise ValueOutOfRangeError("repeatability", repeatability, "0 to 100 %")


def _distinct_loads(runs: Sequence[RunAtLoad]) -> int:
    """How many loads there are that differ by more than a few per cent."""
    found: list[float] = []
    for load in sorted(run.mean_w for run in runs):
        if not found or load > found[-1] * (1 + _SAME_LOAD_SHARE):
            found.append(load)
    return len(found)


def _nothing(runs: Sequence[RunAtLoad]) -> LossSplit:
    """One load separates nothing."""
    one = len(runs) == 1
    message = (
        "one run cannot separate store, overhead and conversion"
        if one
        else "all runs are at about the same load, so they cannot separate the terms"
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
        degrees_of_freedom=0,
        notices=(Notice(code=Code.NOT_SEPARABLE, message=f"{message}; add one at another load"),),
    )


def _term(name: str, value: float, u: float | None, fit: LossFit) -> Term:
    """A term with its 95 % interval; none reaches below 0."""
    if u is None or not (u > 0 or fit.spread_degrees_of_freedom > 0):
        return Term(value=value)
    # u is the t-distribution's standard deviation already; half of 95.45 % of it is near 2.
    reach = 1.96 * u
    low = value - reach if name == "e0" else max(value - reach, 0.0)
    return Term(value=value, u=u, low=low, high=value + reach)


def _bound_notices(held: Sequence[str]) -> list[Notice]:
    return [
        Notice(
            code=Code.BOUND_REACHED,
            message=f"{name} would come out below 0 and is held at 0: look for a bad run",
        )
        for name in sorted(held)
    ]


def _fit_notices(
    runs: Sequence[RunAtLoad],
    rated_wh: float,
    e0_wh: float,
    residuals: FloatArray,
    fit: LossFit,
    values: FloatArray,
) -> list[Notice]:
    """Where the fit points at a bad run, or at a store that is not one store."""
    notices = []
    if e0_wh > rated_wh * (1 + STORE_SLACK):
        message = f"the fitted store of {e0_wh:.0f} Wh is more than the {rated_wh:g} Wh rated"
        notices.append(
            Notice(code=Code.STORE_ABOVE_RATED, message=f"{message}: look for a bad run")
        )
    worst = max(range(len(runs)), key=lambda i: abs(float(residuals[i])) / runs[i].energy_wh)
    off = abs(float(residuals[worst])) / runs[worst].energy_wh
    if off > POOR_FIT_SHARE:
        message = f"run {worst + 1} at {runs[worst].mean_w:.0f} W is {off:.1%} off the fit"
        notices.append(Notice(code=Code.POOR_FIT, message=message))
    warm = [run.temperature_c for run in runs if run.temperature_c is not None]
    apart_k = max(warm) - min(warm) if len(warm) > 1 else 0.0
    scattered = (
        fit.degrees_of_freedom > 0 and fit.scatter(values) > _SCATTER_RATIO * fit.degrees_of_freedom
    )
    if apart_k > TEMPERATURES_APART_K or (scattered and off <= POOR_FIT_SHARE):
        what = (
            f"the runs were {apart_k:.0f} K apart in temperature"
            if apart_k > TEMPERATURES_APART_K
            else "the runs scatter about the fit by more than their repeatability"
        )
        message = (
            f"{what}: a store that depends on rate or temperature shows as ohmic toll (p2) here"
        )
        notices.append(Notice(code=Code.STORE_MAY_VARY, message=message))
    return notices


def _with_efficiencies(split: LossSplit) -> LossSplit:
    """The weighted efficiencies, or what they are at most where p1 was held."""
    known = split.rated_w is not None
    euro, cec = (_weighted(weights, split) if known else None for weights in (EURO, CEC))
    if not split.conversion_held:
        return replace(split, euro_efficiency=euro, cec_efficiency=cec)
    message = "the proportional toll was held at 0, so the conversion efficiency is not known"
    if euro is not None and cec is not None:
        message += f": at most {euro:.1%} by the Euro weights, {cec:.1%} by the CEC's"
    notice = Notice(code=Code.CONVERSION_UNKNOWN, message=message)
    return replace(split, euro_at_most=euro, cec_at_most=cec, notices=(*split.notices, notice))


def _weighted(weights: Sequence[tuple[int, float]], split: LossSplit) -> float:
    """Σ weight × efficiency at that share of the rated power."""
    powers = [(split.rated_w or 0.0) * percent / 100 for percent, _ in weights]
    return math.fsum(
        float(weight * power / split.battery_w(power))
        for power, (_, weight) in zip(powers, weights, strict=True)
    )


def _u_of(gradient: FloatArray, covariance: FloatArray) -> float:
    return math.sqrt(max(float(propagate(gradient, covariance)[0, 0]), 0.0))
