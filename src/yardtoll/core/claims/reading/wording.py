"""The words beside a figure that say how it is meant: "up to", "about", "±5 %", its rounding."""

import re

_UPPER = re.compile(r"\b(up to|max(?:imum|\.)?|at most|not more than)(?!\w)", re.IGNORECASE)
_ABOUT = re.compile(r"\b(about|approx\w*\.?|around|roughly|ca\.|circa)(?!\w)|[≈]", re.IGNORECASE)
_PLUS_MINUS = re.compile(r"(?:±|\+/-|\+-)\s*(\d+(?:\.\d+)?)\s*%")
_REGULATED = re.compile(r"\bregulated\b", re.IGNORECASE)
_HOURS = re.compile(
    r"^\s*(?:\d+(?:[.,]\d+)?\s*(?:-|–|to)\s*)?\d+(?:[.,](\d+))?\s*(?:h|hrs?|hours?)\b",
    re.IGNORECASE,
)
_BOUNDED_UNITS = ("W", "A")


def wording_of(kind: str, unit: str, words: str, figure: str) -> str:
    """The words around a figure that are kept, such as "up to" or "about, ±5 %".

    Args:
        kind: of the claim that the figure was read as.
        unit: the kind's.
        words: label and the part of the line with the figure.
        figure: the figure's own text, such as "2.1 h".
    """
    found = []
    if unit in _BOUNDED_UNITS and (bound := _UPPER.search(words)):
        plain = bound[1].lower().rstrip(".")
        found.append("max" if plain.startswith("max") else plain)
    if _ABOUT.search(words):
        found.append("about")
    if stated := _PLUS_MINUS.search(words):
        found.append(f"±{stated[1]} %")
    if kind.endswith("_v") and _REGULATED.search(words):
        found.append("regulated")
    if kind.endswith("_min") and unit == "min" and (hours := _HOURS.match(figure)):
        step = 10.0 ** -len(hours[1] or "")
        found.append(f"rounded to {step:g} h")
    return ", ".join(found)
