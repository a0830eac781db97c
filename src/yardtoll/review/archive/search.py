"""Finding stations by words and by figures, such as "lfp usable > 88 % and idle < 12 W"."""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import quoted
from yardtoll.review.lineup.entrants import Asked, Entrant, Standing
from yardtoll.review.lineup.quantities import QUANTITIES

_LONGEST = 300
_NAMES: Mapping[str, str] = {
    "usable": "usable_ratio",
    "delivered": "delivered_wh",
    "round trip": "round_trip",
    "idle": "idle_w",
    "0-80": "zero_to_80_min",
    "0–80": "zero_to_80_min",
    "charge": "zero_to_80_min",
    "solar": "solar_w",
    "held": "held_w",
    "distortion": "thd",
    "thd": "thd",
    "transfer": "transfer_ms",
    "noise": "noise_db",
    "price": "price_per_rated_wh",
    "three-way": "three_way",
    "weight": "kg_per_kwh",
    "score": "score",
}
_RATED = {"rated": "rated_wh", "size": "rated_wh", "inverter": "rated_w"}
_UNITS: Mapping[str, tuple[tuple[str, ...], float]] = {
    "kwh": (("delivered_wh", "rated_wh"), 1000.0),
    "wh": (("delivered_wh", "rated_wh"), 1.0),
    "kw": (("solar_w", "held_w", "rated_w", "idle_w"), 1000.0),
    "w": (("idle_w", "solar_w", "held_w", "rated_w"), 1.0),
    "%": (("usable_ratio", "round_trip", "thd"), 0.01),
    "h": (("zero_to_80_min",), 60.0),
    "min": (("zero_to_80_min",), 1.0),
    "ms": (("transfer_ms",), 1.0),
    "db": (("noise_db",), 1.0),
}
_SHARES = ("usable_ratio", "round_trip", "thd")
_LONGEST_FIRST = sorted({**_NAMES, **_RATED}, key=len, reverse=True)
_TERM = re.compile(
    rf"(?P<name>{'|'.join(map(re.escape, _LONGEST_FIRST))})"
    r"\s*(?P<sign>>=|<=|≥|≤|>|<|=)\s*(?P<number>\d+(?:[.,]\d+)?)\s*"
    r"(?P<unit>%|kwh|wh|kw|w|min|ms|h|db)?(?:\(a\))?(?![\w.])",
    re.IGNORECASE,
)
_SIGN = re.compile(r"[<>=≤≥]")


class Fit(StrEnum):
    """Whether a station is one of those looked for."""

    YES = "yes"
    PERHAPS = "perhaps"
    """A figure of it is within its U of what was asked for."""
    NO = "no"


@dataclass(frozen=True, kw_only=True)
class Term:
    """One figure that is asked for.

    Attributes:
        quantity: a key of the line-up's quantities, or "rated_wh", "rated_w".
        is_least: at least the value, and not at most.
        value: in the quantity's own unit.
    """

    quantity: str
    is_least: bool
    value: float


@dataclass(frozen=True, kw_only=True)
class Query:
    """What is looked for: all of it must be so."""

    words: tuple[str, ...] = ()
    terms: tuple[Term, ...] = ()

    @property
    def is_empty(self) -> bool:
        """Whether it asks for nothing."""
        return not self.words and not self.terms


def read_query(text: str) -> Query:
    """Words and figures of a text; "and" and commas may stand between them.

    Raises:
        UnusableDataError: a comparison is not understood.
    """
    text = text[:_LONGEST]
    terms = [_term(found) for found in _TERM.finditer(text)]
    left = _TERM.sub(" ", text)
    if _SIGN.search(left):
        raise UnusableDataError(
            f"{quoted(left.strip())} should look like “usable > 88 %”, “idle < 12 W”"
        )
    words = (word.casefold() for word in re.split(r"[\s,;&]+", left))
    return Query(words=tuple(w for w in words if w and w != "and"), terms=tuple(terms))


def _term(found: re.Match[str]) -> Term:
    name, unit = found["name"].lower(), (found["unit"] or "").lower()
    quantity = _NAMES.get(name) or _RATED[name]
    value = float(found["number"].replace(",", "."))
    if unit:
        fitting, scale = _UNITS[unit]
        if quantity not in fitting:
            raise UnusableDataError(f"{quoted(found[0].strip())}: {name} is not in {found['unit']}")
        value *= scale
    elif quantity in _SHARES:
        # "usable > 88" can only mean percent.
        value *= 0.01 if value > 1 else 1.0
    return Term(quantity=quantity, is_least=found["sign"] in (">", ">=", "≥"), value=value)


def fits(entrant: Entrant, query: Query, asked: Asked) -> Fit:
    """Whether a station is one of those; one without a figure that is asked for is not."""
    haystack = _haystack(entrant)
    if not all(word in haystack for word in query.words):
        return Fit.NO
    return _least_sure(_fits_term(entrant, term, asked) for term in query.terms)


def found_in(entrants: Sequence[Entrant], query: Query, asked: Asked) -> list[tuple[Entrant, Fit]]:
    """Those that fit, and those that may, in their order."""
    every = ((entrant, fits(entrant, query, asked)) for entrant in entrants)
    return [(entrant, fit) for entrant, fit in every if fit is not Fit.NO]


def _haystack(entrant: Entrant) -> str:
    station = entrant.station
    parts = [entrant.name]
    if station is not None:
        parts += [station.chemistry, station.note, station.source, *station.tags]
    return " ".join(parts).casefold()


def _least_sure(found: Iterable[Fit]) -> Fit:
    fits_of_all = list(found)
    if Fit.NO in fits_of_all:
        return Fit.NO
    return Fit.PERHAPS if Fit.PERHAPS in fits_of_all else Fit.YES


def _fits_term(entrant: Entrant, term: Term, asked: Asked) -> Fit:
    if term.quantity in ("rated_wh", "rated_w"):
        value, expanded = getattr(entrant, term.quantity), 0.0
    else:
        found = entrant.standing(QUANTITIES[term.quantity].find, term.quantity, asked)
        if not isinstance(found, Standing):
            return Fit.NO
        value, expanded = found.value, found.budget.expanded if found.budget is not None else 0.0
    beyond = value - term.value if term.is_least else term.value - value
    if beyond >= expanded:
        return Fit.YES
    return Fit.PERHAPS if beyond > -expanded else Fit.NO
