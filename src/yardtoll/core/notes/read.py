"""Notes read whole: every line placed in time, and what is doubtful about them."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace

from yardtoll.core.electrical.trace import ClockBasis
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.notes.events import Event
from yardtoll.core.notes.limits import LONGEST_TEXT
from yardtoll.core.notes.line import NotedValue, ReadLine, read_line, with_assumed_energy
from yardtoll.core.notes.numbers import Decimal, decimal_of
from yardtoll.core.notes.quantities import (
    KILO_HEADERS,
    WORDS_OF_HEADER,
    NoteQuantity,
)
from yardtoll.core.notes.times import DAY_S, LineTime, moment_s

_OUT_OF_ORDER_S = 600.0
"""A time so little earlier than the line before is a slip of order, not the next day."""
_HALF_DAY_S = DAY_S / 2
_LONG_S = 8 * 3600.0
_COMMENT = re.compile(r"(?:^|\s)#.*$", re.MULTILINE)


@dataclass(frozen=True, kw_only=True)
class Doubt:
    """Something in a line that may not be as written, with what was probably meant."""

    line: int
    message: str
    meant: str = ""


@dataclass(frozen=True, kw_only=True)
class Note:
    """A line placed in time.

    Attributes:
        s: s from the first line.
        limit_s: ± of that time.
    """

    s: float
    limit_s: float
    line: ReadLine

    @property
    def event(self) -> Event | None:
        """What happened then."""
        return self.line.event

    def value(self, quantity: NoteQuantity) -> float | None:
        """The line's value of a quantity."""
        found = self.line.value(quantity)
        return None if found is None else found.value


@dataclass(frozen=True, kw_only=True)
class Notes:
    """A text of notes.

    Attributes:
        name: of the file, or what to call them.
        lines: every line of the text as read, blank ones too.
        notes: the lines with a time, in order of time.
        clock_s: time of the first in s, by ``clock_basis``; None where only times since it stand.
    """

    name: str
    lines: tuple[ReadLine, ...]
    notes: tuple[Note, ...]
    clock_s: float | None = None
    clock_basis: ClockBasis | None = None
    doubts: tuple[Doubt, ...] = field(default=())

    @property
    def window(self) -> tuple[float, float] | None:
        """States of charge in % that the run went through, where a line says so."""
        return next((line.window for line in self.lines if line.window is not None), None)

    @property
    def is_bare(self) -> bool:
        """A result without times: one energy, and nothing of when."""
        times = {note.s for note in self.notes}
        return (
            len(times) == 1
            and not any(note.limit_s for note in self.notes)
            and not any(note.event for note in self.notes)
            and len(self.values(NoteQuantity.ENERGY)) == 1
        )

    def values(self, quantity: NoteQuantity) -> list[tuple[Note, NotedValue]]:
        """All values of a quantity in order of time, with their notes."""
        return [
            (note, value)
            for note in self.notes
            for value in note.line.values
            if value.quantity is quantity
        ]

    def first(self, event: Event) -> Note | None:
        """The first line that tells of an event."""
        return next((note for note in self.notes if note.event is event), None)


def read_notes(text: str, name: str = "the notes") -> Notes:
    """Every line of a text as far as it is understood.

    Raises:
        UnusableDataError: it is longer than a person would write, or no line of it has a time.
    """
    if len(text) > LONGEST_TEXT:
        raise UnusableDataError(f"{name} is longer than {LONGEST_TEXT // 1000} thousand characters")
    lines = read_lines(text)
    notes, doubts, first = _placed(lines)
    if not notes:
        notes, doubts = _bare(lines), []
    if not notes:
        raise UnusableDataError(
            f"{name}: no line has a time; begin each with one, such as 10:32 401 Wh"
        )
    clock_s, basis = _clock(first)
    return Notes(
        name=name, lines=tuple(lines), notes=tuple(notes), clock_s=clock_s, clock_basis=basis,
        doubts=tuple(doubts),
    )  # fmt: skip


def _bare(lines: list[ReadLine]) -> list[Note]:
    """A result without times, such as "1830 of 2048 Wh at 410 W"; nothing where it is none."""
    with_energy = [line for line in lines if line.value(NoteQuantity.ENERGY) is not None]
    if len(with_energy) != 1:
        return []
    values = tuple(value for line in lines for value in line.values)
    words = ", ".join(line.words for line in lines if line.words)
    # "at 8 A on 13.5 V" switches nothing on.
    whole = replace(with_energy[0], values=values, words=words, event=None)
    return [Note(s=0.0, limit_s=0.0, line=whole)]


def read_lines(text: str) -> list[ReadLine]:
    """Each line by itself, in the decimal sign and under the header of the whole text."""
    decimal = decimal_of(_COMMENT.sub("", text).splitlines())
    found: list[ReadLine] = []
    header: tuple[tuple[NoteQuantity | None, float], ...] = ()
    for number, line in enumerate(text.lstrip("\ufeff").splitlines(), start=1):
        named = _header(line)
        if named and not header:
            header = named
            found.append(ReadLine(number=number, text=line))
            continue
        found.append(read_line(line, number, decimal, header))
    return _with_bare_energies(found, decimal)


def _header(line: str) -> tuple[tuple[NoteQuantity | None, float], ...]:
    """Names of columns, where a line holds nothing else; at least two."""
    names = re.sub(r"[()\[\]/,;|]", " ", line.lower()).split()
    if len(names) < 2 or any(name not in WORDS_OF_HEADER for name in names):
        return ()
    return tuple((WORDS_OF_HEADER[n], 1000.0 if n in KILO_HEADERS else 1.0) for n in names)


