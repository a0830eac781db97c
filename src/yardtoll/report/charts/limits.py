"""How each limit of a solar input is named, coloured and hatched, on paper and in the window.

Every colour has a pattern, so that colour is never alone.
"""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.sun.limits import Limit
from yardtoll.report.charts.hatching import Hatch
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Box

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


def limit_box(
    x: float, y: float, width: float, height: float, limit: Limit, palette: Palette
) -> Box:
    """A stretch in a limit's colour and hatching."""
    kind, hatch = LIMIT_LOOK[limit]
    return Box(
        x=x,
        y=y,
        width=width,
        height=height,
        fill=palette.energy[kind],
        hatch=hatch,
        hatch_colour=palette.on_energy[kind],
    )
