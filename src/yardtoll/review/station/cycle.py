"""A discharge and the charge that belongs to it: ledger, round trip, and all that was drawn."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.trace import Code
from yardtoll.core.ledger.cycle import Cycle, cycle_ledger
from yardtoll.core.ledger.ledger import Ledger
from yardtoll.core.ledger.loss_fit import REPEATABILITY_DEGREES_OF_FREEDOM
from yardtoll.core.methods import Outlet
from yardtoll.core.uncertainty.budget import Measured, ratio, station_mean, total
from yardtoll.core.uncertainty.figure import Figure, Style
from yardtoll.review.run_analysis import RunAnalysis, in_time
from yardtoll.review.station.beside import inputs_beside
from yardtoll.review.station.outlet_runs import outlet_of
from yardtoll.review.station.runs import StationRuns


@dataclass(frozen=True, kw_only=True)
class CycleRuns:
    """A discharge and the charge that belongs to it, over all inputs that flowed together."""

    discharge: RunAnalysis | None
    charges: tuple[RunAnalysis, ...]

    @property
    def drawn_wh(self) -> float | None:
        """What went in; None where no charge was measured."""
        parts = [a.energy_in.drawn_wh for a in self.charges if a.energy_in is not None]
        return sum(parts) if parts else None

    @property
    def drawn(self) -> Measured | None:
        """What all inputs drew, with its budget; None where one of them has no meter stated."""
        parts = [a.energy_in.measured for a in self.charges if a.energy_in is not None]
        known = [part for part in parts if part is not None]
        return total(known) if known and len(known) == len(self.charges) else None

    @property
    def delivered_wh(self) -> float | None:
        """What came out; None where no discharge belongs to it."""
        out = self.discharge.energy_out if self.discharge is not None else None
        return out.delivered_wh if out is not None else None

    @property
    def source(self) -> str:
        """Like "the wall", "wall and sun"."""
        names = [a.energy_in.source.name for a in self.charges if a.energy_in is not None]
        names = list(dict.fromkeys(names))
        return f"the {names[0]}" if len(names) == 1 else " and ".join(names)

    @property
    def source_kind(self) -> EnergyKind:
        """The colour of the input that gave most."""
        most = max(self.charges, key=lambda a: a.energy_in.drawn_wh if a.energy_in else 0.0)
        return most.method.energy

    @property
    def doubts(self) -> tuple[Code, ...]:
        """What any of its runs cannot be trusted for, and nobody has explained."""
        runs = [run for run in (self.discharge, *self.charges) if run is not None]
        return tuple(dict.fromkeys(code for run in runs for code in run.doubts))


def cycle_of(analysis: RunAnalysis, station: StationRuns) -> CycleRuns:
    """The discharge and charge that a run belongs to: the charge is the next one after it."""
    ordered = in_time(station.analyses)
    if analysis.method.charges:
        before = [
            a
            for a in ordered
            if a.is_valid_discharge
            and a.run.started_at < analysis.run.started_at
            and _fits(a, analysis)
        ]
        return CycleRuns(
            discharge=before[-1] if before else None, charges=_with_beside(analysis, station)
        )
    for later in (a for a in ordered if a.run.started_at > analysis.run.started_at):
        if later.energy_in is not None and later.is_finished:
            fits = _fits(analysis, later)
            return CycleRuns(
                discharge=analysis, charges=_with_beside(later, station) if fits else ()
            )
        if later.is_valid_discharge:
            break
    return CycleRuns(discharge=analysis, charges=())


def cycles_of(station: StationRuns) -> list[CycleRuns]:
    """Every discharge with the charge that follows it."""
    cycles = [cycle_of(a, station) for a in station.analyses if a.is_valid_discharge]
    return [c for c in cycles if c.charges and c.discharge is not None]


def _with_beside(charge: RunAnalysis, station: StationRuns) -> tuple[RunAnalysis, ...]:
    """A charge and the others that flowed at the same time."""
    return (charge, *(beside.other for beside in inputs_beside(charge, station)))


def _fits(discharge: RunAnalysis, charge: RunAnalysis) -> bool:
    """Whether a charge puts back what a discharge took: the same window."""
    if charge.energy_in is None or not discharge.method.counts_for_capacity:
        return False
    low, high = charge.energy_in.result.soc
    return abs(discharge.run.soc_to - low) <= 1 and abs(discharge.run.soc_from - high) <= 1


def ledger_of(analysis: RunAnalysis, station: StationRuns) -> Ledger | None:
    """The fullest ledger for a run: with its charge and the loss split, where there are any."""
    runs = cycle_of(analysis, station)
    discharge = runs.discharge
    if discharge is None or discharge.energy_out is None:
        return None
    out = discharge.energy_out
    cycle = Cycle(
        discharge=out.result,
        split=station.through(discharge).split if out.outlet is not None else None,
        converter="converter" if outlet_of(discharge) is Outlet.DC else "inverter",
        mean_sq_w2=out.mean_sq_w2,
    )
    if runs.charges:
        cycle = replace(
            cycle, drawn_wh=runs.drawn_wh, source=runs.source, source_kind=runs.source_kind
        )
    return cycle_ledger(cycle)


def round_trip_of(cycle: CycleRuns) -> Measured | None:
    """Delivered ÷ drawn of this cycle: what one meter's gain has in common cancels.

    None without its meters, and where more came out than went in: that is no efficiency.
    """
    out = cycle.discharge.energy_out if cycle.discharge is not None else None
    drawn = cycle.drawn
    if out is None or out.measured is None or drawn is None or not cycle.charges:
        return None
    if out.delivered_wh > drawn.value:
        return None
    return ratio(out.measured, drawn, names=("Delivered", "Drawn"))


def station_round_trip(cycle: CycleRuns) -> Measured | None:
    """The same as what it says of the station: with run-to-run repeatability in it."""
    trip = round_trip_of(cycle)
    if trip is None or cycle.discharge is None:
        return None
    return station_mean([trip], cycle.discharge.repeatability, REPEATABILITY_DEGREES_OF_FREEDOM)


def round_trips(station: StationRuns) -> list[Figure]:
    """The round trip of every discharge that has one, as what it says of the station."""
    found = []
    for cycle in _of_each(station.analyses, station):
        trip = station_round_trip(cycle)
        if trip is not None and cycle.discharge is not None:
            how = f"delivered in run {cycle.discharge.run.number} ÷ drawn afterwards"
            found.append(
                Figure(
                    key="round_trip",
                    title="Round trip",
                    value=trip.value,
                    budget=trip.budget,
                    style=Style.PERCENT,
                    how=how,
                )
            )
    return found


def _of_each(analyses: Sequence[RunAnalysis], station: StationRuns) -> list[CycleRuns]:
    return [cycle_of(a, station) for a in analyses if a.is_valid_discharge]
