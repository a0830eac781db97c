"""A run read by eye as notes: its readings and marks, in the terms of the core."""

from yardtoll.core.notes.events import Event
from yardtoll.core.notes.line import NotedValue, ReadLine
from yardtoll.core.notes.quantities import NoteQuantity
from yardtoll.core.notes.read import Note, Notes
from yardtoll.review.run_analysis import RunRecords
from yardtoll.store.records import Mark, Reading, ReadingKind

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
_USUAL_STEP = {NoteQuantity.LEFT: 60.0, NoteQuantity.POWER_FACTOR: 0.01}


def notes_of(records: RunRecords) -> Notes:
    """The readings and marks of a run, s from its start, a note for each moment."""
    moments: dict[float, list[Reading | Mark]] = {}
    entries: tuple[Reading | Mark, ...] = (*records.readings, *records.marks)
    for entry in entries:
        moments.setdefault(entry.time_s, []).append(entry)
    notes = [_note(s, entries) for s, entries in sorted(moments.items())]
    return Notes(
        name=f"run {records.run.number}",
        lines=tuple(note.line for note in notes),
        notes=tuple(notes),
    )


def _note(s: float, entries: list[Reading | Mark]) -> Note:
    values, words, event = [], [], None
    for entry in entries:
        if isinstance(entry, Mark):
            event = event_of_mark(entry) or event
            words.append(entry.word)
            continue
        quantity = QUANTITY_OF.get(ReadingKind(entry.kind))
        if quantity is not None:
            values.append(value_of(entry, quantity))
    stated = [entry.within_s for entry in entries if entry.within_s is not None]
    line = ReadLine(number=0, text="", values=tuple(values), event=event, words=", ".join(words))
    return Note(s=s, limit_s=max(stated, default=STAMP_S), line=line)


def event_of_mark(mark: Mark) -> Event | None:
    """What a mark says happened; None for words alone."""
    if mark.starts_run:
        return Event.ON
    if not mark.ends_run:
        return None
    return Event.OFF if mark.seen else Event.FOUND_OFF


def value_of(reading: Reading, quantity: NoteQuantity) -> NotedValue:
    """A reading as a noted value; one without digits was read as it is shown."""
    step = reading.step
    if step is None:
        _, _, decimals = f"{reading.value:g}".partition(".")
        step = _USUAL_STEP.get(quantity, 10.0 ** -len(decimals))
    return NotedValue(quantity=quantity, value=reading.value, step=step, start=0, end=0)
