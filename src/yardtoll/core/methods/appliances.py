"""Can it run this?"""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import CORDS, MEDICAL, NEVER_OPEN
from yardtoll.core.methods.method import Ending, Flow, Method, Outlet, Size
from yardtoll.core.output.appliances import FIELDS

METHOD = Method(
    key="appliances",
    order=134,
    title="Can it run this?",
    aim="Which motors and appliances start, which only turn, which trip the station.",
    flow=Flow.SEEN,
    ending=Ending.BY_HAND,
    steps=(
        "Charge to full; note the display before each try.",
        "Try an appliance by itself, on a short cord, in the normal mode.",
        "Note whether it ran, only turned, or tripped the station, and how that came back.",
        "Voltage-lowering mode is for heaters only: never for motors and electronics.",
    ),
    cautions=(NEVER_OPEN, CORDS, MEDICAL),
    ends_when="everything is noted",
    sizes=(Size(key="all", title="As noted"),),
    sources=("common practice, no source",),
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    outlet=Outlet.AC,
    claims=(),
    entry_fields=FIELDS,
    entry_noun="try",
)
