"""Waveform."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import MAINS_PROBE, NEVER_OPEN, UNATTENDED
from yardtoll.core.methods.method import Ending, Flow, Method, Outlet, Size
from yardtoll.core.output.wave_lines import FIELDS

METHOD = Method(
    key="waveform_ac",
    order=130,
    title="Waveform",
    aim="The outlet's curve and its volts and hertz, without load, at half and at full load.",
    flow=Flow.SEEN,
    ending=Ending.BY_HAND,
    steps=(
        "Put the scope's probe across the outlet through a divider or a differential probe.",
        "Capture ten cycles and more without load, at half of the rated power, and at all of it.",
        "Keep the scope's file of each, or read its volts, hertz and THD.",
    ),
    cautions=(MAINS_PROBE, NEVER_OPEN, UNATTENDED),
    ends_when="everything is noted",
    sizes=(Size(key="all", title="As noted"),),
    sources=("common practice, no source",),
    role=Role.AC_OUTPUT,
    energy=EnergyKind.DELIVERED,
    outlet=Outlet.AC,
    claims=("pure_sine",),
    entry_fields=FIELDS,
    entry_noun="reading",
    captures=Role.WAVEFORM,
)
