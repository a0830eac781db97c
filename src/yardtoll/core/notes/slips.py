"""Slips of the pen in notes: what was probably meant, and the text that would say so."""

import re
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.notes.line import NotedValue, ReadLine
from yardtoll.core.notes.quantities import NoteQuantity
from yardtoll.core.notes.read import Note, Notes
from yardtoll.core.region import KG_PER_LB

Q = NoteQuantity
_KILO = 1000.0
_NEAR = (0.5, 2.0)
HOTTEST_C = 85.0
"""A station's case and the air about it are cooler (common practice, no source)."""
_OVER_RATED = 1.15
_TEN = (8.0, 12.5)
_LABEL = re.compile(r"\b(?:adapt[eo]r|charger|brick|label|nameplate|power supply)\b", re.IGNORECASE)
_ADDEND = re.compile(r"\d+(?:[.,]\d+)?")
_PAIR, _OWN_SHARE = 2, 0.05
"""A second addend so much smaller is no second meter on the load."""
_LEFT_OVER = 4.0
"""A display that promises so many times what the watts allow shows minutes."""


@dataclass(frozen=True, kw_only=True)
class Bench:
    """What notes are held against; None where it is not known.

    Attributes:
        rated_wh, rated_w: of the station, within the window.
        others_wh: final counter readings of the station's other runs.
        given_wh: what the discharge before a recharge gave.
        charges: it is a recharge.
    """

    rated_wh: float | None = None
    rated_w: float | None = None
    others_wh: tuple[float, ...] = ()
    charges: bool = False
    given_wh: float | None = None


@dataclass(frozen=True, kw_only=True)
class Slip:
    """Something that is probably not as it was meant.

    Attributes:
        line: 1-based.
        start, end: the part of the line.
        message: as a clause.
        instead: what would stand there; "" where only the writer knows.
    """

    line: int
    start: int
    end: int
    message: str
    instead: str = ""


def slips(notes: Notes, bench: Bench | None = None) -> list[Slip]:
    """Every slip that shows, in order of the lines, one a value."""
    bench = bench or Bench()
    found = [
        *_times(notes),
        *_energies(notes, bench),
        *_powers(notes, bench),
        *_temperatures(notes),
        *_currents(notes),
        *_labels(notes),
        *_times_left(notes, bench),
        *_start(notes),
        *_copied(notes, bench),
        *_gives_more(notes, bench),
        *_own_draw_added(notes),
    ]
    first = {(slip.line, slip.start): slip for slip in reversed(found)}
    return sorted(first.values(), key=lambda slip: (slip.line, slip.start))


_SAME_WEIGHT = 0.05


def weight_meant_kg(noted_kg: float, claimed_kg: float | None) -> float | None:
    """What a weight was meant to be if pounds were taken for kilograms, or the other way round.

    Only against a claim: None where the figure is near it, or far from it in either unit.
    """
    if not claimed_kg or noted_kg <= 0 or abs(noted_kg / claimed_kg - 1) <= 2 * _SAME_WEIGHT:
        return None
    for meant in (noted_kg * KG_PER_LB, noted_kg / KG_PER_LB):
        if abs(meant / claimed_kg - 1) <= _SAME_WEIGHT:
            return meant
    return None


def with_slip_mended(text: str, slip: Slip) -> str:
    """The whole text with what was probably meant."""
    lines = text.splitlines(keepends=True)
    line = lines[slip.line - 1]
    lines[slip.line - 1] = line[: slip.start] + slip.instead + line[slip.end :]
    return "".join(lines)


def _slip(line: ReadLine, value: NotedValue, message: str, instead: str = "") -> Slip:
    return Slip(
        line=line.number, start=value.start, end=value.end, message=message, instead=instead
    )


def _with_unit(line: ReadLine, value: NotedValue, old: str, new: str) -> str:
    """The part of the line with another unit; "" where it does not stand there as such."""
    part = line.text[value.start : value.end]
    made, count = re.subn(rf"{old}\b", new, part, count=1, flags=re.IGNORECASE)
    return made if count else ""


