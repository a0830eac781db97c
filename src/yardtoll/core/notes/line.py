"""One line of notes: its time, its values with units, its words, and what was not understood."""

import re
from dataclasses import dataclass, replace

from yardtoll.core.notes.events import Event, event_of, plain_words
from yardtoll.core.notes.numbers import NUMBER, Decimal, figure_of
from yardtoll.core.notes.quantities import (
    INPUT,
    LEFT,
    LEFT_BEFORE,
    METER,
    POWER_FACTOR,
    SHOWN_AFTER,
    SHOWS,
    UNIT_PATTERNS,
    NoteQuantity,
    Unit,
)
from yardtoll.core.notes.times import (
    COLON_SPAN,
    SHORT_SPAN,
    SPAN,
    LineTime,
    span_s,
    span_step_s,
    time_in,
)

_MASK = "\x00"
_NUMBER = re.compile(
    rf"(?P<about>[~≈]|\bca\.?|\babout|\bapprox\.?)?\s*(?<![\w.,:])(?P<figure>{NUMBER})"
)
_LOOSE = re.compile(r"(?<![A-Za-z#\d])[-−]?\d[\d.,:]*(?:\s?[A-Za-z°%/]+)?")
"""A figure that was not understood, with what looks like its unit."""
_YEAR = re.compile(r"(?:19|20)\d\d")
_QUOTED = re.compile(r"[\"“„](?P<words>[^\"”“]*)[\"”“]")
_CELL = re.compile(r"(?<![\w.,:])(?P<figure>\d+(?:[.,]\d+)*)")
"""A figure in a column: those beside it are no groups of thousands."""
_RANGE = re.compile(rf"\s*(?:-|–|to|bis|\.\.)\s*(?P<figure>{NUMBER})")
_SIGN = re.compile(r"(?:^|[\s,;(])[-−]$")
_COMMENT = re.compile(r"(?:^|\s)#.*$")
_LEFT_AFTER = re.compile(rf"\s*(?:{LEFT})\b", re.IGNORECASE)
_LEFT_BEFORE = re.compile(rf"\b(?:{LEFT_BEFORE})[\s:=]*$", re.IGNORECASE)
_CONTEXT = re.compile(rf"\b(?:(?P<shown>{SHOWS})|(?P<meter>{METER}))\b[:=]?", re.IGNORECASE)
_SHOWN_AFTER = re.compile(rf"\s*\(?(?:{SHOWN_AFTER})\b\)?", re.IGNORECASE)
_INPUT_AFTER = re.compile(rf"\s*\(?(?:{INPUT})\b\)?", re.IGNORECASE)
_INPUT_BEFORE = re.compile(rf"\b(?:{INPUT})[\s:=]*$", re.IGNORECASE)
_OUT_AFTER = re.compile(r"\s*(?:out|output|load)\b", re.IGNORECASE)
_FACTOR = re.compile(rf"\b(?:{POWER_FACTOR})[\s:=]*(?P<figure>[01]?[.,]\d+|1)\b", re.IGNORECASE)
_SUM = re.compile(rf"{NUMBER}(?:\s*(?:k?Wh)?\s*\+\s*{NUMBER})+\s*(?P<kilo>k)?Wh\b", re.IGNORECASE)
"""Two meters on one load, as they are added up on paper."""
_PART_OF = re.compile(
    rf"(?P<figure>{NUMBER})\s*(?:k?Wh)?\s*(?:of|out of|von|sur|de|/)\s*{NUMBER}\s*(?P<kilo>k)?Wh\b",
    re.IGNORECASE,
)
"""Delivered of rated, as results are often written: only what was delivered was measured."""
_AMP_HOURS = re.compile(r"\s*(?:mAh|Ah|amp[ -]?hours?|VA|kVA|var)\b", re.IGNORECASE)
_RAN = re.compile(r"\b(?:ran(?: for)?|for|lasted)\s+(?P<span>\d.*)", re.IGNORECASE)
_WITHIN = re.compile(
    r"(?:±|\+/-|\+-)\s*(?P<figure>\d+(?:\.\d+)?)\s*(?:s(?:ec)?|(?P<minutes>min))\b", re.IGNORECASE
)
_WINDOW = re.compile(
    r"(?:\bfrom\s+)?(?P<start>\d{1,3}(?:[.,]\d+)?)\s*%?\s*(?:to|→|->|bis|-|–)\s*"
    r"(?P<end>\d{1,3}(?:[.,]\d+)?)\s*%",
    re.IGNORECASE,
)
"""Like "from 100 to 10 %": the part of the store that a run went through."""


