"""Sound."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import VENTS_AND_ALARM
from yardtoll.core.methods.method import Ending, Flow, Method, Size
from yardtoll.core.sound.lines import FIELDS

METHOD = Method(
    key="sound_level",
    order=140,
    title="Sound",
    aim="How loud the station is at one metre, without load, under load and charging.",
    flow=Flow.SEEN,
    ending=Ending.BY_HAND,
    steps=(
        "Choose a quiet room; note the background with the station off.",
        "Put the meter or phone one metre from the vents, nothing between.",
        "Note the level without load, under load, and while it charges.",
    ),
    cautions=(VENTS_AND_ALARM,),
    ends_when="everything is noted",
    sizes=(Size(key="all", title="As noted"),),
    sources=("common practice, no source",),
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    claims=("noise_db",),
    entry_fields=FIELDS,
    entry_noun="level",
    captures=Role.SOUND,
)
