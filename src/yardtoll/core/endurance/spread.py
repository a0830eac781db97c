"""How far an outage's answer may be off: many outages with figures drawn from their uncertainties.

Propagation of distributions (JCGM 101:2008, clause 7): when it is empty answers to its inputs in
leaps, as where the sun comes up just before the store is empty, so that no slope could tell it.
Store and losses are drawn together, as the fit that gave them has them go together. Every input is
drawn from equal shares of its distribution, so that few draws go far (Latin hypercube, from
memory), and the draws are the same each time.
"""

import math
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.endurance.outage import Outage, changes_of
from yardtoll.core.errors import ValueOutOfRangeError

DRAWS = 600
_SEED = 20_261
_LOW, _HIGH = 0.02275, 0.97725
"""About 95 %, as k = 2 covers of a normal distribution."""
_TERMS = 4
_LEAST = 1e-9


@dataclass(frozen=True, kw_only=True, eq=False)
class Unsure:
    """How sure the inputs of an outage are.

    Attributes:
        covariance: (4, 4) of store (Wh), overhead (W), conversion, ohmic (1/W).
        loads: (lowest, highest) share of each load's W, in the order of the loads; anything
            between is as likely.
        sun: (lowest, highest) share of what the panels give that comes through the weather.
    """

    covariance: FloatArray = field(default_factory=lambda: np.zeros((_TERMS, _TERMS)))
    loads: tuple[tuple[float, float], ...] = ()
    sun: tuple[float, float] | None = None

    def __post_init__(self) -> None:
        if self.covariance.shape != (_TERMS, _TERMS):
            raise ValueOutOfRangeError("{covariance}", self.covariance.size, "4 by 4")
        for low, high in (*self.loads, *([self.sun] if self.sun is not None else [])):
            if not 0 <= low <= high < math.inf:
                raise ValueOutOfRangeError("{share}", low, "from 0 to the highest share")

    @property
    def without_weather(self) -> "Unsure":
        """The same, with the sun as sure as the sky."""
        return replace(self, sun=None)


@dataclass(frozen=True, kw_only=True)
class BandPoint:
    """Between what the store is at an hour, in about 95 of 100 cases."""

    hour: float
    low_wh: float
    high_wh: float


@dataclass(frozen=True, kw_only=True)
class Spread:
    """What comes of all draws.

    Attributes:
        low_h, high_h: when it is empty, in about 95 of 100 cases; None for after the hours looked
            at.
        lasts_share: of the draws that were never empty.
        band: the store at every change.
    """

    low_h: float | None
    high_h: float | None
    lasts_share: float
    band: tuple[BandPoint, ...]


def spread_of(asked: Outage, unsure: Unsure, draws: int = DRAWS) -> Spread:
    """Go through the outage with every draw at once.

    Raises:
        UnusableDataError: there are more changes than any outage has.
    """
    drawn = _drawn(asked, unsure, draws)
    empty_h, left = _go(asked, drawn)
    low, high = (_share_of(empty_h, share) for share in (_LOW, _HIGH))
    lows, highs = np.quantile(left, [_LOW, _HIGH], axis=1)
    hours = changes_of(asked)
    return Spread(
        low_h=low if math.isfinite(low) else None,
        high_h=high if math.isfinite(high) else None,
        lasts_share=float(np.isinf(empty_h).mean()),
        band=tuple(
            BandPoint(hour=hour, low_wh=float(a), high_wh=float(b))
            for hour, a, b in zip(hours, lows, highs, strict=True)
        ),
    )


@dataclass(frozen=True, eq=False)
class _Drawn:
    """(draws,) of each input; loads (loads, draws)."""

    store_wh: FloatArray
    overhead_w: FloatArray
    conversion: FloatArray
    ohmic_per_w: FloatArray
    loads: FloatArray
    sun: FloatArray


