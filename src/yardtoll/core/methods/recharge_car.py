"""Recharge from a car."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.cautions import COOL_FIRST, CORDS, DC_VOLTS, NEVER_OPEN
from yardtoll.core.methods.method import Ending, Flow, Method, Size
from yardtoll.core.methods.sources import CAR

METHOD = Method(
    key="recharge_car",
    order=60,
    title="Recharge from a car",
    aim="Hours from a 12 V or 24 V socket, and the amps it takes.",
    flow=Flow.IN,
    ending=Ending.CHARGED,
    steps=(
        "Discharge to empty and let the station cool.",
        "Run the engine, or use a bench supply of the socket's volts and amps.",
        "Put the DC meter between socket and station, the right way round.",
        "Switch every output off.",
    ),
    cautions=(COOL_FIRST, CORDS, DC_VOLTS, NEVER_OPEN),
    ends_when="the input has fallen to almost nothing",
    sizes=(
        Size(key="as_set", title="As the charger is set"),
        Size(key="fixed", title="At watts I set", asks_w=True),
    ),
    sources=("common practice, no source",),
    needs=("Car charging cable",),
    soc=(0.0, 100.0),
    role=Role.DC_INPUT,
    energy=EnergyKind.WALL,
    source=CAR,
    claims=("car_in_w", "car_in_v", "car_in_a", "car_in_h"),
)
