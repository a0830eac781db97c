"""Recharge from the sun."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import COOL_FIRST, DC_VOLTS, NEVER_OPEN
from yardtoll.core.methods.method import Ending, Flow, Method, Size
from yardtoll.core.methods.sources import SUN

METHOD = Method(
    key="recharge_sun",
    order=80,
    title="Recharge from the sun",
    aim="Peak and sustained watts from an array, and hours to full.",
    flow=Flow.IN,
    ending=Ending.CHARGED,
    steps=(
        "Work the array's cold volts out against the input's limit before anything is connected.",
        "Cover the panels while connecting; check open-circuit volts and polarity first.",
        "Discharge to empty and let the station cool.",
        "Put the DC meter between array and station.",
        "Uncover, aim, and note the sky.",
    ),
    cautions=(DC_VOLTS, COOL_FIRST, NEVER_OPEN),
    ends_when="the input has fallen to almost nothing",
    sizes=(
        Size(key="as_set", title="As the charger is set"),
        Size(key="fixed", title="At watts I set", asks_w=True),
    ),
    sources=("common practice, no source",),
    needs=("Solar adapter",),
    soc=(0.0, 100.0),
    role=Role.SUN_INPUT,
    energy=EnergyKind.SUN,
    source=SUN,
    uses_panels=True,
    claims=("solar_w", "solar_v_min", "solar_v_max", "solar_a", "solar_h"),
)
