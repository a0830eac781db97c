"""A station and its configurations: what packs add, what they do not, and what they cost."""

from collections.abc import Iterator, Sequence

from yardtoll.core.compare.ranks import Contender, difference_expanded
from yardtoll.core.cost.prices import latest_price
from yardtoll.core.formatting import format_with_uncertainty
from yardtoll.review.lineup.entrants import Asked, Entrant, Standing
from yardtoll.review.lineup.finders import delivered_wh, held_w, prices_of
from yardtoll.review.lineup.quantities import QUANTITIES
from yardtoll.store.records import Station


def family_of(entrant: Entrant, entrants: Sequence[Entrant]) -> list[Entrant]:
    """The station alone first, then its configurations; it alone where it has none."""
    key = _base_of(entrant)
    found = [e for e in entrants if e.bench == entrant.bench and _base_of(e) == key]
    return sorted(found, key=lambda e: e.station is not None and e.station.base_id is not None)


def family_words(family: Sequence[Entrant], asked: Asked) -> list[str]:
    """What each configuration adds to the station alone, a sentence each."""
    base, *others = family
    said: list[str] = []
    for other in others:
        if other.station is not None:
            said += _added(base, other, other.station, asked)
    return said


def _base_of(entrant: Entrant) -> int | None:
    station = entrant.station
    return None if station is None else station.base_id or station.id


def _added(base: Entrant, other: Entrant, station: Station, asked: Asked) -> Iterator[str]:
    rated = other.rated_wh - base.rated_wh
    claimed = f"{other.name} adds {rated:g} Wh by the rating"
    alone, together = delivered_wh(base, asked), delivered_wh(other, asked)
    if isinstance(alone, str) or isinstance(together, str):
        why = together if isinstance(together, str) else f"{base.name}: {alone}"
        yield f"{claimed}; tested: not yet, {why}."
        gain_wh = None
    else:
        gain_wh = together.value - alone.value
        u = difference_expanded(_contender(other, together), _contender(base, alone))
        shown = format_with_uncertainty(gain_wh, u or 0.0)
        yield f"{claimed}; tested {shown} Wh at {asked.words}, {100 * gain_wh / rated:.0f} % of it."
    yield from _unchanged(base, other, station, asked)
    yield from _worth(base, other, gain_wh, asked)


def _contender(entrant: Entrant, standing: Standing) -> Contender:
    return Contender(
        name=entrant.name, value=standing.value, budget=standing.budget, bench=entrant.bench
    )


def _unchanged(base: Entrant, other: Entrant, station: Station, asked: Asked) -> Iterator[str]:
    """Inverter and solar input are those of one station, unless tests say otherwise."""
    if station.units == 1 and other.rated_w == base.rated_w:
        yield f"Its inverter stays one of {base.rated_w:g} W by the rating."
    for key, find in (("held_w", held_w), ("solar_w", QUANTITIES["solar_w"].find)):
        alone, together = find(base, asked), find(other, asked)
        if not isinstance(alone, str) and not isinstance(together, str):
            title = QUANTITIES[key].title
            yield f"{title}: {together.value:.0f} W against {alone.value:.0f} W alone."


def _worth(base: Entrant, other: Entrant, gain_wh: float | None, asked: Asked) -> Iterator[str]:
    alone = latest_price(prices_of(base), asked.price, asked.units)
    together = latest_price(prices_of(other), asked.price, asked.units)
    if alone is None or together is None or alone.currency != together.currency:
        return
    more = together.each - alone.each
    rated = other.rated_wh - base.rated_wh
    per_rated, own = more / rated, alone.each / base.rated_wh
    said = f"It costs {more:g} {together.currency} more: {per_rated:.2f} per rated Wh added"
    if gain_wh is not None and gain_wh > 0:
        said += f", {more / gain_wh:.2f} per Wh that it adds by test"
    side = "cheaper" if per_rated < own else "dearer"
    yield f"{said}; {side} than the {own:.2f} of the station alone."
