"""Idle, switched off."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import NEVER_OPEN, VENTS_AND_ALARM
from yardtoll.core.methods.method import Ending, Flow, Method, Size

_HOUR_S = 3600.0

METHOD = Method(
    key="idle_off",
    order=115,
    title="Idle, switched off",
    aim="What the station uses up by itself switched off, with nothing plugged in.",
    flow=Flow.IDLE,
    ending=Ending.TIME,
    steps=(
        "Charge to full and let the station rest.",
        "Unplug every input and every load.",
        "Switch it off altogether.",
        "Note the display's charge now, and again at the end.",
    ),
    cautions=(VENTS_AND_ALARM, NEVER_OPEN),
    ends_when="the time is over",
    sizes=(
        Size(key="48h", title="48 hours", hold_s=48 * _HOUR_S),
        Size(key="24h", title="24 hours", hold_s=24 * _HOUR_S),
        Size(key="168h", title="A week", hold_s=168 * _HOUR_S),
    ),
    sources=("common practice, no source",),
    soc=(100.0, 80.0),
    role=Role.AC_OUTPUT,
    energy=EnergyKind.OVERHEAD,
)
