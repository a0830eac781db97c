"""Recharge from the wall."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import COOL_FIRST, CORDS, NEVER_OPEN, VENTS_AND_ALARM
from yardtoll.core.methods.method import Ending, Flow, Method, Size
from yardtoll.core.methods.sources import WALL

METHOD = Method(
    key="recharge_wall",
    order=50,
    title="Recharge from the wall",
    aim="How much is drawn, how fast, and where it steps down.",
    flow=Flow.IN,
    ending=Ending.CHARGED,
    steps=(
        "Discharge to empty and let the station cool: a hot one refuses to charge.",
        "Set the charge mode and note it; set watts are to be compared with drawn watts.",
        "Zero the meter and plug it into the wall, the charging cord into it.",
        "Switch every output off.",
        "Note the display at 80 % and at 100 %.",
    ),
    cautions=(COOL_FIRST, CORDS, VENTS_AND_ALARM, NEVER_OPEN),
    ends_when="the input has fallen to almost nothing",
    sizes=(
        Size(key="as_set", title="As the charger is set"),
        Size(key="fixed", title="At watts I set", asks_w=True),
    ),
    sources=("common practice, no source",),
    needs=("AC charging cord",),
    soc=(0.0, 100.0),
    role=Role.WALL_INPUT,
    energy=EnergyKind.WALL,
    source=WALL,
    claims=("recharge_w", "recharge_min", "wall_a"),
)