def _drawn(asked: Outage, unsure: Unsure, draws: int) -> _Drawn:
    from scipy.special import ndtri

    random = np.random.default_rng(_SEED)

    def equal_shares(columns: int) -> FloatArray:
        """(columns, draws) between 0 and 1, one draw in every share of it."""
        places = [random.permutation(draws) for _ in range(columns)]
        return (np.array(places, dtype=np.float64).reshape(columns, draws) + 0.5) / draws

    # By eigenvectors: a fit may tie terms together so closely that no Cholesky factor is found.
    values, vectors = np.linalg.eigh(unsure.covariance)
    root = vectors * np.sqrt(np.maximum(values, 0.0))
    centre = np.array([asked.store_wh, asked.overhead_w, asked.conversion, asked.ohmic_per_w])
    terms = _possible(centre[:, None] + root @ ndtri(equal_shares(_TERMS)), unsure.covariance)
    loads = np.ones((len(asked.loads), draws))
    for i, (low, high) in enumerate(unsure.loads):
        loads[i] = low + (high - low) * equal_shares(1)[0]
    own = asked.sun.share if asked.sun is not None else 1.0
    low, high = unsure.sun if unsure.sun is not None else (own, own)
    return _Drawn(
        store_wh=np.maximum(terms[0], _LEAST),
        overhead_w=terms[1],
        conversion=terms[2],
        ohmic_per_w=terms[3],
        loads=loads,
        sun=low + (high - low) * equal_shares(1)[0],
    )


def _possible(terms: FloatArray, covariance: FloatArray) -> FloatArray:
    """(4, draws) without losses below 0: such a draw is moved along the fit to a loss of 0.

    A smaller overhead goes with a smaller store. To cut the one and leave the other would tell of
    a station that none of the runs could be of.
    """
    for _ in range(2):
        for k in range(1, _TERMS):
            if covariance[k, k] > 0:
                below = np.minimum(terms[k], 0.0)
                terms = terms - np.outer(covariance[:, k] / covariance[k, k], below)
    terms[1:] = np.maximum(terms[1:], 0.0)
    return terms


def _go(asked: Outage, drawn: _Drawn) -> tuple[FloatArray, FloatArray]:
    """((draws,) h at which each is first empty, inf for never; (changes, draws) Wh left)."""
    begin_wh = drawn.store_wh - asked.heat_wh * (1 + drawn.conversion)
    empty_h = np.where(begin_wh < -_LEAST, 0.0, np.inf)
    left = np.maximum(begin_wh, 0.0)
    is_off, was_fed, course = np.isfinite(empty_h), False, [left]
    for begin, end in pairwise(changes_of(asked)):
        middle, hours = (begin + end) / 2, end - begin
        feed_w = sum(feed.into_store_w for feed in asked.feeds_on(middle))
        if feed_w > 0 and not was_fed:
            is_off = np.zeros_like(is_off)
        was_fed = feed_w > 0
        in_w = _sun_w(asked, drawn, middle) + feed_w
        drain_w = np.where(is_off, 0.0, _drain_w(asked, drawn, middle))
        net_wh = (drain_w - in_w) * hours
        is_empty = left - net_wh < -_LEAST
        until_h = np.where(is_empty, hours * left / np.where(is_empty, net_wh, 1.0), hours)
        empty_h = np.where(is_empty & np.isinf(empty_h), begin + until_h, empty_h)
        # What comes in after it is empty is kept; nothing more is served.
        left = np.where(is_empty, in_w * (hours - until_h), left - net_wh)
        left = np.clip(left, 0.0, drawn.store_wh)
        is_off = is_off | is_empty
        course.append(left)
    return empty_h, np.array(course)


def _sun_w(asked: Outage, drawn: _Drawn, middle: float) -> FloatArray:
    """(draws,) W that come into the store from the panels."""
    if asked.sun is None:
        return np.zeros_like(drawn.sun)
    given = replace(asked.sun, share=1.0).given(middle) * drawn.sun
    taken = given if asked.sun.cap_w is None else np.minimum(given, asked.sun.cap_w)
    return asked.sun.efficiency * taken


def _drain_w(asked: Outage, drawn: _Drawn, middle: float) -> FloatArray:
    """(draws,) W out of the battery while the outlet is on."""
    on = asked.loads_on(middle)
    output_w = np.zeros_like(drawn.sun)
    varying_w2 = np.zeros_like(drawn.sun)
    for i, load in enumerate(asked.loads):
        if load in on:
            watts = load.watts * drawn.loads[i]
            output_w = output_w + watts * load.duty
            varying_w2 = varying_w2 + watts**2 * load.duty * (1 - load.duty)
    square_w2 = output_w**2 + varying_w2
    return drawn.overhead_w + output_w * (1 + drawn.conversion) + drawn.ohmic_per_w * square_w2


def _share_of(empty_h: FloatArray, share: float) -> float:
    """The hour by which a share of the draws is empty; inf where it lasts."""
    place = min(math.ceil(share * empty_h.size) - 1, empty_h.size - 1)
    return float(np.sort(empty_h)[max(place, 0)])
