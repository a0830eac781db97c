"""Where the rated watt-hours went in one discharge; the terms always add up."""

from dataclasses import dataclass
from enum import StrEnum

from yardtoll.core.discharge import DischargeResult


class Kind(StrEnum):
    """Kinds of energy, each with one colour and one name everywhere."""

    WALL = "wall"
    SUN = "sun"
    STORED = "stored"
    DELIVERED = "delivered"
    OVERHEAD = "overhead"
    CONVERSION = "conversion"
    FLOOR = "floor"
    UNACCOUNTED = "unaccounted"


@dataclass(frozen=True, kw_only=True)
class Toll:
    """What is lost, or not delivered, at one gate, in Wh; negative for a surplus.

    ``leaves`` names what flows on behind the gate.
    """

    title: str
    kind: Kind
    energy_wh: float
    evidence: str
    leaves: str = "In the window"
    leaves_kind: Kind = Kind.STORED


@dataclass(frozen=True, kw_only=True)
class Ledger:
    """What it starts from = sum of the tolls + delivered, in Wh.

    Attributes:
        start_wh, start_title, start_kind: the rated energy, or what came from the wall.
    """

    rated_wh: float
    start_wh: float
    start_title: str = "Rated"
    start_kind: Kind = Kind.STORED
    tolls: tuple[Toll, ...]
    delivered_wh: float
    own_draw_wh: float

    @property
    def imbalance_wh(self) -> float:
        """Start − tolls − delivered; zero but for rounding."""
        return self.start_wh - sum(toll.energy_wh for toll in self.tolls) - self.delivered_wh


def discharge_ledger(result: DischargeResult) -> Ledger:
    """Rated → delivered, with what was held back by the window and what is missing.

    One discharge cannot tell overhead, conversion and an overstated rating apart: they stand
    together as not delivered.
    """
    rating = result.rating
    held_back = rating.rated_wh * (1.0 - rating.window)
    missing = rating.rated_wh - held_back - result.delivered_wh
    tolls = []
    if held_back:
        tolls.append(
            Toll(
                title="Outside the window",
                kind=Kind.FLOOR,
                energy_wh=held_back,
                evidence=f"Only {rating.soc_from:g} → {rating.soc_to:g} % was to be discharged: "
                f"{held_back:.0f} Wh of the rating stay outside by choice.",
            )
        )
    tolls.append(
        Toll(
            title="Not delivered" if missing >= 0 else "More than rated",
            kind=Kind.UNACCOUNTED,
            energy_wh=missing,
            evidence=_missing_evidence(missing),
        )
    )
    return Ledger(
        rated_wh=rating.rated_wh,
        start_wh=rating.rated_wh,
        tolls=tuple(tolls),
        delivered_wh=result.delivered_wh,
        own_draw_wh=result.own_draw_wh,
    )


def _missing_evidence(missing_wh: float) -> str:
    if missing_wh < 0:
        return (
            f"{-missing_wh:.0f} Wh more came out than is rated: an input left plugged in, a wrong "
            "rating or a wrong meter."
        )
    return (
        f"{missing_wh:.0f} Wh of the rating did not reach the load. One discharge cannot tell "
        "overhead, conversion, a reserve below cut-off and an overstated rating apart; runs at "
        "other loads can."
    )
