"""What can be noted, and the units and words people write for it."""

import re
from dataclasses import dataclass
from enum import StrEnum


class NoteQuantity(StrEnum):
    """What a noted value is of, with its unit."""

    ENERGY = "energy_wh"
    POWER = "power_w"
    """Drawn by the load, or from the wall in a recharge."""
    INPUT = "input_w"
    """Going into the station."""
    SHOWN = "shown_w"
    """On the station's own display."""
    SOC = "soc_percent"
    LEFT = "left_s"
    VOLTS = "volts"
    AMPS = "amps"
    HERTZ = "hertz"
    POWER_FACTOR = "power_factor"
    CELSIUS = "celsius"
    DECIBEL = "decibel"
    IRRADIANCE = "irradiance_w_m2"


@dataclass(frozen=True)
class Unit:
    """A way of writing a unit: value × scale + offset is in the quantity's own."""

    quantity: NoteQuantity
    pattern: str
    scale: float = 1.0
    offset: float = 0.0
    usually_whole: bool = False


Q = NoteQuantity
UNITS = (
    Unit(
        Q.ENERGY,
        r"kWh|kW[ ·.*-]?h(?:ours?|rs?)?|kilowatt[ -]?hours?|kilowattstunden|кВт[·.*]?ч",
        1000.0,
    ),
    Unit(
        Q.ENERGY,
        r"Wh|W[·.*-]h|watt[ -]?hours?|watt[ -]?hrs?|wattstunden|wattheures?|vatios[ -]?hora"
        r"|Вт[·.*]?ч",
        usually_whole=True,
    ),
    Unit(Q.IRRADIANCE, r"W ?/ ?m(?:²|\^?2)", usually_whole=True),
    Unit(Q.POWER, r"kW|kilowatts?|кВт", 1000.0),
    Unit(Q.POWER, r"W|watts?|vatios?|Вт", usually_whole=True),
    Unit(Q.SOC, r"%|percent|per cent|pct|prozent|pour cent|por ciento|procent"),
    Unit(Q.VOLTS, r"V|volts?|voltios?|VAC|VDC|V ?AC|V ?DC|В"),
    Unit(Q.AMPS, r"mA", 0.001),
    Unit(Q.AMPS, r"A|amps?|amperes?|ampere|amperios?|А"),
    Unit(Q.HERTZ, r"Hz|hertz|Гц"),
    Unit(
        Q.CELSIUS,
        r"(?:°|º|deg\.? ?|degrees? ?|grad ?)F(?:ahrenheit)?|F|fahrenheit",
        1 / 1.8,
        -32 / 1.8,
    ),
    Unit(Q.CELSIUS, r"(?:°|º|deg\.? ?|degrees? ?|grad ?)C(?:elsius)?|C|celsius|grad|℃"),
    Unit(Q.DECIBEL, r"dB ?\(?A?\)?|decibels?"),
)  # fmt: skip
"""Longer ways of writing stand before those they begin with."""

SHOWS = (
    r"shows?|showing|displays?|disp|screen|lcd|says|station says|indicates|"
    r"zeigt|anzeige|affiche|écran|muestra|pantalla|toont|visar"
)
SHOWN_AFTER = r"shown|displayed|(?:on )?(?:the )?(?:display|disp|screen|lcd)|angezeigt|affichés?"
METER = r"meter|plug|measured|real|actual|zähler|messgerät|compteur|medidor|mätare"
LEFT = (
    r"left|remaining|remain|rem|to go|to empty|to full|until empty|until full|"
    r"übrig|verbleibend|rest(?:zeit)?|restantes?|restants?|quedan|kvar"
)
LEFT_BEFORE = (
    r"left|remaining|time left|time remaining|est(?:imate[ds]?)?|tte|noch|rest(?:zeit)?|reste"
    r"|quedan|promises"
)
INPUT = r"in|input|incoming|solar|pv|from (?:the )?(?:wall|panels?|sun)|wall|eingang|entrée|entrada"
POWER_FACTOR = r"pf|power factor|cos ?(?:φ|phi)|leistungsfaktor"

WORDS_OF_HEADER = {
    "time": None, "clock": None, "zeit": None, "uhrzeit": None, "heure": None, "hora": None,
    "when": None,
    "wh": Q.ENERGY, "kwh": Q.ENERGY, "energy": Q.ENERGY,
    "w": Q.POWER, "kw": Q.POWER, "watts": Q.POWER, "watt": Q.POWER, "load": Q.POWER,
    "power": Q.POWER,
    "%": Q.SOC, "soc": Q.SOC, "percent": Q.SOC, "charge": Q.SOC, "battery": Q.SOC,
    "v": Q.VOLTS, "volts": Q.VOLTS, "a": Q.AMPS, "amps": Q.AMPS, "hz": Q.HERTZ,
}  # fmt: skip
"""Names of columns where figures stand below each other without units; None for the time."""
KILO_HEADERS = ("kwh", "kw")


def _ended(pattern: str) -> str:
    """A unit that no further letter follows."""
    return rf"(?:{pattern})(?![A-Za-zÀ-ÿа-яА-Я])"


UNIT_PATTERNS = tuple(
    (unit, re.compile(r"\s*" + _ended(unit.pattern), re.IGNORECASE)) for unit in UNITS
)
