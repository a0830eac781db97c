"""The colours of energies and words on paper; the window's day theme uses the same.

Any two energy colours are at least 17 apart in CAM02-UCS under normal, deutan, protan and tritan
sight. Change them by measuring.
"""

from yardtoll.core.ledger.ledger import Kind

PAPER, INK, MUTED, LINE, ACCENT = "#F7F4EC", "#1C2321", "#5B635F", "#D8D1C0", "#A6460B"
RAISED, SUNK = "#FFFDF8", "#EEE8DA"
GOOD, BAD, UNSURE, GOOD_GROUND = "#0F6B4F", "#B3261E", "#7A5A00", "#CFE5DA"
ENERGY = {
    Kind.WALL: "#0C4498",
    Kind.SUN: "#E9BF0A",
    Kind.STORED: "#2D7F91",
    Kind.DELIVERED: "#15B873",
    Kind.OVERHEAD: "#C382E5",
    Kind.CONVERSION: "#CB4E1A",
    Kind.FLOOR: "#4E3822",
    Kind.UNACCOUNTED: "#C5C1C0",
}
ON_ENERGY = {
    Kind.WALL: "#FFFFFF",
    Kind.SUN: "#1C2321",
    Kind.STORED: "#FFFFFF",
    Kind.DELIVERED: "#0B1F17",
    Kind.OVERHEAD: "#1C2321",
    Kind.CONVERSION: "#FFFFFF",
    Kind.FLOOR: "#FFFFFF",
    Kind.UNACCOUNTED: "#1C2321",
}
