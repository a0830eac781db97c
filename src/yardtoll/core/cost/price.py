"""What is paid per unit of what is bought: per Wh, per W, per charge, over a lifetime."""

from dataclasses import dataclass

from yardtoll.core.errors import ValueOutOfRangeError

_WH_PER_KWH = 1000.0


@dataclass(frozen=True, kw_only=True)
class Bought:
    """What a price is held against; None for what is not known.

    Attributes:
        cycles: of the claimed life.
        tariff: money for a kWh from the wall.
        round_trip: delivered ÷ drawn, which a charge has to make up for.
    """

    rated_wh: float
    usable_wh: float | None = None
    inverter_w: float | None = None
    solar_w: float | None = None
    cycles: float | None = None
    tariff: float | None = None
    round_trip: float = 1.0

    def __post_init__(self) -> None:
        for name, value in vars(self).items():
            if value is not None and not 0 < value < float("inf"):
                raise ValueOutOfRangeError(f"{{{name}}}", value, "above 0")
        if self.round_trip > 1:
            raise ValueOutOfRangeError("{round_trip}", self.round_trip, "above 0 and at most 1")

    def times(self, units: float) -> "Bought":
        """So many of them together."""
        return Bought(
            rated_wh=units * self.rated_wh,
            usable_wh=_times(self.usable_wh, units),
            inverter_w=_times(self.inverter_w, units),
            solar_w=_times(self.solar_w, units),
            cycles=self.cycles,
            tariff=self.tariff,
            round_trip=self.round_trip,
        )


@dataclass(frozen=True, kw_only=True)
class PriceResult:
    """Money per unit; None where what it is held against is not known.

    Attributes:
        three_way: mean of per rated Wh, per inverter W and per solar W.
        per_lifetime_kwh: price ÷ (cycles × usable kWh, rated where usable is not known).
        per_charge: rated kWh × tariff ÷ round trip.
    """

    per_rated_wh: float
    per_usable_wh: float | None
    per_inverter_w: float | None
    per_solar_w: float | None
    three_way: float | None
    per_lifetime_kwh: float | None
    per_charge: float | None


def price_of(price: float, bought: Bought) -> PriceResult:
    """A price per unit of everything that is known. Common practice, no source.

    Raises:
        ValueOutOfRangeError: the price is not above 0.
    """
    if not 0 < price < float("inf"):
        raise ValueOutOfRangeError("{price}", price, "above 0")
    three_way = None
    if bought.inverter_w is not None and bought.solar_w is not None:
        three_way = three_way_index(price, bought.rated_wh, bought.inverter_w, bought.solar_w)
    lifetime_wh = _times(bought.cycles, bought.usable_wh or bought.rated_wh)
    return PriceResult(
        per_rated_wh=price / bought.rated_wh,
        per_usable_wh=_per(price, bought.usable_wh),
        per_inverter_w=_per(price, bought.inverter_w),
        per_solar_w=_per(price, bought.solar_w),
        three_way=three_way,
        per_lifetime_kwh=_per(_WH_PER_KWH * price, lifetime_wh),
        per_charge=_times(bought.tariff, bought.rated_wh / _WH_PER_KWH / bought.round_trip),
    )


def three_way_index(price: float, rated_wh: float, inverter_w: float, solar_w: float) -> float:
    """Mean of the price per rated Wh, per W of the inverter and per W of the solar input.

    Common practice, no source.

    Raises:
        ValueOutOfRangeError: a figure is not above 0.
    """
    parts = (("rated_wh", rated_wh), ("inverter_w", inverter_w), ("solar_w", solar_w))
    for name, value in (("price", price), *parts):
        if not value > 0:
            raise ValueOutOfRangeError(name, value, "above 0")
    return sum(price / value for _, value in parts) / len(parts)


def _per(price: float, what: float | None) -> float | None:
    return None if what is None else price / what


def _times(value: float | None, factor: float) -> float | None:
    return None if value is None else value * factor
