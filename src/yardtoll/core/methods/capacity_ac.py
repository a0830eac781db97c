"""Capacity through the AC outlet."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import (
    COOL_FIRST,
    CORDS,
    NEVER_OPEN,
    UNATTENDED,
    VENTS_AND_ALARM,
)
from yardtoll.core.methods.method import Capacity, Ending, Flow, Method, Outlet, Size

METHOD = Method(
    key="capacity_ac",
    order=10,
    title="Capacity, AC",
    aim="How many watt-hours reach a load before the station shuts off.",
    flow=Flow.OUT,
    ending=Ending.CUT_OFF,
    steps=(
        "Charge to full and let the station rest until its fans are quiet.",
        "Unplug every input: mains, car and solar.",
        "Set the discharge floor to 0 % or note it; eco and auto-off off.",
        "Zero the meter, then plug it between the outlet and the load.",
        "Switch the outlet on, then the load.",
    ),
    cautions=(UNATTENDED, VENTS_AND_ALARM, CORDS, COOL_FIRST, NEVER_OPEN),
    ends_when="the station shuts its outlet off",
    sizes=(
        Size(key="0.2c", title="0.2 C, the common standard", c_rate=0.2),
        Size(key="0.1c", title="0.1 C, slow", c_rate=0.1),
        Size(key="1c", title="1 C", c_rate=1.0),
        Size(key="rated", title="Rated maximum", share_of_rated_w=1.0),
        Size(key="fixed", title="A load I have", asks_w=True),
        Size(key="real", title="A real appliance", asks_w=True, is_appliance=True),
    ),
    sources=("0.2 C: common standard; IEC 61960 uses it for cells", "common practice, no source"),
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    outlet=Outlet.AC,
    capacity=Capacity.RESULT,
    claims=("rated_wh", "usable_wh"),
)
