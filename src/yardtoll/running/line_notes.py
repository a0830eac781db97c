"""A line of notes typed while a run goes."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.notes.line import read_line
from yardtoll.core.notes.read import Note, Notes
from yardtoll.core.notes.slips import Bench, Slip, slips
from yardtoll.core.notes.times import DAY_S, LineTime
from yardtoll.store.noted import STAMP_S, notes_of, records_of
from yardtoll.store.records import Mark, Reading
from yardtoll.store.site_time import now


def entries_of_line(
    text: str, run_id: int, *, charges: bool, at_s: float, ago_s: Callable[[float], float]
) -> list[Reading | Mark]:
    """The readings and marks that a line tells of.

    Args:
        at_s: the moment of a line without a time of its own, s from the run's start.
        ago_s: s from the run's start of a moment so many s ago.

    Raises:
        UnusableDataError: a part of it is not understood, or it says nothing.
    """
    line = read_line(text)
    if line.unread:
        part = line.unread[0]
        said = text[part.start : part.end].strip()
        raise UnusableDataError(f"“{said}” is not understood: {part.why}")
    if not (line.values or line.event or line.words):
        raise UnusableDataError("there is nothing to note in it")
    within_s = line.within_s
    if line.time is not None:
        at_s = _passed_s(line.time, ago_s)
        within_s = line.time.limit_s if within_s is None else within_s
    note = Note(s=at_s, limit_s=within_s or STAMP_S, line=line)
    notes = Notes(name="", lines=(line,), notes=(note,))
    made = records_of(notes, run_id, charges=charges)
    return [replace(record, within_s=within_s) for record in made]


def slip_of_line(
    text: str, at_s: float, readings: Sequence[Reading], marks: Sequence[Mark], bench: Bench
) -> Slip | None:
    """What is probably a slip in a line typed at a moment, beside what was noted before it."""
    before = notes_of("", readings, marks, charges=bench.charges)
    line = read_line(text, number=1)
    note = Note(s=max([at_s, *(n.s for n in before.notes)]), limit_s=STAMP_S, line=line)
    notes = replace(before, lines=(*before.lines, line), notes=(*before.notes, note))
    return next((slip for slip in slips(notes, bench) if slip.line == line.number), None)


def _passed_s(time: LineTime, ago_s: Callable[[float], float]) -> float:
    """S from the run's start of a time that has passed: of the clock, or since the start."""
    if time.since_start:
        return time.seconds
    here = now()
    midnight = here.replace(hour=0, minute=0, second=0, microsecond=0)
    return ago_s(((here - midnight).total_seconds() - time.seconds) % DAY_S)
