"""How a kind of test is done. A new method is one entry here."""

from dataclasses import dataclass

from yardtoll.core.cautions import COOL_FIRST, CORDS, NEVER_OPEN, UNATTENDED, VENTS_AND_ALARM


@dataclass(frozen=True, kw_only=True)
class Method:
    """One way of testing, in words for the person who does it."""

    key: str
    title: str
    aim: str
    steps: tuple[str, ...]
    cautions: tuple[str, ...]
    ends_when: str


METHODS: dict[str, Method] = {
    method.key: method
    for method in (
        Method(
            key="discharge_to_empty",
            title="Discharge to empty",
            aim="How many watt-hours reach a load before the station shuts off.",
            steps=(
                "Charge to full and let the station rest until its fans are quiet.",
                "Unplug every input: mains, car and solar.",
                "Set the discharge floor to 0 % or note it; eco and auto-off off.",
                "Zero the meter, then plug it between the outlet and the load.",
                "Switch the outlet on, then the load.",
            ),
            cautions=(UNATTENDED, VENTS_AND_ALARM, CORDS, COOL_FIRST, NEVER_OPEN),
            ends_when="the station shuts its outlet off",
        ),
    )
}

DISCHARGE_TO_EMPTY = METHODS["discharge_to_empty"]
