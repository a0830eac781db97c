"""What notes of a day in the sun say beside the energy: peak, shade, panels wired two ways."""

import re
from dataclasses import dataclass

from yardtoll.core.notes.quantities import NoteQuantity
from yardtoll.core.notes.read import Note, Notes

_SHADE_ON = re.compile(
    r"\bshad(?:e|ed|ing)\b(?! ?(?:off|gone|removed|away))|\bcovered\b", re.IGNORECASE
)
_SHADE_OFF = re.compile(r"\bshade ?(?:off|gone|removed|away)\b|\buncovered\b", re.IGNORECASE)
_WIRED = re.compile(r"\b(series|parallel)\b", re.IGNORECASE)


@dataclass(frozen=True, kw_only=True)
class Shade:
    """Shade noted on and off.

    Attributes:
        before_w, under_w, after_w: as noted next before, under and after it; None where not.
        seconds: from on to off; None where it was not seen to go.
    """

    start_s: float
    before_w: float | None
    under_w: float | None
    after_w: float | None
    seconds: float | None


@dataclass(frozen=True, kw_only=True)
class SunSeen:
    """What was seen.

    Attributes:
        peak_w: the highest watts noted; None without any.
        wired: highest W noted with the panels in "series" and in "parallel".
    """

    peak_w: float | None
    shades: tuple[Shade, ...]
    wired: dict[str, float]


def sun_seen(notes: Notes) -> SunSeen:
    """Go through the lines in order of time; a wiring stands until another is noted."""
    watts = [w for note in notes.notes if (w := _watts(note)) is not None]
    wired: dict[str, float] = {}
    wiring = ""
    for note in notes.notes:
        found = _WIRED.search(note.line.words)
        wiring = found[1].lower() if found else wiring
        if wiring and (w := _watts(note)) is not None:
            wired[wiring] = max(wired.get(wiring, 0.0), w)
    return SunSeen(peak_w=max(watts, default=None), shades=tuple(_shades(notes)), wired=wired)


def _shades(notes: Notes) -> list[Shade]:
    found: list[Shade] = []
    before: float | None = None
    begun: Note | None = None
    under: float | None = None
    for note in notes.notes:
        text, w = note.line.words, _watts(note)
        if _SHADE_OFF.search(text) and begun is not None:
            after = w if w is not None else _next_watts(notes, note)
            seconds = note.s - begun.s
            found.append(
                Shade(
                    start_s=begun.s, before_w=before, under_w=under, after_w=after, seconds=seconds
                )
            )
            begun, before = None, after
        elif _SHADE_ON.search(text) and begun is None:
            begun, under = note, w
        elif w is not None:
            if begun is None:
                before = w
            elif under is None:
                under = w
    if begun is not None:
        found.append(
            Shade(start_s=begun.s, before_w=before, under_w=under, after_w=None, seconds=None)
        )
    return found


def _watts(note: Note) -> float | None:
    watts = note.value(NoteQuantity.POWER)
    return watts if watts is not None else note.value(NoteQuantity.INPUT)


def _next_watts(notes: Notes, after: Note) -> float | None:
    later = (_watts(note) for note in notes.notes if note.s > after.s)
    return next((w for w in later if w is not None), None)
