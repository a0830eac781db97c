"""Where a charge comes from, and which claims speak of it."""

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Source:
    """One source of input energy.

    Attributes:
        name: as in "from the wall".
        watts, volts, amps: kinds of claims about what the input takes; "" where there is none.
        time: kind of claim about how long a charge takes; "" where there is none.
        time_unit_s: s of that claim's unit.
        typical_c: watts ÷ rated Wh where nothing is claimed; None where that is not usual.
        typical_w, typical_v, typical_a: likewise, in their own units.
        by_panels: it gives no more than its panels do.
        parts: sources that work at once.
        full_point: the quantity of the scorecard that a whole charge gives; "" for none.
    """

    name: str
    watts: str = ""
    volts: str = ""
    amps: str = ""
    time: str = ""
    time_unit_s: float = 3600.0
    typical_c: float | None = None
    typical_w: float | None = None
    typical_v: float | None = None
    typical_a: float | None = None
    by_panels: bool = False
    parts: tuple["Source", ...] = ()
    full_point: str = ""


# Typical figures are common practice, no source.
WALL = Source(
    name="wall",
    watts="recharge_w",
    amps="wall_a",
    time="recharge_min",
    time_unit_s=60.0,
    typical_c=0.5,
    full_point="full_charge_h",
)
SUN = Source(
    name="sun",
    watts="solar_w",
    amps="solar_a",
    time="solar_h",
    by_panels=True,
    full_point="solar_full_h",
)
CAR = Source(
    name="car socket",
    watts="car_in_w",
    volts="car_in_v",
    amps="car_in_a",
    time="car_in_h",
    typical_v=12.0,
    typical_a=8.0,
)
USB_C = Source(name="USB-C port", watts="usb_in_w", typical_w=60.0)
WALL_AND_SUN = Source(
    name="wall and sun",
    watts="combined_in_w",
    time="combined_min",
    time_unit_s=60.0,
    parts=(WALL, SUN),
)
