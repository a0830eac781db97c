"""Size classes by rated Wh: what is best, typical and usual in one, and a station's place in it."""

from collections.abc import Sequence

from yardtoll.core.compare.ranks import Contender, place_among
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.review.lineup.entrants import Asked, Entrant, Standing
from yardtoll.review.lineup.lining import Lineup, LineupRow
from yardtoll.review.lineup.quantities import QUANTITIES
from yardtoll.review.lineup.words import in_letters, shown_figure
from yardtoll.store.records import SizeClass

USUAL_CLASSES = (
    SizeClass(name="Hand-sized", low_wh=0, high_wh=500),
    SizeClass(name="Small", low_wh=500, high_wh=1100),
    SizeClass(name="Middle", low_wh=1100, high_wh=2100),
    SizeClass(name="Large", low_wh=2100, high_wh=4100),
    SizeClass(name="On wheels", low_wh=4100, high_wh=100_000),
)
"""Where the yard has none of its own. Common practice, no source."""
_FEWEST_TYPICAL = 2
"""Of so many none is typical."""


def class_of(rated_wh: float, kept: Sequence[SizeClass]) -> SizeClass | None:
    """The class of a size; None where none of the yard's own holds it."""
    classes = kept or USUAL_CLASSES
    return next((c for c in classes if c.low_wh <= rated_wh < c.high_wh), None)


def class_words(
    row: LineupRow,
    lineup: Lineup,
    archive: Sequence[Entrant],
    asked: Asked,
    kept: Sequence[SizeClass],
) -> str:
    """Like "Among small ones third of 9; best 91 %, typical 85 %, worst 79 %"; "" for no class."""
    size = class_of(row.entrant.rated_wh, kept)
    if size is None:
        return ""
    about = QUANTITIES[lineup.quantity]
    others: list[tuple[Entrant, Standing]] = []
    for entrant in archive:
        if entrant.name == row.station or not size.low_wh <= entrant.rated_wh < size.high_wh:
            continue
        found = entrant.standing(about.find, about.key, asked)
        if isinstance(found, Standing) and found.currency == lineup.currency:
            others.append((entrant, found))
    name = f"Among {size.name.lower()} ones"
    if not others:
        return f"{name} there is no other to compare it with"
    place = place_among(
        _contender(row.entrant, row.value, row.budget),
        [_contender(entrant, found.value, found.budget) for entrant, found in others],
        higher_is_better=about.higher_is_better,
    )
    figures = [
        (row.value, row.budget), *((found.value, found.budget) for _, found in others)
    ]  # fmt: skip
    figures.sort(key=lambda figure: figure[0], reverse=about.higher_is_better)
    best, typical, worst = (
        shown_figure(value, budget.expanded if budget is not None else None, lineup)
        for value, budget in (figures[0], figures[(len(figures) - 1) // 2], figures[-1])
    )
    middle = f"typical {typical}, " if len(figures) > _FEWEST_TYPICAL else ""
    if place is None:
        return f"{name}, {len(figures)} in all: from {best} to {worst}, no place without a ±"
    return f"{name} {_place(place, len(figures))}; best {best}, {middle}worst {worst}"


def _contender(entrant: Entrant, value: float, budget: Budget | None) -> Contender:
    return Contender(name=entrant.name, value=value, budget=budget, bench=entrant.bench)


def _place(place: tuple[int, int], count: int) -> str:
    low, high = map(in_letters, place)
    return f"{low} of {count}" if low == high else f"{low} to {high} of {count}"