def _times(notes: Notes) -> Iterator[Slip]:
    by_number = {line.number: line for line in notes.lines}
    for doubt in notes.doubts:
        line = by_number[doubt.line]
        if doubt.meant and line.time is not None:
            yield Slip(
                line=line.number, start=line.time.start, end=line.time.end,
                message=doubt.message, instead=doubt.meant,
            )  # fmt: skip


def _watts(notes: Notes) -> float | None:
    seen = [v.value for _, v in notes.values(Q.POWER) if v.value > 2]
    return float(np.median(seen)) if seen else None


def _energies(notes: Notes, bench: Bench) -> Iterator[Slip]:
    """KWh written as Wh and the other way round, and watts written as Wh."""
    counted = notes.values(Q.ENERGY)
    watts = _watts(notes)
    for note, value in counted:
        if value.value <= 0:
            continue
        expected = _expected_wh(note, counted, notes, watts, bench)
        if expected is None or expected <= 0:
            continue
        for factor, old, new in ((_KILO, "Wh", "kWh"), (1 / _KILO, "kWh", "Wh")):
            near = _NEAR[0] <= value.value * factor / expected <= _NEAR[1]
            instead = _with_unit(note.line, value, old, new) if near else ""
            if instead:
                yield _slip(note.line, value, f"{_shown(value)} does not fit", instead)
    if len(counted) > 1 and watts is not None:
        values = np.array([value.value for _, value in counted])
        took_h = (counted[-1][0].s - counted[0][0].s) / SECONDS_PER_HOUR
        level = float(np.ptp(values)) < 0.1 * float(np.median(values))
        if level and took_h * watts > 0.5 * watts and 0.8 < float(np.median(values)) / watts < 1.25:
            for note, value in counted:
                instead = _with_unit(note.line, value, "Wh", "W")
                yield _slip(note.line, value, "a counter rises; these are watts", instead)


def _expected_wh(
    note: Note,
    counted: list[tuple[Note, NotedValue]],
    notes: Notes,
    watts: float | None,
    bench: Bench,
) -> float | None:
    """About what the counter should show there, by watts, its other values, or the rating."""
    since_h = (note.s - notes.notes[0].s) / SECONDS_PER_HOUR
    if watts is not None and since_h > 0:
        return watts * since_h
    others = [v.value / (n.s - notes.notes[0].s) for n, v in counted if n.s > 0 and n is not note]
    if len(others) > 1 and note.s > 0:
        return float(np.median(others)) * (note.s - notes.notes[0].s)
    is_last = note is counted[-1][0]
    return bench.rated_wh if is_last else None


def _powers(notes: Notes, bench: Bench) -> Iterator[Slip]:
    """KW written as W, and a load over the rating."""
    seen = notes.values(Q.POWER)
    usual = _watts(notes)
    for note, value in seen:
        if usual and value.value > 0 and _NEAR[0] < value.value * _KILO / usual < _NEAR[1]:
            instead = _with_unit(note.line, value, "W", "kW")
            if instead:
                yield _slip(note.line, value, f"{_shown(value)} beside {usual:g} W", instead)
        elif bench.rated_w and not bench.charges and value.value > _OVER_RATED * bench.rated_w:
            yield _slip(note.line, value, f"{_shown(value)} is over the rated {bench.rated_w:g} W")


def _temperatures(notes: Notes) -> Iterator[Slip]:
    for note, value in notes.values(Q.CELSIUS):
        if value.value > HOTTEST_C:
            instead = _with_unit(note.line, value, "C", "F")
            yield _slip(note.line, value, f"{value.value:.0f} °C is hot", instead)


