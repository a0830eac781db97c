"""Rated power held."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import CORDS, NEVER_OPEN, UNATTENDED, VENTS_AND_ALARM
from yardtoll.core.methods.method import Ending, Flow, Method, Outlet, Size
from yardtoll.core.output.resets import FIELDS

_MINUTE_S = 60.0

METHOD = Method(
    key="hold",
    order=30,
    title="Continuous hold",
    aim="Whether the station holds its rated power, within 2 %, for the chosen time.",
    flow=Flow.OUT,
    ending=Ending.TIME,
    steps=(
        "Charge to full and let the station rest until its fans are quiet.",
        "Unplug every input: mains, car and solar.",
        "Voltage-lowering mode off: it would hide a shortfall on heaters.",
        "Zero the meter and see that it may carry the rated power for so long.",
        "Switch the outlet on, then the loads one after another.",
    ),
    cautions=(UNATTENDED, CORDS, VENTS_AND_ALARM, NEVER_OPEN),
    ends_when="the time is over, or the station shuts off before",
    sizes=(
        Size(key="30min", title="30 minutes", share_of_rated_w=1.0, hold_s=30 * _MINUTE_S),
        Size(key="15min", title="15 minutes", share_of_rated_w=1.0, hold_s=15 * _MINUTE_S),
        Size(key="empty", title="To empty", share_of_rated_w=1.0),
    ),
    sources=("common practice, no source",),
    ends_early=True,
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    outlet=Outlet.AC,
    entry_fields=FIELDS,
    claims=("continuous_w", "ac_v", "ac_hz", "ac_a"),
)
