"""Where the rated watt-hours went in one discharge; the terms always add up."""

from dataclasses import dataclass, fields

from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.electrical.energy_kind import EnergyKind


@dataclass(frozen=True, kw_only=True)
class Sensitivities:
    """How many Wh a ledger's figure moves for each unit that one of its makings moves.

    Attributes:
        drawn, delivered: for each measured Wh.
        e0_wh, p0_w, p1, p2_per_w: for each unit of a fitted term.
    """

    drawn: float = 0.0
    delivered: float = 0.0
    e0_wh: float = 0.0
    p0_w: float = 0.0
    p1: float = 0.0
    p2_per_w: float = 0.0

    def __sub__(self, other: "Sensitivities") -> "Sensitivities":
        parts = {f.name: getattr(self, f.name) - getattr(other, f.name) for f in fields(self)}
        return Sensitivities(**parts)

    @property
    def terms(self) -> tuple[float, float, float, float]:
        """For E0, p0, p1, p2, in the order of a fit's covariance."""
        return (self.e0_wh, self.p0_w, self.p1, self.p2_per_w)


@dataclass(frozen=True, kw_only=True)
class Toll:
    """What is lost, or not delivered, at one gate, in Wh; negative for a surplus.

    Attributes:
        leaves: names what flows on behind the gate.
        sensitivities: what its Wh rest on.
    """

    title: str
    kind: EnergyKind
    energy_wh: float
    evidence: str
    leaves: str = "In the window"
    leaves_kind: EnergyKind = EnergyKind.STORED
    sensitivities: Sensitivities = Sensitivities()


@dataclass(frozen=True, kw_only=True)
class Stage:
    """What flows between two gates, in Wh."""

    title: str
    kind: EnergyKind
    energy_wh: float
    evidence: str
    sensitivities: Sensitivities


@dataclass(frozen=True, kw_only=True)
class Ledger:
    """What it starts from = sum of the tolls + delivered, in Wh.

    Attributes:
        start_wh, start_title, start_kind: the rated energy, or what came from the wall.
        start_sensitivities: nothing for a rating, the drawn Wh for what was measured.
    """

    rated_wh: float
    start_wh: float
    start_title: str = "Rated"
    start_kind: EnergyKind = EnergyKind.STORED
    tolls: tuple[Toll, ...]
    delivered_wh: float
    own_draw_wh: float
    start_sensitivities: Sensitivities = Sensitivities()

    @property
    def starts_rated(self) -> bool:
        """Whether it starts from the rating, and not from what was drawn."""
        return not self.start_sensitivities.drawn

    @property
    def stages(self) -> tuple[Stage, ...]:
        """What flows before the first gate, between the gates, and behind the last one."""
        left, sensitivities = self.start_wh, self.start_sensitivities
        found = [
            Stage(
                title=self.start_title,
                kind=self.start_kind,
                energy_wh=left,
                evidence=f"{left:.0f} Wh by the meter, over the whole recharge."
                if sensitivities.drawn
                else f"{left:.0f} Wh is the maker's figure: it has no ± here.",
                sensitivities=sensitivities,
            )
        ]
        for toll in self.tolls[:-1]:
            left, sensitivities = left - toll.energy_wh, sensitivities - toll.sensitivities
            found.append(
                Stage(
                    title=toll.leaves,
                    kind=toll.leaves_kind,
                    energy_wh=left,
                    evidence=f"{left:.0f} Wh: what is left after the gate before it.",
                    sensitivities=sensitivities,
                )
            )
        found.append(
            Stage(
                title="Delivered",
                kind=EnergyKind.DELIVERED,
                energy_wh=self.delivered_wh,
                evidence=f"{self.delivered_wh:.1f} Wh went through the meter, from load-on to "
                "cut-off. Its ± is made up of what is listed below.",
                sensitivities=Sensitivities(delivered=1.0),
            )
        )
        return tuple(found)

    @property
    def places(self) -> tuple[Stage | Toll, ...]:
        """Stages and tolls in the order in which the energy meets them."""
        stages = self.stages
        found: list[Stage | Toll] = [stages[0]]
        for toll, stage in zip(self.tolls, stages[1:], strict=True):
            found += [toll, stage]
        return tuple(found)

    @property
    def imbalance_wh(self) -> float:
        """Start − tolls − delivered; zero but for rounding."""
        return self.start_wh - sum(toll.energy_wh for toll in self.tolls) - self.delivered_wh


def discharge_ledger(result: DischargeResult) -> Ledger:
    """Rated → delivered, with what was held back by the window and what is missing.

    One discharge cannot separate overhead, conversion and an overstated rating: together they are
    shown as not delivered.
    """
    rating = result.rating
    held_back = rating.rated_wh * (1.0 - rating.window)
    missing = rating.rated_wh - held_back - result.delivered_wh
    tolls = []
    if held_back:
        tolls.append(
            Toll(
                title="Outside the window",
                kind=EnergyKind.FLOOR,
                energy_wh=held_back,
                evidence=f"Only {rating.soc_from:g} → {rating.soc_to:g} % was to be discharged: "
                f"{held_back:.0f} Wh of the rating stay outside by choice.",
            )
        )
    tolls.append(
        Toll(
            title="Not delivered" if missing >= 0 else "More than rated",
            kind=EnergyKind.UNACCOUNTED,
            energy_wh=missing,
            evidence=_missing_evidence(missing),
            sensitivities=Sensitivities(delivered=-1.0),
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
        f"{missing_wh:.0f} Wh of the rating did not reach the load. One discharge cannot "
        "separate overhead, conversion, a reserve below cut-off and an overstated rating; runs at "
        "other loads can."
    )
