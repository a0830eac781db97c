"""Many cycles one after the other."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.endurance.burn_in import FIELDS
from yardtoll.core.methods.cautions import COOL_FIRST, NEVER_OPEN, UNATTENDED, VENTS_AND_ALARM
from yardtoll.core.methods.method import Ending, Flow, Method, Size

METHOD = Method(
    key="burn_in",
    order=146,
    title="Burn-in",
    aim="Whether it still delivers the same after many cycles, and what fails on the way.",
    flow=Flow.SEEN,
    ending=Ending.BY_HAND,
    steps=(
        "Choose one load and one charger, and keep them for all cycles.",
        "Zero the meter before each discharge; let it rest alike between cycles.",
        "Note what each cycle delivered, the room's temperature, and whatever failed.",
    ),
    cautions=(UNATTENDED, VENTS_AND_ALARM, COOL_FIRST, NEVER_OPEN),
    ends_when="as many kWh as you planned have gone through",
    sizes=(Size(key="all", title="As noted"),),
    sources=("common practice, no source",),
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    claims=(),
    entry_fields=FIELDS,
    entry_noun="cycle",
)
