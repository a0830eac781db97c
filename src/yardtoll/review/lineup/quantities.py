"""What stations are compared in."""

from dataclasses import dataclass

from yardtoll.core.methods import method_testing
from yardtoll.review.lineup.finders import (
    Find,
    by_finding,
    delivered_wh,
    held_w,
    idle_w,
    kg_per_kwh,
    per_rated_wh,
    per_usable_wh,
    round_trip,
    score,
    thd,
    three_way,
    usable_ratio,
    zero_to_80,
)


@dataclass(frozen=True, kw_only=True)
class Quantity:
    """What stations are compared in.

    Attributes:
        find: how a station comes to a figure, or a reason in a clause.
        unit: as shown; of a price what it is per.
        scale: what a value is multiplied by to be shown.
        at_load: whether it depends on the load that is asked for.
        method: key of the method whose run would show it; "" for what no run shows.
        conditions: what is alike of all that are compared, in words.
    """

    key: str
    title: str
    find: Find
    higher_is_better: bool
    unit: str = ""
    scale: float = 1.0
    at_load: bool = False
    is_price: bool = False
    method: str = ""
    conditions: str = ""


def _testing(claim: str) -> str:
    method = method_testing(claim)
    return method.key if method is not None else ""


_IN_WINDOW = "through the AC outlet, 100 → 0 %"
_ALL = (
    Quantity(
        key="usable_ratio",
        title="Delivered of rated",
        find=usable_ratio,
        higher_is_better=True,
        unit="%",
        scale=100.0,
        at_load=True,
        method=_testing("usable_wh"),
        conditions=_IN_WINDOW,
    ),
    Quantity(
        key="delivered_wh",
        title="Delivered",
        find=delivered_wh,
        higher_is_better=True,
        unit="Wh",
        at_load=True,
        method=_testing("usable_wh"),
        conditions=_IN_WINDOW,
    ),
    Quantity(
        key="round_trip",
        title="Round trip",
        find=round_trip,
        higher_is_better=True,
        unit="%",
        scale=100.0,
        at_load=True,
        method=_testing("recharge_min"),
        conditions="delivered ÷ drawn of a discharge and the charge after it",
    ),
    Quantity(
        key="idle_w",
        title="Idle, AC on",
        find=idle_w,
        higher_is_better=False,
        unit="W",
        method=_testing("idle_w"),
        conditions="nothing plugged in",
    ),
    Quantity(
        key="zero_to_80_min",
        title="0 to 80 %",
        find=zero_to_80,
        higher_is_better=False,
        unit="min",
        method=_testing("recharge_min"),
        conditions="from the wall, by the display",
    ),
    Quantity(
        key="solar_w",
        title="Solar, sustained",
        find=by_finding("solar_w", "no run on solar panels alone shows five minutes of its watts"),
        higher_is_better=True,
        unit="W",
        method=_testing("solar_w"),
        conditions="best mean over five minutes",
    ),
    Quantity(
        key="held_w",
        title="Power held",
        find=held_w,
        higher_is_better=True,
        unit="W",
        method=_testing("continuous_w"),
        conditions="the highest that was held for half an hour",
    ),
    Quantity(
        key="thd",
        title="Distortion",
        find=thd,
        higher_is_better=False,
        unit="%",
        scale=100.0,
        method=_testing("pure_sine"),
        conditions="total harmonic, the highest of the loads tried",
    ),
    Quantity(
        key="transfer_ms",
        title="Transfer",
        find=by_finding("transfer_ms", "no gap was measured"),
        higher_is_better=False,
        unit="ms",
        method=_testing("transfer_ms"),
        conditions="the longest gap seen",
    ),
    Quantity(
        key="noise_db",
        title="Noise at 1 m",
        find=by_finding("noise_db", "no level was measured at 1 m"),
        higher_is_better=False,
        unit="dB(A)",
        method=_testing("noise_db"),
        conditions="the loudest",
    ),
    Quantity(
        key="price_per_rated_wh",
        title="Price per rated Wh",
        find=per_rated_wh,
        higher_is_better=False,
        unit="Wh",
        is_price=True,
    ),
    Quantity(
        key="price_per_usable_wh",
        title="Price per usable Wh",
        find=per_usable_wh,
        higher_is_better=False,
        unit="Wh",
        is_price=True,
        at_load=True,
        method=_testing("usable_wh"),
        conditions=_IN_WINDOW,
    ),
    Quantity(
        key="three_way",
        title="Three-way price",
        find=three_way,
        higher_is_better=False,
        is_price=True,
        conditions="mean of the price per rated Wh, inverter W and solar W",
    ),
    Quantity(
        key="kg_per_kwh",
        title="Weight",
        find=kg_per_kwh,
        higher_is_better=False,
        unit="kg/kWh",
        conditions="as weighed ÷ rated kWh",
    ),
    Quantity(
        key="score",
        title="Score",
        find=score,
        higher_is_better=True,
        unit="points",
        conditions="by the yard's scorecard",
    ),
)
QUANTITIES: dict[str, Quantity] = {quantity.key: quantity for quantity in _ALL}
"""In the order of the test bench."""
