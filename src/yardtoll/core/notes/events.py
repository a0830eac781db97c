"""The words of a line that say what happened: on, off, found off, full."""

import re
from enum import StrEnum


class Event(StrEnum):
    """What a line says happened at its time."""

    ON = "on"
    OFF = "off"
    FOUND_OFF = "found off"
    """It had ended some time before."""
    FULL = "full"


_WHAT = r"(?:load |charging |charge |outlet |output |inverter |ac |it |station )?"
_ITSELF = r"(?: by itself| on its own| itself| suddenly| now| von selbst)?"
_WORDS: tuple[tuple[Event, str], ...] = (
    (
        Event.FOUND_OFF,
        r"found (?:it |the \w+ )?(?:off|dead|dark|out|empty|switched off|shut (?:off|down))\b.*"
        r"|(?:was|is) already (?:off|dead|dark)|already (?:off|dead|dark)"
        r"|(?:was|been) (?:off|dead)(?: already)?|(?:off|dead|dark) (?:already|when .*)"
        r"|(?:war )?schon aus|(?:war )?aus vorgefunden|trouvé éteint|encontrad[oa] apagad[oa]"
        r"|uit gevonden",
    ),
    (
        Event.OFF,
        rf"(?:{_WHAT}(?:off|ended|ends?|died|dies|dead|shuts? ?off|shut ?down|cut ?off|went off"
        r"|went dark|stopped)|(?:switched|turned|powered) (?:itself )?off|cut-off|shut-off"
        rf"|aus|abgeschaltet|ausgegangen|éteint|apagado|uit){_ITSELF}",
    ),
    (
        Event.ON,
        rf"{_WHAT}(?:on|started|starts?|begins?|begun)|(?:switched|turned|powered) (?:it )?on"
        r"|plugged in|(?:begin|start) charging|charging"
        r"|ein|an|eingeschaltet|startet|gestartet|allumé|marche|encendido|aan",
    ),
    (Event.FULL, r"full|done|charged|fully charged|fertig|voll|plein|lleno|vol"),
)
_EVENTS = tuple((event, re.compile(pattern)) for event, pattern in _WORDS)


def plain_words(part: str) -> str:
    """A part of a line in lower case, without marks and joining words at its ends."""
    words = re.sub(r"[^\w\s'-]", " ", part.casefold()).strip(" -")
    words = re.sub(r"\b(?:at|um|at about|around|and)\s*$|^\s*(?:at|um|and|then)\b", " ", words)
    return " ".join(words.split())


def event_of(plain: str) -> Event | None:
    """What such words say happened; None for all others, which are a mark."""
    return next((event for event, pattern in _EVENTS if pattern.fullmatch(plain)), None)
