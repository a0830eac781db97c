"""Ports."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import HOT_PLUGS, NEVER_OPEN
from yardtoll.core.methods.method import Ending, Flow, Method, Size
from yardtoll.core.output.port_lines import FIELDS

METHOD = Method(
    key="port_power",
    order=136,
    title="Ports",
    aim="What every USB and 12 V port gives alone and together, and which gives way.",
    flow=Flow.SEEN,
    ending=Ending.BY_HAND,
    steps=(
        "Load one port at a time with something that can take its whole rating.",
        "Then add one port after another, and note all of them each time.",
        "Note what each load could take: a tablet takes 15 W from a port of 100 W.",
        "Feel for plugs that get hot: 12 V sockets do above 10 A.",
    ),
    cautions=(NEVER_OPEN, HOT_PLUGS),
    ends_when="everything is noted",
    sizes=(Size(key="all", title="As noted"),),
    sources=("common practice, no source",),
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    claims=("usb_a_w", "usb_c_w", "usb_shared_w", "usb_a_shared_w", "usb_c_shared_w"),
    entry_fields=FIELDS,
    entry_noun="port",
    by_port=True,
)
