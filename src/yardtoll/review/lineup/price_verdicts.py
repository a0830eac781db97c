"""What a station's verdicts on price are at each of its prices."""

from collections.abc import Iterator, Sequence

from yardtoll.core.conformance.scorecard import Evidence, score
from yardtoll.core.conformance.yardsticks import Basis
from yardtoll.core.cost.prices import PRICE_KINDS, Price, latest_price
from yardtoll.review.lineup.entrants import Entrant
from yardtoll.review.lineup.finders import prices_of
from yardtoll.store.records import StoredScorePoint, StoredYardstick

_PER_WH = "price_per_wh"


def price_changes(
    entrant: Entrant,
    yardsticks: Sequence[StoredYardstick],
    points: Sequence[StoredScorePoint],
    units: int = 1,
) -> list[str]:
    """Verdicts that another price than the one paid would change, a sentence each."""
    prices = prices_of(entrant)
    paid = latest_price(prices, "paid", units)
    if paid is None:
        return []
    others = [
        found
        for kind in PRICE_KINDS
        if kind != "paid" and (found := latest_price(prices, kind, units)) is not None
    ]
    said: list[str] = []
    for other in others:
        if other.currency.strip().upper() == paid.currency.strip().upper():
            said += _changes(entrant, paid, other, yardsticks, points)
    return said


def _changes(
    entrant: Entrant,
    paid: Price,
    other: Price,
    yardsticks: Sequence[StoredYardstick],
    points: Sequence[StoredScorePoint],
) -> Iterator[str]:
    before, after = (price.each / entrant.rated_wh for price in (paid, other))
    money = f"{other.each:g} {other.currency}".rstrip()
    at = f"At {money} {PRICE_KINDS[other.kind]} ({after:.2f} per Wh)"
    for stick in yardsticks:
        if stick.basis != Basis.PRICE_PER_WH.value:
            continue
        was, would = before <= stick.limit_ratio, after <= stick.limit_ratio
        if was is not would:
            verdict = "meets" if would else "falls short of"
            yield f"{at} it {verdict} “{stick.name}”, which it does not as paid."
    for stored in points:
        if stored.quantity != _PER_WH:
            continue
        got = [
            score([stored.point], {_PER_WH: Evidence(value=value, words="")})[0].points or 0.0
            for value in (before, after)
        ]
        if got[0] != got[1]:
            yield f"{at} the point “{stored.title}” is {got[1]:g} and not {got[0]:g}."
