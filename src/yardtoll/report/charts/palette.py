"""The colours of energies and words on paper; the window's day theme uses the same.

Any two energy colours are at least 17 apart in CAM02-UCS under normal, deutan, protan and tritan
sight. Change them by measuring.
"""

from dataclasses import dataclass

from yardtoll.core.electrical.energy_kind import EnergyKind

PAPER, INK, MUTED, LINE, ACCENT = "#F7F4EC", "#1C2321", "#5B635F", "#D8D1C0", "#A6460B"
RAISED, SUNK = "#FFFDF8", "#EEE8DA"
GOOD, BAD, UNSURE, GOOD_GROUND = "#0F6B4F", "#B3261E", "#7A5A00", "#CFE5DA"
ENERGY = {
    EnergyKind.WALL: "#0C4498",
    EnergyKind.SUN: "#E9BF0A",
    EnergyKind.STORED: "#2D7F91",
    EnergyKind.DELIVERED: "#15B873",
    EnergyKind.OVERHEAD: "#C382E5",
    EnergyKind.CONVERSION: "#CB4E1A",
    EnergyKind.FLOOR: "#4E3822",
    EnergyKind.UNACCOUNTED: "#C5C1C0",
}
ON_ENERGY = {
    EnergyKind.WALL: "#FFFFFF",
    EnergyKind.SUN: "#1C2321",
    EnergyKind.STORED: "#FFFFFF",
    EnergyKind.DELIVERED: "#0B1F17",
    EnergyKind.OVERHEAD: "#1C2321",
    EnergyKind.CONVERSION: "#FFFFFF",
    EnergyKind.FLOOR: "#FFFFFF",
    EnergyKind.UNACCOUNTED: "#1C2321",
}


@dataclass(frozen=True, kw_only=True)
class Palette:
    """What a chart is coloured by; #RRGGBB."""

    paper: str
    raised: str
    sunk: str
    ink: str
    muted: str
    line: str
    accent: str
    good: str
    bad: str
    unsure: str
    good_ground: str
    trace: str
    energy: dict[EnergyKind, str]
    on_energy: dict[EnergyKind, str]


ON_PAPER = Palette(
    paper=PAPER,
    raised=RAISED,
    sunk=SUNK,
    ink=INK,
    muted=MUTED,
    line=LINE,
    accent=ACCENT,
    good=GOOD,
    bad=BAD,
    unsure=UNSURE,
    good_ground=GOOD_GROUND,
    trace="#0E6B55",
    energy=ENERGY,
    on_energy=ON_ENERGY,
)
"""Of the sheet, and of the window by day."""
