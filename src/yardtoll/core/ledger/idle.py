"""What a station uses up by itself: W = ΔSOC × store ÷ hours."""

import math
from dataclasses import dataclass

from yardtoll.core.charge.soc_times import SOC_HALF_STEP
from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.ledger.loss_fit import IDLE_STORE_LIMIT
from yardtoll.core.uncertainty.budget import Budget, Contribution, display_step

BY_RATING = "the rating"
BY_FIT = "the fitted store"


@dataclass(frozen=True, kw_only=True)
class Store:
    """What a full store holds, for shares of it.

    Attributes:
        energy_wh: > 0.
        u_wh: standard uncertainty.
        basis: what it rests on, in words.

    Raises:
        ValueOutOfRangeError: a store not above 0, or an uncertainty below it.
    """

    energy_wh: float
    u_wh: float
    basis: str

    def __post_init__(self) -> None:
        if not (math.isfinite(self.energy_wh) and self.energy_wh > 0):
            raise ValueOutOfRangeError("store_wh", self.energy_wh, "above 0 Wh")
        if not (math.isfinite(self.u_wh) and self.u_wh >= 0):
            raise ValueOutOfRangeError("store_U", 2 * self.u_wh, "0 Wh or more")

    @classmethod
    def rated(cls, rated_wh: float) -> "Store":
        """The rating: what a station holds is within 5 % of it, rectangular.

        Raises:
            ValueOutOfRangeError: a rating not above 0.
        """
        if not (math.isfinite(rated_wh) and rated_wh > 0):
            raise ValueOutOfRangeError("rated_wh", rated_wh, "above 0 Wh")
        return cls(
            energy_wh=rated_wh, u_wh=IDLE_STORE_LIMIT * rated_wh / math.sqrt(3), basis=BY_RATING
        )


@dataclass(frozen=True, kw_only=True)
class IdleResult:
    """Idle draw in W with its budget, %/h, and hours from full to empty.

    ``hours_to_empty`` is None where nothing was used up; ``points`` and ``hours`` are what was
    read.
    """

    idle_w: float
    budget: Budget
    percent_per_hour: float
    hours_to_empty: float | None
    points: float
    hours: float
    store: Store

    @property
    def idle_w_expanded(self) -> float:
        """U of the watts, k = 2."""
        return self.budget.expanded

    def of_store(self, store: Store) -> "IdleResult":
        """The same readings as shares of another store."""
        return _result(self.points, self.hours, store)


def idle_draw(store: Store, soc_from: float, soc_to: float, duration_s: float) -> IdleResult:
    """From two display readings.

    Raises:
        ValueOutOfRangeError: a duration not above 0, or a state of charge outside 0–100.
        UnusableDataError: the state of charge rose.
    """
    if not (math.isfinite(duration_s) and duration_s > 0):
        raise ValueOutOfRangeError("duration", duration_s, "longer than 0 s")
    for name, value in (("soc_from", soc_from), ("soc_to", soc_to)):
        if not 0 <= value <= 100:
            raise ValueOutOfRangeError(name, value, "between 0 and 100 %")
    if soc_to > soc_from:
        raise UnusableDataError(
            f"the state of charge rose from {soc_from:g} to {soc_to:g} %: an input was plugged in"
        )
    return _result(soc_from - soc_to, duration_s / SECONDS_PER_HOUR, store)


def _result(points: float, hours: float, store: Store) -> IdleResult:
    watts_per_point = store.energy_wh / 100 / hours
    # Two independent readings, each ± half a point, rectangular (JCGM 100:2008, 4.3.7).
    limit = math.sqrt(2) * SOC_HALF_STEP * watts_per_point
    lines = [
        display_step("Display steps", limit, "±½ point at either end"),
        Contribution(
            name="Store",
            why=f"±{2 * store.u_wh / store.energy_wh:.1%} of {store.energy_wh:.0f} Wh, by "
            f"{store.basis}",
            u=points * watts_per_point * store.u_wh / store.energy_wh,
        ),
    ]
    return IdleResult(
        idle_w=points * watts_per_point,
        budget=Budget.of("W", lines),
        percent_per_hour=points / hours,
        hours_to_empty=100 * hours / points if points > 0 else None,
        points=points,
        hours=hours,
        store=store,
    )
