"""What comes of an outage: how long it lasts, what closes the gap, and what each part took."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from yardtoll.core.endurance.outage import Outage, OutageResult, through_outage
from yardtoll.core.endurance.spread import Spread, Unsure, spread_of
from yardtoll.review.endurance.build import Inputs, outage_of

_DRAWS_A_TRY = 200
MOST_MORE = 12
"""Panels or packs that are tried; more than these are no answer."""


class Cause(StrEnum):
    """What makes an answer unsure."""

    STORE = "store"
    LOADS = "loads"
    WEATHER = "weather"


@dataclass(frozen=True, kw_only=True)
class Remedies:
    """What would make it last in about 98 of 100 cases; None where :data:`MOST_MORE` do not.

    Attributes:
        without: the appliance without which it lasts, the smallest that is enough; "" for none.
    """

    packs: int | None = None
    panels: int | None = None
    without: str = ""


@dataclass(frozen=True, kw_only=True, eq=False)
class Answer:
    """What comes of an outage.

    Attributes:
        spread: with all causes.
        spread_by: how far apart the outcomes are with each cause alone: h between the earliest and
            the latest end, or Wh left at the end where it lasts.
        peak_w: the most that the appliances draw at once, without their starts, and at which hour
            from the beginning.
    """

    inputs: Inputs
    asked: Outage
    result: OutageResult
    spread: Spread
    spread_by: dict[Cause, float]
    remedies: Remedies
    peak_w: float
    peak_h: float

    @property
    def low_h(self) -> float | None:
        """The earliest that it is empty, in about 95 of 100 cases."""
        return self.spread.low_h

    @property
    def is_unsure(self) -> bool:
        """Whether it may last or not."""
        return 0.025 < self.spread.lasts_share < 0.975


def answer_of(inputs: Inputs, *, with_remedies: bool = True) -> Answer:
    """Go through the outage, with everything that is asked of it.

    Raises:
        UnusableDataError: there are more changes than any outage has.
    """
    asked, unsure = outage_of(inputs)
    result = through_outage(asked)
    peak_w, peak_h = _peak(asked)
    spread = spread_of(asked, unsure)
    return Answer(
        inputs=inputs,
        asked=asked,
        result=result,
        spread=spread,
        spread_by=_spread_by(asked, unsure, lasts=result.lasts),
        remedies=_remedies(inputs) if with_remedies and spread.low_h is not None else Remedies(),
        peak_w=peak_w,
        peak_h=peak_h,
    )


def _remedies(inputs: Inputs) -> Remedies:
    def lasts(**more: int | str) -> bool:
        asked, unsure = outage_of(inputs, **more)  # type: ignore[arg-type]
        return spread_of(asked, unsure, draws=_DRAWS_A_TRY).low_h is None

    panels = _fewest(lambda n: lasts(more_panels=n)) if inputs.sky is not None else None
    needs = sorted(inputs.outage.uses, key=lambda use: use.watts * use.duty)
    enough = (use.name for use in needs if len(needs) > 1 and lasts(without=use.name))
    return Remedies(
        packs=_fewest(lambda n: lasts(more_packs=n)), panels=panels, without=next(enough, "")
    )


def _fewest(is_enough: Callable[[int], bool]) -> int | None:
    """The least number that is enough: more never does harm."""
    if not is_enough(MOST_MORE):
        return None
    low, high = 0, MOST_MORE
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if is_enough(middle) else (middle, high)
    return high


def _spread_by(asked: Outage, unsure: Unsure, *, lasts: bool) -> dict[Cause, float]:
    """With each cause alone, the others as they are."""
    sure = Unsure()
    alone = {
        Cause.STORE: replace(sure, covariance=unsure.covariance),
        Cause.LOADS: replace(sure, loads=unsure.loads),
        Cause.WEATHER: replace(sure, sun=unsure.sun),
    }
    return {cause: _width(asked, only, lasts=lasts) for cause, only in alone.items()}


def _width(asked: Outage, unsure: Unsure, *, lasts: bool) -> float:
    """Between the ends of about 95 of 100 outcomes: Wh left where it lasts, else h."""
    spread = spread_of(asked, unsure, draws=_DRAWS_A_TRY)
    if lasts:
        return spread.band[-1].high_wh - spread.band[-1].low_wh
    low = spread.low_h if spread.low_h is not None else asked.hours
    high = spread.high_h if spread.high_h is not None else asked.hours
    return high - low


def _peak(asked: Outage) -> tuple[float, float]:
    """(W, h) of the most that appliances draw at once, all of those that come and go on."""
    hours = np.arange(0.0, min(asked.hours, 24.0), 1 / 12)
    watts = [sum(load.watts for load in asked.loads_on(h)) for h in hours.tolist()]
    place = int(np.argmax(watts)) if watts else 0
    return (float(watts[place]), float(hours[place])) if watts else (0.0, 0.0)
