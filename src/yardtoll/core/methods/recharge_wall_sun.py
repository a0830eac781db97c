"""Recharge, wall and sun together."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import COOL_FIRST, CORDS, DC_VOLTS, NEVER_OPEN
from yardtoll.core.methods.method import Ending, Flow, Method, Size
from yardtoll.core.methods.sources import WALL_AND_SUN

METHOD = Method(
    key="recharge_wall_sun",
    order=90,
    title="Recharge, wall and sun together",
    aim="Which source yields, and where the sum is capped.",
    flow=Flow.IN,
    ending=Ending.CHARGED,
    steps=(
        "Discharge to empty and let the station cool.",
        "Work the array's cold volts out against the input's limit before anything is connected.",
        "Cover the panels while connecting; check open-circuit volts and polarity first.",
        "Start from the wall, then uncover the panels and mark the moment.",
        "Note both inputs on the display.",
    ),
    cautions=(DC_VOLTS, COOL_FIRST, CORDS, NEVER_OPEN),
    ends_when="the input has fallen to almost nothing",
    sizes=(
        Size(key="as_set", title="As the charger is set"),
        Size(key="fixed", title="At watts I set", asks_w=True),
    ),
    sources=("common practice, no source",),
    needs=(
        "AC charging cord",
        "Solar adapter",
    ),
    soc=(0.0, 100.0),
    role=Role.WALL_INPUT,
    energy=EnergyKind.WALL,
    source=WALL_AND_SUN,
    uses_panels=True,
    claims=("combined_in_w", "combined_min"),
)
