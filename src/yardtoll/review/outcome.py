"""The outcome of an analysis: its own figures, and what other runs' results may rest on."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from yardtoll.core.charge.analysis import RechargeResult
from yardtoll.core.charge.soc_times import EnergyCurve, SocReading
from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.electrical.trace import Code, Notice
from yardtoll.core.ledger.idle import IdleResult
from yardtoll.core.methods import Outlet
from yardtoll.core.methods.sources import Source
from yardtoll.core.output.entries import Fields
from yardtoll.core.uncertainty.budget import Budget, Measured
from yardtoll.core.uncertainty.figure import Figure


@dataclass(frozen=True, kw_only=True)
class EnergyOut:
    """The delivered energy of a run, to compare with its station's other runs.

    Attributes:
        budget: of the delivered Wh; None where no meter is stated.
        mean_sq_w2: mean of P² from load-on to cut-off; None without power samples.
        outlet: that a whole discharge went through; None for a run that is not meant as one.
        counts: whether it is a result, and not a conditioning cycle.
    """

    result: DischargeResult
    budget: Budget | None
    mean_sq_w2: float | None = None
    outlet: Outlet | None = None
    counts: bool = False

    @property
    def delivered_wh(self) -> float:
        """Wh delivered."""
        return self.result.delivered_wh

    @property
    def mean_w(self) -> float:
        """Mean W under load; 0 where it is not known."""
        return self.result.mean_w or 0.0

    @property
    def measured(self) -> Measured | None:
        """The delivered Wh with their budget; None without a meter."""
        if self.budget is None:
            return None
        return Measured(value=self.result.delivered_wh, budget=self.budget)

    @property
    def is_whole(self) -> bool:
        """Whether it shows the station from the start of the load to its cut-off."""
        incomplete = self.result.has(Code.NO_CUTOFF) or self.result.has(Code.STARTS_LOADED)
        return not incomplete


@dataclass(frozen=True, kw_only=True)
class EnergyIn:
    """What a run drew.

    Attributes:
        budget: of the drawn Wh; None where no meter is stated.
        by_sun: the sun's day set its hours, not the charger.
    """

    result: RechargeResult
    budget: Budget | None
    source: Source
    by_sun: bool = False

    @property
    def drawn_wh(self) -> float:
        """Wh drawn; a charge without energy gives no such result."""
        assert self.result.drawn_wh is not None
        return self.result.drawn_wh

    @property
    def measured(self) -> Measured | None:
        """The drawn Wh with their budget; None without a meter."""
        if self.budget is None:
            return None
        return Measured(value=self.drawn_wh, budget=self.budget)


@dataclass(frozen=True, kw_only=True)
class OwnUse:
    """What a station used by itself, with one kind of outlet switched on, or none."""

    idle: IdleResult
    outlet: Outlet | None


@dataclass(frozen=True, kw_only=True)
class Outcome:
    """The result of a run. Kinds of run add their own fields.

    Attributes:
        figures: of this run by itself; its main result is first.
        notices: what a reader must know about how its figures came about.
        problem: why there is no result, in a clause; "" where there is one.
        energy_out, energy_in, own_use: what other runs' results may rest on; None for what this
            run does not show.
        told: of runs kept as a table: what captures say of their lines, by the line's id.
        readings, curve: the display's states of charge in s from the start of a charge, and the
            energy drawn over the time; for the time between any two.
    """

    figures: tuple[Figure, ...] = ()
    notices: tuple[Notice, ...] = ()
    problem: str = ""
    energy_out: EnergyOut | None = None
    energy_in: EnergyIn | None = None
    own_use: OwnUse | None = None
    told: Mapping[int, Fields] = field(default_factory=dict)
    readings: tuple[SocReading, ...] = ()
    curve: EnergyCurve | None = None
