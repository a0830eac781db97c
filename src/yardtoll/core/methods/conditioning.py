"""The first full cycle, before results count."""

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
    key="conditioning",
    order=120,
    title="Conditioning cycle",
    aim="One full discharge and recharge before results count: the battery management learns.",
    flow=Flow.OUT,
    ending=Ending.CUT_OFF,
    steps=(
        "Charge to full; the first charge may hang at 99 % for a while.",
        "Unplug every input: mains, car and solar.",
        "Discharge to empty at a gentle load.",
        "Let the station cool, then charge it to full again and let it rest.",
    ),
    cautions=(UNATTENDED, VENTS_AND_ALARM, CORDS, COOL_FIRST, NEVER_OPEN),
    ends_when="the station shuts its outlet off; then recharge it",
    sizes=(
        Size(key="0.2c", title="0.2 C", c_rate=0.2),
        Size(key="0.1c", title="0.1 C, slow", c_rate=0.1),
        Size(key="fixed", title="A load I have", asks_w=True),
    ),
    sources=("common practice, no source",),
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    outlet=Outlet.AC,
    capacity=Capacity.CYCLE,
)
