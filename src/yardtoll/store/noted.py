"""A run read by eye as notes: its readings and marks, in the terms of the core."""

from collections.abc import Sequence

from yardtoll.core.electrical.trace import ClockBasis
from yardtoll.core.notes.events import Event
from yardtoll.core.notes.line import NotedValue, ReadLine
from yardtoll.core.notes.quantities import NoteQuantity
from yardtoll.core.notes.read import Note, Notes
from yardtoll.store.records import Mark, Reading, ReadingKind

ON, CUT_OFF, FOUND_OFF, CHARGED = "On", "Cut-off", "Found off", "Charged"
"""Words of the marks that begin and end a run."""
STAMP_S = 2.0
"""How far the time of a reading that was stamped as it was typed may be from its moment."""
QUANTITY_OF = {
    ReadingKind.METER_WH: NoteQuantity.ENERGY,
    ReadingKind.METER_W: NoteQuantity.POWER,
    ReadingKind.INPUT_W: NoteQuantity.INPUT,
    ReadingKind.DISPLAY_W: NoteQuantity.SHOWN,
    ReadingKind.SOC: NoteQuantity.SOC,
    ReadingKind.TIME_LEFT: NoteQuantity.LEFT,
    ReadingKind.VOLTS: NoteQuantity.VOLTS,
    ReadingKind.AMPS: NoteQuantity.AMPS,
    ReadingKind.HERTZ: NoteQuantity.HERTZ,
    ReadingKind.POWER_FACTOR: NoteQuantity.POWER_FACTOR,
    ReadingKind.TEMPERATURE: NoteQuantity.CELSIUS,
    ReadingKind.SOUND: NoteQuantity.DECIBEL,
    ReadingKind.IRRADIANCE: NoteQuantity.IRRADIANCE,
}
"""What each kind of reading is called in notes."""
KIND_OF = {quantity: kind for kind, quantity in QUANTITY_OF.items()}
NOTED_KINDS = frozenset(kind.value for kind in QUANTITY_OF)
"""Kinds of readings that notes can hold."""
_USUAL_STEP = {NoteQuantity.LEFT: 60.0, NoteQuantity.POWER_FACTOR: 0.01}


def notes_of(
    name: str, readings: Sequence[Reading], marks: Sequence[Mark], *, charges: bool
) -> Notes:
    """The readings and marks of a run, s from its start, a note for each moment.

    Args:
        charges: of a recharge, in which a display shows the watts that come in.
    """
    moments: dict[float, list[Reading | Mark]] = {}
    entries: tuple[Reading | Mark, ...] = (*readings, *marks)
    for entry in entries:
        moments.setdefault(entry.time_s, []).append(entry)
    notes = [_note(s, entries, charges=charges) for s, entries in sorted(moments.items())]
    return Notes(
        name=name,
        # All notes of one run count from its start.
        clock_s=0.0,
        clock_basis=ClockBasis.TIME_OF_DAY,
        lines=tuple(note.line for note in notes),
        notes=tuple(notes),
    )


def _note(s: float, entries: list[Reading | Mark], *, charges: bool) -> Note:
    values, words, event = [], [], None
    for entry in entries:
        if isinstance(entry, Mark):
            told = event_of_mark(entry)
            event = told or event
            if told is None:
                words.append(entry.word)
            continue
        quantity = QUANTITY_OF.get(ReadingKind(entry.kind))
        if charges and quantity is NoteQuantity.INPUT:
            quantity = NoteQuantity.SHOWN
        if quantity is not None:
            values.append(value_of(entry, quantity))
    stated = [entry.within_s for entry in entries if entry.within_s is not None]
    line = ReadLine(number=0, text="", values=tuple(values), event=event, words=", ".join(words))
    return Note(s=s, limit_s=max(stated, default=STAMP_S), line=line)


def records_of(
    notes: Notes, run_id: int, *, charges: bool, from_s: float = 0.0, subject: str = ""
) -> list[Reading | Mark]:
    """The readings and marks of a run that notes tell of.

    Args:
        charges: of a recharge: its watts are those that go in, by the meter or by the display.
        from_s: of the first note, s from the run's start.
        subject: of readings of a further meter.
    """
    found: list[Reading | Mark] = []
    for note in notes.notes:
        at_s, within_s = from_s + note.s, note.limit_s
        for value in note.line.values:
            kind = _kind_of(value.quantity, charges=charges)
            found.append(
                Reading(
                    run_id=run_id, time_s=at_s, kind=kind.value, value=value.value,
                    step=value.step, within_s=within_s, subject=subject,
                )
            )  # fmt: skip
        if note.event is not None:
            found.append(mark_of(note.event, run_id, at_s, within_s, charges=charges))
        if note.line.words:
            found.append(Mark(run_id=run_id, time_s=at_s, word=note.line.words, within_s=within_s))
    return found


def _kind_of(quantity: NoteQuantity, *, charges: bool) -> ReadingKind:
    if charges and quantity is NoteQuantity.INPUT:
        return ReadingKind.METER_W
    if charges and quantity is NoteQuantity.SHOWN:
        return ReadingKind.INPUT_W
    return KIND_OF[quantity]


def mark_of(
    event: Event, run_id: int, at_s: float, within_s: float | None, *, charges: bool
) -> Mark:
    """An event as a mark of a run."""
    ends = event is not Event.ON
    seen = event is not Event.FOUND_OFF
    word = ON if not ends else FOUND_OFF if not seen else CHARGED if charges else CUT_OFF
    return Mark(
        run_id=run_id, time_s=at_s, word=word, ends_run=ends, seen=seen, starts_run=not ends,
        within_s=within_s,
    )  # fmt: skip


def event_of_mark(mark: Mark) -> Event | None:
    """What a mark says happened; None for words alone."""
    if mark.starts_run:
        return Event.ON
    if not mark.ends_run:
        return None
    if not mark.seen:
        return Event.FOUND_OFF
    return Event.OFF


def value_of(reading: Reading, quantity: NoteQuantity) -> NotedValue:
    """A reading as a noted value; one without digits was read as it is shown."""
    step = reading.step
    if step is None:
        _, _, decimals = f"{reading.value:g}".partition(".")
        step = _USUAL_STEP.get(quantity, 10.0 ** -len(decimals))
    return NotedValue(quantity=quantity, value=reading.value, step=step, start=0, end=0)
