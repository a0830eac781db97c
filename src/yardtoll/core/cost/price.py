"""A price per unit of what is bought with it."""

from yardtoll.core.errors import ValueOutOfRangeError


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
