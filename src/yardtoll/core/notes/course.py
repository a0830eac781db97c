"""When a noted run began and ended, and what was read of its energy and power."""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.load_span import load_limit_w
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.notes.events import Event
from yardtoll.core.notes.quantities import NoteQuantity
from yardtoll.core.notes.read import Note, Notes

LEAST_STAMP_S = 2.0
"""How far a typed time may be from the moment the figure was read."""
_LATE_SHARE = 4 / 3
"""A person looks at the clock some seconds after the meter: ±40 s for a time to the minute."""


@dataclass(frozen=True, kw_only=True)
class Series:
    """Values of one quantity: (n,) s from the first line, (n,) values, (n,) steps of digits."""

    s: FloatArray
    values: FloatArray
    steps: FloatArray

    @property
    def size(self) -> int:
        """How many."""
        return int(self.s.size)

    def within(self, start_s: float, end_s: float) -> "Series":
        """Those between two times, both included."""
        inside = (self.s >= start_s) & (self.s <= end_s)
        return Series(s=self.s[inside], values=self.values[inside], steps=self.steps[inside])


@dataclass(frozen=True, kw_only=True)
class Course:
    """Beginning and end of a noted run, s from the first line.

    Attributes:
        start_s, start_limit_s: load or charging on, and ± of it.
        starts_loaded: no line tells of the beginning, and the first shows power.
        last_seen_s: the last line that saw it running.
        seen_before_s: the one before that.
        off_s: when its end was seen; None where it was not.
        found_s: when it was found off; None where the end was seen, or no line tells of one.
        off_limit_s: ± of ``off_s`` or ``found_s``.
    """

    start_s: float
    start_limit_s: float
    starts_loaded: bool
    last_seen_s: float
    seen_before_s: float
    off_s: float | None
    found_s: float | None
    off_limit_s: float

    @property
    def is_open(self) -> bool:
        """No line tells of an end."""
        return self.off_s is None and self.found_s is None


def series_of(notes: Notes, *quantities: NoteQuantity) -> Series:
    """All values of some quantities, in order of time."""
    found = sorted(
        (note.s, value.value, value.step)
        for quantity in quantities
        for note, value in notes.values(quantity)
    )
    columns = np.array(found, dtype=float).reshape(-1, 3).T
    return Series(s=columns[0], values=columns[1], steps=columns[2])


def course_of(notes: Notes, power: Series, *, ends_full: bool = False) -> Course:
    """Beginning and end by the words, else by the first and last lines that saw it running.

    Args:
        power: its watts as noted.
        ends_full: "full" is the end of it, as of a recharge.

    Raises:
        UnusableDataError: nothing was noted.
    """
    if not notes.notes:
        raise UnusableDataError(f"{notes.name}: nothing was noted")
    limit_w = load_limit_w(power.values) if power.size else 0.0
    ends = {Event.OFF, Event.FULL} if ends_full else {Event.OFF}
    on = notes.first(Event.ON)
    start = on or next((n for n in notes.notes if _runs(n, limit_w)), notes.notes[0])
    after = [n for n in notes.notes if n.s >= start.s and n is not on]
    sure = [n for n in after if n.event is Event.ON or _draws(n, limit_w)]
    sure_s = sure[-1].s if sure else start.s
    # What a counter shows after the end was read from it later, and is no sign of a run.
    told = next((n for n in after if n.s >= sure_s and _ends(n, ends)), None)
    if told is None:  # a line without watts tells of an end only where no other does
        told = next((n for n in after if n.s >= sure_s and _is_dark(n)), None)
    running = [n for n in after if (told is None or n.s < told.s) and _runs(n, limit_w)]
    last_seen = running[-1] if running else start
    end = told if told is not None and told.event in ends else None
    found = told if end is None else None
    first_w = start.value(NoteQuantity.POWER)
    return Course(
        start_s=start.s,
        start_limit_s=_stamp_s(start),
        starts_loaded=on is None and bool(first_w and first_w > limit_w) and not _zeroed(start),
        last_seen_s=last_seen.s,
        seen_before_s=running[-2].s if len(running) > 1 else start.s,
        off_s=None if end is None else end.s,
        found_s=None if found is None else found.s,
        off_limit_s=_stamp_s(told or last_seen),
    )


def _stamp_s(note: Note) -> float:
    return max(_LATE_SHARE * note.limit_s, LEAST_STAMP_S)


def _ends(note: Note, ends: set[Event]) -> bool:
    return note.event in ends or note.event is Event.FOUND_OFF


def _draws(note: Note, limit_w: float) -> bool:
    """Whether a line that does not tell of an end shows watts."""
    watts = note.value(NoteQuantity.POWER)
    watts = note.value(NoteQuantity.INPUT) if watts is None else watts
    over = (Event.OFF, Event.FOUND_OFF, Event.FULL)
    return watts is not None and watts > limit_w and note.event not in over


def _runs(note: Note, limit_w: float) -> bool:
    """Whether a line saw it running: watts above the limit, or any other value without watts."""
    watts = note.value(NoteQuantity.POWER)
    watts = note.value(NoteQuantity.INPUT) if watts is None else watts
    if watts is not None:
        return watts > limit_w
    return bool(note.line.values) and note.event is not Event.FOUND_OFF


def _is_dark(note: Note) -> bool:
    """A line that reads no watts: it had ended before."""
    watts = note.value(NoteQuantity.POWER)
    return watts is not None and watts <= 0


def _zeroed(note: Note) -> bool:
    return note.value(NoteQuantity.ENERGY) == 0