def _currents(notes: Notes) -> Iterator[Slip]:
    """Amps ten times off what volts and watts say."""
    for note in notes.notes:
        amps, volts = note.line.value(Q.AMPS), note.line.value(Q.VOLTS)
        watts = note.value(Q.POWER) or note.value(Q.INPUT)
        if amps is None or volts is None or not watts or amps.value <= 0 or volts.value <= 0:
            continue
        ratio = watts / (amps.value * volts.value)
        needed = watts / volts.value
        if _TEN[0] <= ratio <= _TEN[1] or _TEN[0] <= 1 / ratio <= _TEN[1]:
            message = f"{watts:g} W at {volts.value:g} V needs {needed:.1f} A"
            yield _slip(note.line, amps, message, f"{needed:.1f} A")


def _labels(notes: Notes) -> Iterator[Slip]:
    """Volts and amps of an adapter's label, which say what it can give, not what it gave."""
    for note in notes.notes:
        amps, volts = note.line.value(Q.AMPS), note.line.value(Q.VOLTS)
        if amps is not None and volts is not None and _LABEL.search(note.line.text):
            yield _slip(note.line, amps, "an adapter's V × A is what it can give: measured?")


def _times_left(notes: Notes, bench: Bench) -> Iterator[Slip]:
    """Minutes written as hours: more hours than a full store lasts at the watts seen."""
    watts = _watts(notes)
    if not (watts and bench.rated_wh) or bench.charges:
        return
    for note, value in notes.values(Q.LEFT):
        if value.value > _LEFT_OVER * bench.rated_wh / watts * SECONDS_PER_HOUR:
            instead = _with_unit(note.line, value, r"(?:h|hours?|hrs?)", "min")
            yield _slip(note.line, value, "more hours than a full store lasts", instead)


def _start(notes: Notes) -> Iterator[Slip]:
    """A counter that was not zeroed."""
    counted = notes.values(Q.ENERGY)
    if len(counted) > 1 and counted[0][0] is notes.notes[0] and counted[0][1].value > 0:
        note, value = counted[0]
        watts = note.value(Q.POWER)
        if not watts:
            message = f"not zeroed: {_shown(value)} is taken off every later figure"
            yield _slip(note.line, value, message)


def _copied(notes: Notes, bench: Bench) -> Iterator[Slip]:
    """A final figure that is another run's to the last digit."""
    counted = notes.values(Q.ENERGY)
    if len(counted) < 1:
        return
    note, value = counted[-1]
    if value.step <= 1 and value.value > 0 and value.value in bench.others_wh:
        yield _slip(note.line, value, "just what another run gave: copied?")


def _own_draw_added(notes: Notes) -> Iterator[Slip]:
    """A meter's own watts added to its watt-hours: they are added by themselves, times hours."""
    for note, value in notes.values(Q.ENERGY):
        part = note.line.text[value.start : value.end]
        addends = [float(text.replace(",", ".")) for text in _ADDEND.findall(part)]
        if "+" not in part or len(addends) != _PAIR or min(addends) > _OWN_SHARE * max(addends):
            continue
        unit = re.search(r"k?Wh\s*$", part, re.IGNORECASE)
        instead = f"{max(addends):g} {unit[0].strip() if unit else 'Wh'}"
        yield _slip(note.line, value, "its own draw is added by itself, times hours", instead)


def _gives_more(notes: Notes, bench: Bench) -> Iterator[Slip]:
    """A recharge that took less than the discharge before it gave."""
    counted = notes.values(Q.ENERGY)
    if not bench.charges or bench.given_wh is None or len(counted) < 2:
        return
    note, value = counted[-1]
    if counted[0][1].value <= value.value < bench.given_wh:
        message = f"less than the {bench.given_wh:g} Wh that came out: another input, or window?"
        yield _slip(note.line, value, message)


def _shown(value: NotedValue) -> str:
    unit = {Q.ENERGY: "Wh", Q.POWER: "W"}.get(value.quantity, "")
    return f"{value.value:g} {unit}".strip()
