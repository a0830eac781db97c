"""Real appliances on the AC outlet until the station is empty."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import COOL_FIRST, CORDS, NEVER_OPEN, UNATTENDED
from yardtoll.core.methods.method import Ending, Flow, Method, Outlet, Size

METHOD = Method(
    key="endurance_ac",
    order=35,
    title="Endurance with appliances",
    aim="How long real appliances last on it, and what each of them is.",
    flow=Flow.OUT,
    ending=Ending.CUT_OFF,
    steps=(
        "Charge to full, and unplug every input.",
        "Set the discharge floor to 0 % or note it; eco and auto-off off.",
        "Plug the meter between the outlet and the appliance.",
        "Switch the outlet on, then the appliance; leave it to its own thermostat.",
        "Note the display from time to time.",
    ),
    cautions=(UNATTENDED, CORDS, COOL_FIRST, NEVER_OPEN),
    ends_when="the station shuts its outlet off",
    sizes=(Size(key="real", title="A real appliance", asks_w=True, is_appliance=True),),
    sources=("common practice, no source",),
    steady=False,
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    outlet=Outlet.AC,
)
