"""Stations side by side in one quantity: like with like, or left out with the reason."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.compare.ranks import Contender, Ranked, ranked
from yardtoll.core.uncertainty.budget import Budget, Worked
from yardtoll.review.lineup.entrants import Asked, Entrant, Standing
from yardtoll.review.lineup.quantities import QUANTITIES


@dataclass(frozen=True, kw_only=True)
class LineupRow:
    """One station in the line-up.

    Attributes:
        unsure: those that cannot be called better or worse, for want of a U.
        low_place, high_place: the best and the worst place that it may have; the same where its
            rank is sure.
        worked: how its value was worked out; None where that is not told.
    """

    station: str
    entrant: Entrant
    value: float
    budget: Budget | None
    expanded: float | None
    load_w: float | None
    c_rate: float | None
    run: int | None
    rank: int | None
    ties: tuple[str, ...]
    unsure: tuple[str, ...] = ()
    note: str = ""
    worked: Worked | None = None
    low_place: int | None = None
    high_place: int | None = None

    @property
    def is_told(self) -> bool:
        """Whether there is something to tell of its ±, or of how it was worked out."""
        return self.budget is not None and bool(self.budget.lines or self.worked is not None)


@dataclass(frozen=True, kw_only=True)
class LeftOut:
    """One that cannot be compared, and why, in a clause."""

    station: str
    entrant: Entrant
    why: str


@dataclass(frozen=True, kw_only=True)
class Lineup:
    """Everyone that can be compared, best first, and who cannot, with the reason."""

    quantity: str
    rows: tuple[LineupRow, ...]
    left_out: tuple[LeftOut, ...]
    currency: str = ""


def line_up(entrants: Sequence[Entrant], quantity: str, asked: Asked) -> Lineup:
    """Put stations side by side.

    Raises:
        KeyError: the quantity is not one of :data:`QUANTITIES`.
    """
    about = QUANTITIES[quantity]
    there: list[tuple[Entrant, Standing]] = []
    left_out = []
    for entrant in entrants:
        found = entrant.standing(about.find, quantity, asked)
        if isinstance(found, str):
            left_out.append(LeftOut(station=entrant.name, entrant=entrant, why=found))
        else:
            there.append((entrant, found))
    currency = _most_used(there)
    for entrant, standing in [*there]:
        if standing.currency != currency:
            there.remove((entrant, standing))
            why = _other_currency(standing.currency, currency)
            left_out.append(LeftOut(station=entrant.name, entrant=entrant, why=why))
    places = ranked(
        [Contender(name=e.name, value=s.value, budget=s.budget, bench=e.bench) for e, s in there],
        higher_is_better=about.higher_is_better,
    )
    rows = [
        LineupRow(
            station=entrant.name,
            entrant=entrant,
            value=standing.value,
            budget=standing.budget,
            expanded=standing.budget.expanded if standing.budget is not None else None,
            load_w=standing.load_w,
            c_rate=standing.load_w / entrant.rated_wh if standing.load_w is not None else None,
            run=standing.run,
            rank=place.rank,
            ties=place.ties,
            unsure=place.unsure,
            note=standing.note,
            worked=standing.worked or (standing.budget.worked if standing.budget else None),
            low_place=place.rank,
            high_place=_worst_place(place),
        )
        for (entrant, standing), place in zip(there, places, strict=True)
    ]
    sign = -1.0 if about.higher_is_better else 1.0
    rows.sort(key=lambda row: (row.rank is None, row.rank or 0, sign * row.value))
    return Lineup(quantity=quantity, rows=tuple(rows), left_out=tuple(left_out), currency=currency)


def _worst_place(place: Ranked) -> int | None:
    """Where all that it cannot be told from are better."""
    return place.rank + len(place.ties) + len(place.unsure) if place.rank is not None else None


def _most_used(there: Sequence[tuple[Entrant, Standing]]) -> str:
    """The currency of most; of as many the one met first."""
    used = Counter(standing.currency for _, standing in there)
    return used.most_common(1)[0][0] if used else ""


def _other_currency(own: str, others: str) -> str:
    if not own:
        return f"its price has no currency, the others are in {others}"
    return f"its price is in {own}, the others are {f'in {others}' if others else 'in none'}"