@dataclass(frozen=True, kw_only=True)
class NotedValue:
    """A value in its quantity's unit, the step of its last digit, and where it stands in the line.

    ``is_assumed`` says why the unit is not as written; empty where it is.
    """

    quantity: NoteQuantity
    value: float
    step: float
    start: int
    end: int
    is_assumed: str = ""


@dataclass(frozen=True, kw_only=True)
class Unread:
    """A part of a line that was not understood, and why."""

    start: int
    end: int
    why: str


@dataclass(frozen=True, kw_only=True)
class ReadLine:
    """A line as it was understood.

    Attributes:
        number: 1-based.
        ran_s: of "ran 30 min at 500 W": the line is a run of its own.
        window: of "from 100 to 10 %", states of charge in %.
        within_s: of "± 60 s": how far its moment may be from its time.
        words: what remains, kept as a mark.
    """

    number: int
    text: str
    time: LineTime | None = None
    values: tuple[NotedValue, ...] = ()
    event: Event | None = None
    ran_s: float | None = None
    window: tuple[float, float] | None = None
    within_s: float | None = None
    words: str = ""
    unread: tuple[Unread, ...] = ()

    def value(self, quantity: NoteQuantity) -> NotedValue | None:
        """The first value of a quantity."""
        return next((v for v in self.values if v.quantity is quantity), None)

    @property
    def is_empty(self) -> bool:
        """A blank line or a comment."""
        return not (self.time or self.values or self.event or self.words or self.unread)


class _Text:
    """A line whose understood parts are struck out."""

    def __init__(self, text: str) -> None:
        self.whole = text
        self.left = text

    def strike(self, start: int, end: int) -> None:
        self.left = self.left[:start] + _MASK * (end - start) + self.left[end:]


def read_line(
    text: str,
    number: int = 1,
    decimal: Decimal = Decimal.EITHER,
    header: tuple[tuple[NoteQuantity | None, float], ...] = (),
) -> ReadLine:
    """A line as far as it can be understood; never refuses.

    Args:
        text: without its end.
        decimal: what the whole text writes before decimals.
        header: quantities of columns named above, with their scale; the first may be the time.
    """
    line = _Text(text)
    comment = _COMMENT.search(text)
    if comment:
        line.strike(comment.start(), comment.end())
    quoted = _take_quoted(line)
    window = _take_window(line)
    within_s = _take_within(line)
    ran = _take_ran(line)
    time = None if ran is not None else time_in(line.left)
    if time is not None:
        line.strike(time.start, time.end)
    values = _take_values(line, decimal)
    if header and not values:
        values = _take_columns(line, decimal, header)
    event, words = _take_words(line)
    words = ", ".join(word for word in (words, *quoted) if word)
    unread = _unread(line)
    return ReadLine(
        number=number, text=text, time=time, values=tuple(values), event=event, ran_s=ran,
        window=window, within_s=within_s, words=words, unread=tuple(unread),
    )  # fmt: skip


def _take_quoted(line: _Text) -> list[str]:
    """Words in quotation marks, which stay as they are."""
    found = []
    for part in _QUOTED.finditer(line.left):
        found.append(part["words"].strip())
        line.strike(part.start(), part.end())
    return found


def _take_window(line: _Text) -> tuple[float, float] | None:
    found = _WINDOW.search(line.left)
    if not found:
        return None
    start, end = (float(found[name].replace(",", ".")) for name in ("start", "end"))
    if start == end or max(start, end) > 100:
        return None
    line.strike(found.start(), found.end())
    return start, end


def _take_within(line: _Text) -> float | None:
    found = _WITHIN.search(line.left)
    if not found:
        return None
    line.strike(found.start(), found.end())
    return float(found["figure"]) * (60.0 if found["minutes"] else 1.0)


def _take_ran(line: _Text) -> float | None:
    ran = _RAN.search(line.left)
    if not ran:
        return None
    at = ran.start("span")
    spans = (
        COLON_SPAN.match(line.left, at),
        SHORT_SPAN.match(line.left, at),
        SPAN.match(line.left, at),
    )
    for found in spans:
        seconds = span_s(found) if found else None
        if found and seconds:
            line.strike(ran.start(), found.end())
            return seconds
    return None


