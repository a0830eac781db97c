"""Recharge by USB-C."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import COOL_FIRST, CORDS, NEVER_OPEN
from yardtoll.core.methods.method import Ending, Flow, Method, Size
from yardtoll.core.methods.sources import USB_C

METHOD = Method(
    key="recharge_usb_c",
    order=70,
    title="Recharge by USB-C",
    aim="The watts a USB-C input takes, and the hours.",
    flow=Flow.IN,
    ending=Ending.CHARGED,
    steps=(
        "Discharge to empty and let the station cool.",
        "Use a charger and cable that carry the claimed watts.",
        "Put the USB meter between charger and station.",
        "Switch every output off.",
    ),
    cautions=(COOL_FIRST, CORDS, NEVER_OPEN),
    ends_when="the input has fallen to almost nothing",
    sizes=(
        Size(key="as_set", title="As the charger is set"),
        Size(key="fixed", title="At watts I set", asks_w=True),
    ),
    sources=("common practice, no source",),
    needs=("USB-C cable",),
    soc=(0.0, 100.0),
    role=Role.WALL_INPUT,
    energy=EnergyKind.WALL,
    source=USB_C,
    claims=("usb_in_w",),
)
