"""How each limit of a solar input is named, coloured and hatched, on paper and in the window.

A pattern goes with every colour, so that colour is never alone.
"""

from enum import Enum

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.sun.limits import Limit


class Hatch(Enum):
    """Lines over a colour."""

    NONE = "none"
    RISING = "rising"
    LEVEL = "level"
    UPRIGHT = "upright"
    CROSSED = "crossed"


LIMIT_NAMES = {
    Limit.SUN: "Sun",
    Limit.ARRAY: "Array",
    Limit.CAP: "Station's cap",
    Limit.FULL: "Battery nearly full",
    Limit.SHADE: "Shade",
}
LIMIT_LOOK: dict[Limit, tuple[EnergyKind, Hatch]] = {
    Limit.SUN: (EnergyKind.SUN, Hatch.NONE),
    Limit.ARRAY: (EnergyKind.CONVERSION, Hatch.RISING),
    Limit.CAP: (EnergyKind.STORED, Hatch.LEVEL),
    Limit.FULL: (EnergyKind.DELIVERED, Hatch.UPRIGHT),
    Limit.SHADE: (EnergyKind.FLOOR, Hatch.CROSSED),
}