def _take_values(line: _Text, decimal: Decimal) -> list[NotedValue]:
    found: list[NotedValue] = []
    for part in _SUM.finditer(line.left):
        figures = [
            figure_of(text, decimal, usually_whole=True) for text in re.findall(NUMBER, part[0])
        ]
        kilo = 1000.0 if part["kilo"] else 1.0
        total = kilo * sum(figure.value for figure in figures)
        step = kilo * max(figure.step for figure in figures) * len(figures) ** 0.5
        found.append(_value(NoteQuantity.ENERGY, total, step, part))
        line.strike(part.start(), part.end())
    for part in _PART_OF.finditer(line.left):
        figure = figure_of(part["figure"], decimal, usually_whole=True)
        kilo = 1000.0 if part["kilo"] else 1.0
        found.append(_value(NoteQuantity.ENERGY, figure.value * kilo, figure.step * kilo, part))
        line.strike(part.start(), part.end())
    for factor in _FACTOR.finditer(line.left):
        figure = figure_of(factor["figure"], decimal, usually_whole=False)
        found.append(_value(NoteQuantity.POWER_FACTOR, figure.value, figure.step, factor))
        line.strike(factor.start(), factor.end())
    found += _take_left(line)
    at = 0
    while number := _NUMBER.search(line.left, at):
        taken = _take_one(line, number, decimal)
        if taken is None:
            at = number.end()
        else:
            found.append(taken)
            at = taken.end
    return sorted(found, key=lambda value: value.start)


def _value(quantity: NoteQuantity, value: float, step: float, at: re.Match[str]) -> NotedValue:
    return NotedValue(quantity=quantity, value=value, step=step, start=at.start(), end=at.end())


def _take_left(line: _Text) -> list[NotedValue]:
    """Times left: "3.7 h left", "3:42 left", "45 min to go", "left 3.7 h", "shows 3.7 h"."""
    found = []
    for start in [m.start() for m in re.finditer(r"(?<![\d.,:])\d", line.left)]:
        spans = (
            COLON_SPAN.match(line.left, start),
            SHORT_SPAN.match(line.left, start),
            SPAN.match(line.left, start),
        )
        for span in spans:
            seconds = span_s(span) if span else None
            if span is None or seconds is None:
                continue
            end = len(line.left[: span.end()].rstrip())
            after = _LEFT_AFTER.match(line.left, end)
            before = _LEFT_BEFORE.search(line.left[:start])
            shown = _context(line.whole, start) == "shown"
            if not (after or before or shown):
                continue
            begin = before.start() if before and not after else start
            stop = after.end() if after else end
            found.append(
                NotedValue(
                    quantity=NoteQuantity.LEFT, value=seconds, step=span_step_s(span),
                    start=begin, end=stop,
                )
            )  # fmt: skip
            line.strike(begin, stop)
            break
    return found


def _take_one(line: _Text, number: re.Match[str], decimal: Decimal) -> NotedValue | None:
    """A figure with a unit, struck out; None for one without."""
    ranged = _RANGE.match(line.left, number.end())
    unit, end = _unit_at(line.left, ranged.end() if ranged else number.end())
    if unit is None:
        ranged = None
        unit, end = _unit_at(line.left, number.end())
    if unit is None:
        return None
    figure = figure_of(number["figure"], decimal, usually_whole=unit.usually_whole)
    value, step = figure.value, figure.step
    if ranged:
        other = figure_of(ranged["figure"], decimal, usually_whole=unit.usually_whole)
        value, step = (value + other.value) / 2, max(step, abs(other.value - value))
    start = number.start("figure")
    if number["about"]:
        start = number.start("about")
    if unit.quantity is NoteQuantity.CELSIUS and _SIGN.search(line.left[:start]):
        value, start = -value, start - 1
    value = value * unit.scale + unit.offset
    quantity, start, end = _of_power(line, unit.quantity, start, end)
    line.strike(start, end)
    return NotedValue(quantity=quantity, value=value, step=step * unit.scale, start=start, end=end)


def _unit_at(text: str, at: int) -> tuple[Unit | None, int]:
    for unit, pattern in UNIT_PATTERNS:
        found = pattern.match(text, at)
        if found:
            return unit, found.end()
    return None, at


