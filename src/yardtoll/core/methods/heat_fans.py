"""Heat and fans."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import COOL_FIRST, UNATTENDED, VENTS_AND_ALARM
from yardtoll.core.methods.method import Ending, Flow, Method, Size
from yardtoll.core.output.heat import FIELDS

METHOD = Method(
    key="heat_fans",
    order=142,
    title="Heat and fans",
    aim="How hot it gets, when its fans run, and whether it cuts back or refuses to charge.",
    flow=Flow.SEEN,
    ending=Ending.BY_HAND,
    steps=(
        "Note the air's temperature, and the station's before the load.",
        "Read the same places again and again: exhaust, case, plugs.",
        "Note when fans begin and end, when power is cut back, how long it refuses to charge.",
    ),
    cautions=(COOL_FIRST, UNATTENDED, VENTS_AND_ALARM),
    ends_when="everything is noted",
    sizes=(Size(key="all", title="As noted"),),
    sources=("common practice, no source",),
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    claims=(),
    entry_fields=FIELDS,
    entry_noun="reading",
)
