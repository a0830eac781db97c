"""Numbers with units in running text, in the units claims are kept in."""

import bisect
import itertools
import re
from dataclasses import dataclass

_NUMBER = r"\d{1,3}(?:,\d{3})+(?:\.\d+)?|\d+(?:[.,]\d+)?|\.\d+"
_UNITS: tuple[tuple[str, str, float], ...] = (
    (r"kWh", "Wh", 1000.0),
    (r"Wh|watt[- ]?hours?", "Wh", 1.0),
    (r"mAh", "Ah", 0.001),
    (r"Ah|amp[- ]?hours?", "Ah", 1.0),
    (r"kW|kilowatts?", "W", 1000.0),
    (r"kVA", "W", 1000.0),
    (r"VA", "W", 1.0),
    (r"W(?:atts?)?", "W", 1.0),
    (r"V(?:olts?|DC|AC)?", "V", 1.0),
    (r"mA", "A", 0.001),
    (r"A(?:mps?)?", "A", 1.0),
    (r"Hz", "Hz", 1.0),
    (r"ms|milliseconds?", "ms", 1.0),
    (r"minutes?|mins?", "min", 1.0),
    (r"hours?|hrs?|h", "h", 1.0),
    (r"seconds?|secs?|s", "s", 1.0),
    (r"kgs?|kilograms?|kilos?", "kg", 1.0),
    (r"lbs?|pounds?", "kg", 0.45359237),
    (r"oz|ounces?", "kg", 0.028349523125),
    (r"g|grams?", "kg", 0.001),
    (r"dB(?:\(A\)|A)?", "dB(A)", 1.0),
    (r"cycles?|charges", "cycles", 1.0),
    (r"years?|yrs?", "years", 1.0),
    (r"months?", "years", 1 / 12),
    (r"cells", "cells", 1.0),
    (r"%", "%", 1.0),
    (r"mm|cm|in(?:ch(?:es)?)?|ft|feet|m", "length", 1.0),
)
# "lb" and "oz" are exact by definition; a month is a twelfth of a year.
_UNIT = "|".join(f"(?P<u{i}>{words})" for i, (words, _, _) in enumerate(_UNITS))
_SEPARATOR = r"\s*(?:-|–|~|to|…|\.\.)\s*"
_FIGURE = re.compile(
    rf"(?<![\w.])(?:(?P<low>{_NUMBER})\s*(?:[A-Za-z%]{{1,3}}\s*)?{_SEPARATOR})?"
    rf"(?P<high>{_NUMBER})\+?(?:\s*|-)(?:{_UNIT})(?![A-Za-z0-9])",
    re.IGNORECASE,
)
_TEMPERATURE = re.compile(
    r"(?:(?P<low>[-−]?\d+(?:\.\d+)?)\s*(?:°|º|deg(?:rees)?)?\s*[CF]?\s*(?:-|–|~|to|/)\s*)?"
    r"(?P<high>[-−]?\d+(?:\.\d+)?)\s*(?:°|º|deg(?:rees)?)\s*(?P<unit>[CF])\b",
    re.IGNORECASE,
)
_HOURS_MINUTES = re.compile(
    r"(?<![\w.])(\d{1,3})\s*(?:h|hrs?|hours?)\s*(?:and\s*)?(\d{1,2})\s*(?:m|mins?|minutes?)?"
    r"(?![\w.])|(?<![\w.:])(\d{1,2}):(\d{2})\s*(?:h|hrs?|hours?)(?!\w)",
    re.IGNORECASE,
)
_COUNTS = (
    re.compile(r"(?<![\w.])(\d{1,2})\s*[x×*]\s*(?=[A-Za-z\d(])", re.IGNORECASE),
    re.compile(r"(?<!\w)[x×*]\s*(\d{1,2})(?![\w.])", re.IGNORECASE),
    re.compile(
        r"(?<![\w.])(\d{1,2})\s+(?![VWA]\b)"
        r"(?=(?:[A-Za-z\d-]+\s+){0,3}(?:ports?|outlets?|sockets?|outputs?)\b)",
        re.IGNORECASE,
    ),
    re.compile(r"\b(?:qty|quantity)\.?\s*:?\s*(\d{1,2})\b", re.IGNORECASE),
)
_NUMBER_WORDS = {
    word: str(number)
    for number, word in enumerate(
        ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"), start=1
    )
}


