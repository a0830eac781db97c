"""Transfer."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import MAINS_PROBE, MEDICAL, NEVER_OPEN
from yardtoll.core.methods.method import Ending, Flow, Method, Outlet, Size
from yardtoll.core.output.switch_lines import FIELDS

METHOD = Method(
    key="transfer_time",
    order=132,
    title="Transfer",
    aim="How long the outlet is without volts when the wall is pulled, and when it comes back.",
    flow=Flow.SEEN,
    ending=Ending.BY_HAND,
    steps=(
        "Plug the station into the wall, let its UPS mode settle, and put a load on the outlet.",
        "Pull the plug while a scope or a fast video looks on; put it back the same way.",
        "Do it several times, without load and under load, in both directions.",
        "A device that stayed on proves what its own supply bridged, and no milliseconds.",
    ),
    cautions=(MAINS_PROBE, NEVER_OPEN, MEDICAL),
    ends_when="everything is noted",
    sizes=(Size(key="all", title="As noted"),),
    sources=("common practice, no source",),
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    outlet=Outlet.AC,
    claims=("transfer_ms", "ups"),
    entry_fields=FIELDS,
    entry_noun="try",
    captures=Role.WAVEFORM,
)
