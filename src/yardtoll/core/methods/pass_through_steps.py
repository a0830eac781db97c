"""Pass-through."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import CORDS, NEVER_OPEN, UNATTENDED
from yardtoll.core.methods.method import Ending, Flow, Method, Outlet, Size
from yardtoll.core.output.pass_through import FIELDS

METHOD = Method(
    key="pass_through_steps",
    order=138,
    title="Pass-through",
    aim="What the wall carries while a load runs, and from where on the battery helps.",
    flow=Flow.SEEN,
    ending=Ending.BY_HAND,
    steps=(
        "Plug the station into the wall through a meter, and let it charge.",
        "Add load in steps, and note the watts in, the watts out and what the display says.",
        "Go on until it draws on its battery or lets go of the wall; note how it comes back.",
    ),
    cautions=(CORDS, NEVER_OPEN, UNATTENDED),
    ends_when="everything is noted",
    sizes=(Size(key="all", title="As noted"),),
    sources=("common practice, no source",),
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    outlet=Outlet.AC,
    claims=("pass_through",),
    entry_fields=FIELDS,
    entry_noun="step",
)