def _of_power(
    line: _Text, quantity: NoteQuantity, start: int, end: int
) -> tuple[NoteQuantity, int, int]:
    """Whether watts are the load's, the display's, or going in; and the words that say so."""
    if quantity is not NoteQuantity.POWER:
        return quantity, start, end
    after = _INPUT_AFTER.match(line.left, end)
    if after:
        return NoteQuantity.INPUT, start, after.end()
    before = _INPUT_BEFORE.search(line.left[:start])
    if before:
        return NoteQuantity.INPUT, before.start(), end
    shown = _SHOWN_AFTER.match(line.left, end)
    if shown:
        return NoteQuantity.SHOWN, start, shown.end()
    if _context(line.whole, start) == "shown":
        return NoteQuantity.SHOWN, start, end
    out = _OUT_AFTER.match(line.left, end)
    return NoteQuantity.POWER, start, out.end() if out else end


def _context(text: str, at: int) -> str:
    """Whether the last such word before a place says "shown" or "meter"; only ";" ends it."""
    begin = max(text.rfind(";", 0, at), text.rfind("|", 0, at)) + 1
    found = list(_CONTEXT.finditer(text, begin, at))
    if not found:
        return ""
    return "shown" if found[-1]["shown"] else "meter"


def _take_columns(
    line: _Text, decimal: Decimal, header: tuple[tuple[NoteQuantity | None, float], ...]
) -> list[NotedValue]:
    """Bare figures below the names of columns, where there are just as many."""
    columns = [(quantity, scale) for quantity, scale in header if quantity is not None]
    numbers = list(_CELL.finditer(line.left))
    if len(numbers) != len(columns):
        return []
    found = []
    for number, (quantity, scale) in zip(numbers, columns, strict=True):
        whole = quantity in (NoteQuantity.ENERGY, NoteQuantity.POWER)
        figure = figure_of(number["figure"], decimal, usually_whole=whole)
        start, end = number.span("figure")
        found.append(
            NotedValue(
                quantity=quantity, value=figure.value * scale, step=figure.step * scale,
                start=start, end=end,
            )
        )  # fmt: skip
        line.strike(start, end)
    return found


def _take_words(line: _Text) -> tuple[Event | None, str]:
    """What the rest of the line says: an event, and words to be kept as a mark."""
    event, words = None, []
    rest = re.sub(
        rf"\b(?:{SHOWS}|{METER})\b[:=]?(?=\s*{_MASK})", "", line.left, flags=re.IGNORECASE
    )
    parts = [p for p in re.split(r"[,;|\x00]+|\s[-–]\s|(?<=\w)\.\s", rest) if p]
    joined = " ".join(" ".join(parts).split())
    for part in [*parts, joined] if len(parts) > 1 else parts:
        plain = plain_words(part)
        found = event_of(plain) if plain else None
        if found and event is None:
            event = found
    for part in parts:
        kept = " ".join(_LOOSE.sub(" ", part).split()).strip(" .:-–()")
        plain = plain_words(kept)
        if plain and not event_of(plain) and re.search(r"\w", plain):
            words.append(kept)
    if event and event_of(plain_words(joined)):
        words = []
    return event, ", ".join(word for word in words if word)


def _unread(line: _Text) -> list[Unread]:
    """Figures that remain."""
    found = []
    for number in _LOOSE.finditer(line.left):
        if _YEAR.fullmatch(number.group().strip()):
            continue
        at = re.search(r"\d[\d.,:]*", line.left[number.start() :])
        assert at is not None
        after = line.left[number.start() + at.end() :]
        if _AMP_HOURS.match(after):
            why = "not Wh and not W"
        elif re.match(r"\s*[A-Za-z°]", after):
            why = "this unit is not known"
        else:
            why = "no unit"
        found.append(Unread(start=number.start(), end=number.end(), why=why))
    return found


def with_assumed_energy(line: ReadLine, decimal: Decimal) -> ReadLine:
    """A line whose one bare figure is taken as Wh, and that is said."""
    (bare,) = line.unread
    written = line.text[bare.start : bare.end].strip()
    if not re.fullmatch(NUMBER, written):
        return line
    figure = figure_of(written, decimal, usually_whole=True)
    value = NotedValue(
        quantity=NoteQuantity.ENERGY, value=figure.value, step=figure.step, start=bare.start,
        end=bare.end, is_assumed="without a unit: taken as Wh",
    )  # fmt: skip
    return replace(line, values=(*line.values, value), unread=())
