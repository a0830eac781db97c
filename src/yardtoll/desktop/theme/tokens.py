"""Design tokens: every colour and size of the program, day and night, in one place.

Energy colours are chosen so that any two are at least 17 apart in CAM02-UCS under normal, deutan,
protan and tritan sight; text on its ground reaches 4.5:1. tests/desktop/test_theme.py holds the
contrast. Change them by measuring.
"""

from dataclasses import dataclass, replace

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.report.charts.palette import ON_PAPER, Palette


@dataclass(frozen=True, kw_only=True)
class Tokens(Palette):
    """One theme: what charts are coloured by, and the rest of the window. Colours are #RRGGBB."""

    name: str
    on_accent: str
    strip: str
    strip_ink: str
    strip_muted: str
    strip_accent: str


DAY = Tokens(
    **vars(ON_PAPER),
    name="day",
    on_accent="#FFFDF8",
    strip="#1C2321",
    strip_ink="#F7F4EC",
    strip_muted="#A9B1AC",
    strip_accent="#F08A3C",
)

NIGHT = Tokens(
    name="night",
    paper="#171C1B",
    raised="#212827",
    sunk="#101413",
    ink="#ECE8DD",
    muted="#A3AAA4",
    line="#39423F",
    accent="#F08A3C",
    on_accent="#1B1206",
    strip="#0C100F",
    strip_ink="#ECE8DD",
    strip_muted="#A3AAA4",
    strip_accent="#F08A3C",
    good="#58C79D",
    bad="#FF8A7A",
    unsure="#E3BC55",
    good_ground="#1D4537",
    trace="#3FD0AE",
    energy={
        EnergyKind.WALL: "#2D7BC6",
        EnergyKind.SUN: "#AB6200",
        EnergyKind.STORED: "#AEDBFA",
        EnergyKind.DELIVERED: "#1DBCA8",
        EnergyKind.OVERHEAD: "#81617C",
        EnergyKind.CONVERSION: "#EA8758",
        EnergyKind.FLOOR: "#FDD49F",
        EnergyKind.UNACCOUNTED: "#F7F8F5",
    },
    on_energy={
        EnergyKind.WALL: "#03070B",
        EnergyKind.SUN: "#FFFFFF",
        EnergyKind.STORED: "#171C1B",
        EnergyKind.DELIVERED: "#0B1F17",
        EnergyKind.OVERHEAD: "#FFFFFF",
        EnergyKind.CONVERSION: "#171C1B",
        EnergyKind.FLOOR: "#171C1B",
        EnergyKind.UNACCOUNTED: "#171C1B",
    },
)

CONTRAST = replace(
    DAY,
    name="contrast",
    paper="#FFFFFF",
    raised="#FFFFFF",
    sunk="#EDEDED",
    ink="#000000",
    muted="#2B2B2B",
    line="#5A5A5A",
    accent="#7A2E00",
    on_accent="#FFFFFF",
    strip="#000000",
    strip_ink="#FFFFFF",
    strip_muted="#E6E6E6",
    strip_accent="#FFB067",
    good="#00532F",
    bad="#8F0F0F",
    unsure="#5C3D00",
)
"""Day with nothing pale: text and edges reach 7:1 (WCAG 2.2, 1.4.6)."""

THEMES = {theme.name: theme for theme in (DAY, NIGHT, CONTRAST)}

# Sizes in device-independent pixels.
RAIL_W = 122
HEADER_H = 60
STRIP_H = 44
MARGIN = 28
GAP = 12
RADIUS = 3
TEXT_PX = 15
SMALL_PX = 13
TITLE_PX = 24
HEADING_PX = 15