def _with_bare_energies(lines: list[ReadLine], decimal: Decimal) -> list[ReadLine]:
    """Lines of a time and one bare figure that rises from line to line: a counter's, in Wh."""
    bare = [
        line
        for line in lines
        if line.time and len(line.unread) == 1 and line.unread[0].why == "no unit"
        and line.value(NoteQuantity.ENERGY) is None
    ]  # fmt: skip
    if not bare:
        return lines
    assumed = {line.number: with_assumed_energy(line, decimal) for line in bare}
    known = [
        value.value
        for line in lines
        if (value := assumed.get(line.number, line).value(NoteQuantity.ENERGY)) is not None
    ]
    rises = len(known) > 1 and known == sorted(known) and known[-1] > known[0]
    return [assumed.get(line.number, line) for line in lines] if rises else lines


def _placed(lines: list[ReadLine]) -> tuple[list[Note], list[Doubt], LineTime | None]:
    """The lines with a time, in its order, s from the first; one without joins the one before."""
    notes: list[Note] = []
    doubts = [
        Doubt(line=line.number, message=value.is_assumed)
        for line in lines
        for value in line.values
        if value.is_assumed
    ]
    first: LineTime | None = None
    latest_s = start_s = 0.0
    dated = any(line.time and line.time.day for line in lines)
    for line in lines:
        if line.ran_s is not None:
            notes += _ran(line, latest_s - start_s if notes else 0.0)
            latest_s = start_s + notes[-1].s
            continue
        if line.time is None:
            doubts += _join(notes, line)
            continue
        time = line.time
        if first is None and not time.since_start:
            first = time
            start_s = latest_s = moment_s(time) if dated and time.day else time.seconds
            if notes:  # what came before counted from a start that has no clock
                start_s -= notes[-1].s
        at_s, doubt = _at_s(time, start_s, latest_s, dated=dated, has_first=bool(notes))
        if doubt:
            doubts.append(Doubt(line=line.number, message=doubt[0], meant=doubt[1]))
        if time.doubt:
            doubts.append(Doubt(line=line.number, message=time.doubt))
        latest_s = max(latest_s, at_s)
        limit_s = time.limit_s if line.within_s is None else line.within_s
        notes.append(Note(s=at_s - start_s, limit_s=limit_s, line=line))
    notes.sort(key=lambda note: note.s)
    return [replace(note, s=note.s - notes[0].s) for note in notes], doubts, first


def _at_s(
    time: LineTime, start_s: float, latest_s: float, *, dated: bool, has_first: bool
) -> tuple[float, tuple[str, str] | None]:
    """The time of a line on the axis of the first; past midnight goes on."""
    if time.since_start:
        return start_s + time.seconds, None
    if time.day is not None:
        return moment_s(time), None
    at_s = time.seconds
    if dated or has_first:
        at_s += DAY_S * ((latest_s - at_s) // DAY_S)
        while at_s < latest_s - _OUT_OF_ORDER_S:
            at_s += DAY_S
    if at_s < latest_s:
        return at_s, ("earlier than the line before", "")
    gone_s = at_s - latest_s
    if not time.half_known and gone_s > _LONG_S and gone_s > _HALF_DAY_S and has_first:
        hours, minutes = divmod(round((time.seconds + _HALF_DAY_S) / 60), 60)
        sooner = f"{hours % 24}:{minutes:02d}"
        return at_s, (f"{gone_s / 3600:.1f} h after the line before: or was it {sooner}?", sooner)
    return at_s, None


def _ran(line: ReadLine, from_s: float) -> Iterator[Note]:
    """A line "ran 30 min at 500 W" as the beginning and the end of a run."""
    assert line.ran_s is not None
    watts = tuple(v for v in line.values if v.quantity is not NoteQuantity.ENERGY)
    begin = ReadLine(
        number=line.number, text=line.text, values=watts, event=Event.ON, words=line.words
    )
    end = ReadLine(number=line.number, text=line.text, values=line.values, event=Event.OFF)
    yield Note(s=from_s, limit_s=0.5, line=begin)
    yield Note(s=from_s + line.ran_s, limit_s=0.5, line=end)


def _join(notes: list[Note], line: ReadLine) -> list[Doubt]:
    """A line without a time continues the one before where it says something else."""
    if not (line.values or line.event):
        return []
    if not notes:
        return [Doubt(line=line.number, message="no time, and none before it: not used")]
    before = notes[-1].line
    known = {value.quantity for value in before.values}
    if any(value.quantity in known for value in line.values):
        return [Doubt(line=line.number, message="no time: not used")]
    joined = ReadLine(
        number=before.number, text=before.text, time=before.time, ran_s=before.ran_s,
        values=(*before.values, *line.values), event=before.event or line.event,
        words=", ".join(word for word in (before.words, line.words) if word),
        unread=before.unread,
    )  # fmt: skip
    notes[-1] = Note(s=notes[-1].s, limit_s=notes[-1].limit_s, line=joined)
    return [Doubt(line=line.number, message="no time: taken with the line before")]


def _clock(first: LineTime | None) -> tuple[float | None, ClockBasis | None]:
    if first is None:
        return None, None
    if first.day is None:
        return first.seconds, ClockBasis.TIME_OF_DAY
    basis = ClockBasis.LOCAL if first.zone_s is None else ClockBasis.UTC
    return moment_s(first), basis
