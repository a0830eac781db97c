"""Kinds of prices, and which of several holds."""

from collections.abc import Sequence
from dataclasses import dataclass

PRICE_KINDS = {
    "paid": "paid",
    "list": "list price",
    "coupon": "with a coupon",
    "bundle": "in a bundle",
}
"""By their keys in the yard file."""


@dataclass(frozen=True, kw_only=True)
class Price:
    """What was asked or paid for so many units on a day.

    Attributes:
        kind: a key of :data:`PRICE_KINDS`.
        day: ISO date; "" where it was not noted.
        words: such as what is in the bundle.
    """

    kind: str
    amount: float
    currency: str = ""
    units: int = 1
    day: str = ""
    words: str = ""

    @property
    def each(self) -> float:
        """For one of them."""
        return self.amount / self.units


def latest_price(prices: Sequence[Price], kind: str, units: int = 1) -> Price | None:
    """The latest of a kind for so many units; for one where none was noted for so many."""
    of_kind = [price for price in prices if price.kind == kind]
    found = [price for price in of_kind if price.units == units]
    found = found or [price for price in of_kind if price.units == 1]
    # Of one day the one that was noted last.
    return max(reversed(found), key=lambda price: price.day, default=None)
