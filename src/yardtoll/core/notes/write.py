"""Notes as text again, in one plain way of writing that reads back the same."""

import math

import numpy as np

from yardtoll.core.electrical.trace import ClockBasis
from yardtoll.core.notes.line import NotedValue, read_line
from yardtoll.core.notes.quantities import NoteQuantity
from yardtoll.core.notes.read import Note, Notes
from yardtoll.core.notes.times import DAY_S, MINUTE_S

CLOCK_STAMP_S = 2.0
"""± of a time with seconds, as it is read."""
_WRITTEN = {
    NoteQuantity.ENERGY: "{} Wh",
    NoteQuantity.POWER: "{} W",
    NoteQuantity.INPUT: "{} W in",
    NoteQuantity.SHOWN: "{} W shown",
    NoteQuantity.SOC: "{} %",
    NoteQuantity.VOLTS: "{} V",
    NoteQuantity.AMPS: "{} A",
    NoteQuantity.HERTZ: "{} Hz",
    NoteQuantity.POWER_FACTOR: "pf {}",
    NoteQuantity.CELSIUS: "{} C",
    NoteQuantity.DECIBEL: "{} dB",
    NoteQuantity.IRRADIANCE: "{} W/m²",
}


def write_notes(notes: Notes) -> str:
    """A line for each note, in order of time."""
    return "".join(f"{write_note(note, notes)}\n" for note in notes.notes)


def write_note(note: Note, notes: Notes) -> str:
    """One line: time, event, values, words."""
    said = [_time(note, notes)]
    if note.event is not None:
        said.append(note.event.value)
    said += [write_value(value) for value in note.line.values]
    if note.limit_s not in (0.0, CLOCK_STAMP_S, MINUTE_S / 2):
        said.append(f"± {note.limit_s:.0f} s")
    if note.line.words:
        said.append(_words(note.line.words, alone=len(said) == 1))
    return " ".join(said).replace(" ,", ",")


def _words(words: str, *, alone: bool) -> str:
    """A mark as it can be read again: in quotation marks where it would be read as something."""
    plain = read_line(f"10:00 0 Wh, {words}")
    if plain.words == words and not plain.unread and len(plain.values) == 1 and not plain.event:
        return words if alone else f", {words}"
    return '"{}"'.format(words.replace('"', "'"))


def write_value(value: NotedValue) -> str:
    """Like "401 Wh", "3.7 h left", with as many digits as were read."""
    if value.quantity is NoteQuantity.LEFT:
        minutes = value.value / MINUTE_S
        if value.step >= MINUTE_S and abs(minutes - round(minutes)) < 1e-6 and value.step < 3600:
            whole, part = divmod(round(minutes), 60)
            if value.step == MINUTE_S:
                return f"{whole}:{part:02d} left"
        return f"{_digits(value.value / 3600, value.step / 3600)} h left"
    return _WRITTEN[value.quantity].format(_digits(value.value, value.step))


def _digits(value: float, step: float) -> str:
    decimals = max(0, round(-math.log10(step))) if step > 0 else 3
    return f"{value:.{min(decimals, 6)}f}"


def _time(note: Note, notes: Notes) -> str:
    with_seconds = note.limit_s < MINUTE_S / 2 or note.s % MINUTE_S != 0
    if notes.clock_s is None or notes.clock_basis is None:
        whole = round(note.s)
        text = f"+{whole // 3600}:{whole // 60 % 60:02d}"
        return f"{text}:{whole % 60:02d}" if with_seconds else text
    at_s = notes.clock_s + note.s
    if notes.clock_basis is ClockBasis.TIME_OF_DAY:
        whole = round(at_s % DAY_S)
        text = f"{whole // 3600:02d}:{whole // 60 % 60:02d}"
        return f"{text}:{whole % 60:02d}" if note.limit_s < MINUTE_S / 2 else text
    unit = "s" if note.limit_s < MINUTE_S / 2 else "m"
    moment = str(np.array([round(at_s)], "datetime64[s]").astype(f"datetime64[{unit}]")[0])
    zone = "Z" if notes.clock_basis is ClockBasis.UTC else ""
    return f"{moment.replace('T', ' ')}{zone}"
