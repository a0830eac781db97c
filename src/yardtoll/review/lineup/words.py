"""A line-up in words: figures with their ±, places, and the finding in one sentence."""

from collections.abc import Sequence

from yardtoll.core.formatting import format_with_uncertainty
from yardtoll.review.lineup.entrants import Asked
from yardtoll.review.lineup.lining import Lineup, LineupRow
from yardtoll.review.lineup.quantities import QUANTITIES

_PLACES = ("", "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth",
           "ninth", "tenth", "eleventh", "twelfth")  # fmt: skip
_EXACT_PRICE_DIGITS = 3


def unit_of(lineup: Lineup) -> str:
    """As shown behind a figure, like "%", "USD/Wh"."""
    about = QUANTITIES[lineup.quantity]
    if not about.is_price:
        return about.unit
    if not about.unit:
        return lineup.currency
    return f"{lineup.currency}/{about.unit}" if lineup.currency else f"per {about.unit}"


def figure_of(row: LineupRow, lineup: Lineup) -> str:
    """Like "91.1 ± 1.2 %"; without a ± where it is not known or nothing."""
    return shown_figure(row.value, row.expanded, lineup)


def shown_figure(value: float, expanded: float | None, lineup: Lineup) -> str:
    """A value of a line-up's quantity with its U, as shown."""
    about = QUANTITIES[lineup.quantity]
    value, expanded = about.scale * value, about.scale * (expanded or 0.0)
    if about.is_price and not expanded:
        shown = f"{value:.{_EXACT_PRICE_DIGITS}f}"
    else:
        shown = format_with_uncertainty(value, expanded)
    return f"{shown} {unit_of(lineup)}".rstrip()


def place_of(row: LineupRow, lineup: Lineup) -> str:
    """Like "1st", "2nd to 3rd"; "" for one that stands alone."""
    if len(lineup.rows) == 1:
        return ""
    if row.low_place is None or row.high_place is None:
        return "no ±, no place"
    low, high = _ordinal(row.low_place), _ordinal(row.high_place)
    return low if low == high else f"{low} to {high}"


def headline(lineup: Lineup, asked: Asked) -> str:
    """The finding in one sentence without its full stop."""
    about = QUANTITIES[lineup.quantity]
    at = f" at {asked.words}" if about.at_load else ""
    what = f"{about.title}{at}"
    rows = [row for row in lineup.rows if row.rank is not None]
    if not lineup.rows:
        return f"{what}: nothing to compare yet"
    if len(lineup.rows) == 1:
        return f"{what}: {lineup.rows[0].station} alone, {figure_of(lineup.rows[0], lineup)}"
    if not rows:
        return f"{what}: no figure has a ±, so that none can be called better"
    best = [row for row in rows if row.rank == 1]
    lead = best[0]
    tied = [lead.station, *lead.ties]
    if len(best) == 1 and not lead.ties:
        said = f"{lead.station} is first, {figure_of(lead, lineup)}"
    elif len(tied) == len(rows):
        said = f"{_listed(tied)} tie"
    else:
        said = f"{_listed(tied)} share the first place"
    return f"{what}: {'of those with a ±, ' if lead.unsure else ''}{said}"


def reasons(lineup: Lineup) -> list[str]:
    """Why each that is left out is, a sentence each."""
    return [f"{left.station}: {left.why}." for left in lineup.left_out]


def ties_words(row: LineupRow) -> str:
    """Like "a tie with Basil and Sorrel"; "" for none."""
    return f"a tie with {_listed(row.ties)}" if row.ties else ""


def _ordinal(number: int) -> str:
    if number % 100 in (11, 12, 13):
        return f"{number}th"
    return f"{number}{ {1: 'st', 2: 'nd', 3: 'rd'}.get(number % 10, 'th') }"


def in_letters(number: int) -> str:
    """Like "third"; digits from thirteen on."""
    return _PLACES[number] if number < len(_PLACES) else _ordinal(number)


def _listed(names: Sequence[str]) -> str:
    names = list(names)
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
