"""Idle, DC on."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import NEVER_OPEN, VENTS_AND_ALARM
from yardtoll.core.methods.method import Ending, Flow, Method, Outlet, Size

_HOUR_S = 3600.0

METHOD = Method(
    key="idle_dc",
    order=110,
    title="Idle, DC on",
    aim="What the station uses up by itself with the DC output on and nothing plugged in.",
    flow=Flow.IDLE,
    ending=Ending.TIME,
    steps=(
        "Charge to full and let the station rest.",
        "Unplug every input and every load.",
        "Eco and auto-off off; switch the DC output on.",
        "Note the display's charge now, and again at the end.",
    ),
    cautions=(VENTS_AND_ALARM, NEVER_OPEN),
    ends_when="the time is over",
    sizes=(
        Size(key="10h", title="10 hours, a night", hold_s=10 * _HOUR_S),
        Size(key="24h", title="24 hours", hold_s=24 * _HOUR_S),
        Size(key="5h", title="5 hours", hold_s=5 * _HOUR_S),
    ),
    sources=("common practice, no source",),
    soc=(100.0, 80.0),
    role=Role.DC_OUTPUT,
    energy=EnergyKind.OVERHEAD,
    outlet=Outlet.DC,
)