@dataclass(frozen=True, kw_only=True)
class Figure:
    """A number with its unit; ``low`` too where it is a range.

    ``at`` and ``end`` bound it in the text it was found in.
    """

    value: float
    unit: str
    low: float | None
    text: str
    at: int
    end: int


def plain_text(text: str) -> str:
    """Dashes, spaces, multiplication signs and number words in one form each."""
    text = re.sub(r"(?<=\d)[\u00a0\u2009\u202f](?=\d{3}(?!\d))", "", text)
    text = text.translate(
        {0x2212: "-", 0x2010: "-", 0x2011: "-", 0x2014: "–", 0x00A0: " ", 0x2009: " ", 0x202F: " "}
    )
    text = text.replace("℃", "°C").replace("℉", "°F").replace("⎓", " ").replace("~", "–")
    return re.sub(
        r"\b(" + "|".join(_NUMBER_WORDS) + r")\b(?=\s+\w)",
        lambda m: _NUMBER_WORDS[m[1].lower()],
        text,
        flags=re.IGNORECASE,
    )


def number(text: str) -> float:
    """A number with a thousands comma or a decimal comma."""
    if re.fullmatch(r"\d{1,3}(?:,\d{3})+(?:\.\d+)?", text):
        return float(text.replace(",", ""))
    return float(text.replace(",", "."))


def find_figures(text: str) -> list[Figure]:
    """Every number with a unit, temperatures and spans of time included, in order."""
    found = [_temperature(m) for m in _TEMPERATURE.finditer(text)]
    found += [_span(m) for m in _HOURS_MINUTES.finditer(text)]
    taken = sorted((f.at, f.end) for f in found)
    ends = list(itertools.accumulate((end for _, end in taken), max))
    for match in _FIGURE.finditer(text):
        made = _figure(match)
        # Figures of one pattern never overlap each other: only those found before can.
        before = bisect.bisect_left(taken, (made.end, 0)) if made else 0
        if made and not (before and ends[before - 1] > made.at):
            found.append(made)
    return sorted(found, key=lambda f: f.at)


def find_count(text: str) -> int | None:
    """How many alike, as in "4 × USB-C", "×4" or "4 outlets"; None where it is not said."""
    for pattern in _COUNTS:
        match = pattern.search(text)
        if match:
            return int(match[1])
    return None


def _figure(match: re.Match[str]) -> Figure | None:
    index = next(i for i in range(len(_UNITS)) if match[f"u{i}"] is not None)
    written = match[f"u{index}"]
    _, unit, factor = _UNITS[index]
    # "5 a" and "3 S" are words or codes, not amps or seconds.
    if written in ("a", "S", "M", "IN", "In", "G", "H") and unit != "h":
        return None
    low = match["low"]
    return Figure(
        value=factor * number(match["high"]),
        unit=unit,
        low=factor * number(low) if low else None,
        text=match[0].strip(),
        at=match.start(),
        end=match.end(),
    )


def _temperature(match: re.Match[str]) -> Figure:
    def celsius(text: str) -> float:
        value = float(text.replace("−", "-"))
        return round((value - 32) / 1.8, 1) if match["unit"].upper() == "F" else value

    low = match["low"]
    return Figure(
        value=celsius(match["high"]),
        unit="°C",
        low=celsius(low) if low else None,
        text=match[0].strip(),
        at=match.start(),
        end=match.end(),
    )


def _span(match: re.Match[str]) -> Figure:
    hours, minutes = (match[1], match[2]) if match[1] else (match[3], match[4])
    return Figure(
        value=60.0 * int(hours) + int(minutes),
        unit="min",
        low=None,
        text=match[0].strip(),
        at=match.start(),
        end=match.end(),
    )
