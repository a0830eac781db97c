"""A load carried, as noted by hand: each line's watts stand until the next line."""

import re

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.notes.events import Event
from yardtoll.core.notes.quantities import NoteQuantity
from yardtoll.core.notes.read import Notes
from yardtoll.core.output.hold import StepEnd

_STEP_S, _MOST = 1.0, 200_000
_THEN_S = 60.0
_TRIPPED = re.compile(r"\btrip|\boverload|\büberlast|\bsurcharge\b", re.IGNORECASE)
_BY_HAND = re.compile(r"\bby hand\b|\bi (?:switched|turned)\b|\bstopped by me\b", re.IGNORECASE)


def held_trace(notes: Notes) -> tuple[Trace, StepEnd | None]:
    """A reading a second, and what the notes say ended it.

    Raises:
        UnusableDataError: no line has watts, or there is one moment alone.
    """
    noted = notes.values(NoteQuantity.POWER)
    if not noted:
        raise UnusableDataError(f"{notes.name} has no line with watts")
    ended, end_s = _end(notes)
    last_s = max(notes.notes[-1].s, end_s or 0.0)
    if not last_s > noted[0][0].s:
        raise UnusableDataError(f"{notes.name} has no time between its first line and its last")
    step_s = max(_STEP_S, last_s / _MOST)
    time_s = np.arange(0.0, last_s + 2.5 * step_s, step_s)
    power = np.zeros(time_s.size)
    for note, value in noted:
        power[time_s >= note.s] = value.value
    power[time_s >= (end_s if end_s is not None else last_s + 3 * step_s)] = 0.0
    columns = {Quantity.POWER: power}
    volts = notes.values(NoteQuantity.VOLTS)
    if volts:
        columns[Quantity.VOLTS] = np.full(time_s.size, np.nan)
        for note, value in volts:
            columns[Quantity.VOLTS][time_s >= note.s] = value.value
    kept = time_s <= (end_s + 2 * step_s if end_s is not None else last_s)
    columns = {quantity: values[kept] for quantity, values in columns.items()}
    return Trace(name=notes.name, time_s=time_s[kept], columns=columns), ended


def _end(notes: Notes) -> tuple[StepEnd | None, float | None]:
    """What ended it and when: a line that says it tripped, or that it was off."""
    for note in notes.notes:
        if note.event is not Event.ON and _TRIPPED.search(note.line.words):
            return StepEnd.TRIP, note.s
    off = notes.first(Event.OFF)
    if off is None:
        return None, None
    then = (note.line.words for note in notes.notes if abs(note.s - off.s) <= _THEN_S)
    return (StepEnd.HAND if any(map(_BY_HAND.search, then)) else None), off.s
