"""Size classes by rated Wh: what is best, typical and usual in one, and a station's place in it."""

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from yardtoll.review.lineup.entrants import Asked, Entrant
from yardtoll.review.lineup.lining import Lineup, LineupRow, line_up
from yardtoll.review.lineup.quantities import QUANTITIES
from yardtoll.review.lineup.words import figure_of, in_letters
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


@dataclass(frozen=True, kw_only=True)
class ClassPlace:
    """A station among those of its size.

    Attributes:
        lineup: of the class in one quantity.
        row: the station's own; None where it cannot be compared.
    """

    size: SizeClass
    lineup: Lineup
    row: LineupRow | None


def class_of(rated_wh: float, kept: Sequence[SizeClass]) -> SizeClass | None:
    """The class of a size; None where none of the yard's own holds it."""
    classes = kept or USUAL_CLASSES
    return next((c for c in classes if c.low_wh <= rated_wh < c.high_wh), None)


def placed(
    entrant: Entrant,
    archive: Sequence[Entrant],
    quantity: str,
    asked: Asked,
    kept: Sequence[SizeClass],
) -> ClassPlace | None:
    """A station among those of its size in an archive; None where it has no class."""
    size = class_of(entrant.rated_wh, kept)
    if size is None:
        return None
    alike = [other for other in archive if size.low_wh <= other.rated_wh < size.high_wh]
    lineup = line_up(alike, quantity, asked)
    own = next((row for row in lineup.rows if row.entrant is entrant), None)
    return ClassPlace(size=size, lineup=lineup, row=own)


def class_words(place: ClassPlace) -> str:
    """Like "Among the small ones third of nine; 79 to 91 %, typically 85 %"."""
    rows, name = place.lineup.rows, f"Among {place.size.name.lower()} ones"
    if place.row is None or len(rows) < 2:
        return f"{name} there is no other to compare it with" if place.row is not None else ""
    about = QUANTITIES[place.lineup.quantity]
    values = [row.value for row in rows]
    middle = min(rows, key=lambda row: abs(row.value - median(values)))
    low, high = min(rows, key=lambda r: r.value), max(rows, key=lambda r: r.value)
    best = high if about.higher_is_better else low
    worst = low if best is high else high
    typical = f"typical {figure_of(middle, place.lineup)}, " if len(rows) > _FEWEST_TYPICAL else ""
    return (
        f"{name} {_place(place.row, len(rows))}; best {figure_of(best, place.lineup)}, {typical}"
        f"worst {figure_of(worst, place.lineup)}"
    )


def _place(row: LineupRow, count: int) -> str:
    if row.low_place is None or row.high_place is None:
        return f"without a place, for its ± is not known, of {count}"
    low, high = in_letters(row.low_place), in_letters(row.high_place)
    if low == high:
        return f"{low} of {count}"
    return f"{low} to {high} of {count}"
