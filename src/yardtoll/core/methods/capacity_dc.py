"""Capacity through a DC port."""

from yardtoll.core.claims.kinds import PORTS
from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import CORDS, NEVER_OPEN, UNATTENDED, VENTS_AND_ALARM
from yardtoll.core.methods.method import Capacity, Ending, Flow, Method, Outlet, Size

METHOD = Method(
    key="capacity_dc",
    order=20,
    title="Capacity, DC",
    aim="How many watt-hours a DC port delivers, and whether its volts hold to the end.",
    flow=Flow.OUT,
    ending=Ending.CUT_OFF,
    steps=(
        "Charge to full and let the station rest until its fans are quiet.",
        "Unplug every input: mains, car and solar.",
        "Set the discharge floor to 0 % or note it; switch the AC outlets off.",
        "Zero the DC meter, then put it between the port and the load, the right way round.",
        "Switch the DC output on, then the load.",
    ),
    cautions=(CORDS, VENTS_AND_ALARM, UNATTENDED, NEVER_OPEN),
    ends_when="the station shuts the port off",
    sizes=(
        Size(key="0.1c", title="0.1 C", c_rate=0.1),
        Size(key="0.2c", title="0.2 C", c_rate=0.2),
        Size(key="fixed", title="A load I have", asks_w=True),
        Size(key="real", title="A real appliance", asks_w=True, is_appliance=True),
    ),
    sources=("common practice, no source",),
    role=Role.DC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    outlet=Outlet.DC,
    capacity=Capacity.RESULT,
    # What a USB port gives is read port by port.
    claims=tuple(
        claim
        for port in PORTS
        for unit in ("w", "v", "a")
        if (claim := f"{port}_{unit}") not in ("usb_a_w", "usb_c_w")
    ),
)
