"""Steps above the rated power."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import CORDS, NEVER_OPEN, UNATTENDED, VENTS_AND_ALARM
from yardtoll.core.methods.method import Ending, Flow, Method, Outlet, Size
from yardtoll.core.output.resets import FIELDS

METHOD = Method(
    key="overload",
    order=40,
    title="Overload ladder",
    aim="How many seconds the station carries more than its rating, and how it recovers.",
    flow=Flow.OUT,
    ending=Ending.CUT_OFF,
    steps=(
        "Start at or above 50 % charge, the station cool.",
        "Unplug every input: mains, car and solar.",
        "Set a base load below the rating, then switch the step's load on top of it.",
        "Mark the trip, and note how it is reset and how long that takes.",
        "Let it cool for ten minutes between steps; stop at the first smell or error code.",
    ),
    cautions=(UNATTENDED, CORDS, VENTS_AND_ALARM, NEVER_OPEN),
    ends_when="the station trips",
    sizes=tuple(
        Size(key=f"{step}", title=f"{step} % of rated", share_of_rated_w=step / 100)
        for step in (105, 110, 120, 150)
    ),
    sources=("common practice, no source",),
    soc=(100.0, 50.0),
    ends_early=True,
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    outlet=Outlet.AC,
    entry_fields=FIELDS,
    may_exceed_rating=True,
    claims=("surge_w", "surge_s", "lifted_w"),
)
