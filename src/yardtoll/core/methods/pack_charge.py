"""Packs beside each other through a run."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import NEVER_OPEN, UNATTENDED
from yardtoll.core.methods.method import Ending, Flow, Method, Size
from yardtoll.core.output.packs import FIELDS

METHOD = Method(
    key="pack_charge",
    order=144,
    title="Packs",
    aim="Whether the packs share the load: the charge of each through a run.",
    flow=Flow.SEEN,
    ending=Ending.BY_HAND,
    steps=(
        "Charge station and packs to full, and let them rest.",
        "During a discharge or charge read every display within two minutes, again and again.",
        "Note which pack is empty or full first.",
    ),
    cautions=(UNATTENDED, NEVER_OPEN),
    ends_when="the station shuts its outlet off, or all are full",
    sizes=(Size(key="all", title="As noted"),),
    sources=("common practice, no source",),
    role=Role.AC_OUTPUT,
    energy=EnergyKind.STORED,
    claims=(),
    entry_fields=FIELDS,
    entry_noun="reading",
)
