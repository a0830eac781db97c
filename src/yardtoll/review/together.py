"""What a station's runs say together: the loss split, the cycle a run belongs to, its repeats."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from yardtoll.core.charge.inputs_together import InputsTogether, InputTrace, inputs_together
from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.discharge.repeats import Repeat, RepeatFigures, alike, repeat_figures
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Code
from yardtoll.core.ledger.cycle import Cycle, cycle_ledger
from yardtoll.core.ledger.ledger import Kind, Ledger
from yardtoll.core.ledger.loss_fit import REPEATABILITY_FREEDOM
from yardtoll.core.methods import METHODS, Flow
from yardtoll.core.uncertainty.budget import Measured, station_mean
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.port_runs import Port, PortRuns, port_of, port_runs
from yardtoll.review.sources import SOURCES
from yardtoll.store.records import RunState


@dataclass(frozen=True, kw_only=True)
class StationRuns:
    """All of a station's runs, and what those through its AC and its DC outlets say."""

    analyses: tuple[RunAnalysis, ...]
    ac: PortRuns
    dc: PortRuns

    def through(self, analysis: RunAnalysis) -> PortRuns:
        """The runs through the same kind of outlet as this one; AC for what has none."""
        return self.dc if port_of(analysis) is Port.DC else self.ac


def together(analyses: Sequence[RunAnalysis]) -> StationRuns:
    """Put a station's runs together."""
    return StationRuns(
        analyses=tuple(analyses),
        ac=port_runs(analyses, Port.AC),
        dc=port_runs(analyses, Port.DC),
    )


@dataclass(frozen=True, kw_only=True)
class CycleRuns:
    """A discharge and the recharge that belongs to it, over all inputs that flowed together."""

    discharge: RunAnalysis | None
    recharges: tuple[RunAnalysis, ...]

    @property
    def drawn_wh(self) -> float | None:
        """What went in; None where no recharge was measured."""
        parts = [a.recharge.drawn_wh for a in self.recharges if a.recharge is not None]
        return sum(parts) if parts else None

    @property
    def source(self) -> str:
        """Like "the wall", "wall and sun"."""
        names = list(dict.fromkeys(SOURCES[a.run.method][0] for a in self.recharges))
        return f"the {names[0]}" if len(names) == 1 else " and ".join(names)

    @property
    def source_kind(self) -> Kind:
        """The colour of the input that gave most."""
        most = max(self.recharges, key=lambda a: a.recharge.drawn_wh if a.recharge else 0.0)
        return SOURCES[most.run.method][1]


def ledger_of(analysis: RunAnalysis, found: StationRuns) -> Ledger | None:
    """The fullest ledger for a run: with its recharge and the loss split, where there are any."""
    runs = cycle_of(analysis, found)
    discharge = runs.discharge
    if discharge is None or discharge.result is None:
        return None
    cycle = Cycle(
        discharge=discharge.result,
        split=found.through(discharge).split if port_of(discharge) is not None else None,
        converter="converter" if port_of(discharge) is Port.DC else "inverter",
        mean_sq_w2=discharge.mean_sq_w2,
    )
    if runs.recharges:
        cycle = replace(
            cycle, drawn_wh=runs.drawn_wh, source=runs.source, source_kind=runs.source_kind
        )
    return cycle_ledger(cycle)


def cycle_of(analysis: RunAnalysis, found: StationRuns) -> CycleRuns:
    """The discharge and recharge that a run belongs to: the recharge is the next one after it."""
    in_time = sorted(found.analyses, key=lambda a: a.run.started_at)
    if METHODS[analysis.run.method].flow is Flow.IN:
        before = [
            a
            for a in in_time
            if a.counts and a.run.started_at < analysis.run.started_at and _fits(a, analysis)
        ]
        return CycleRuns(
            discharge=before[-1] if before else None, recharges=_with_beside(analysis, found)
        )
    after = [a for a in in_time if a.run.started_at > analysis.run.started_at]
    for later in after:
        if later.recharge is not None and later.run.state == RunState.FINISHED.value:
            fits = _fits(analysis, later)
            return CycleRuns(
                discharge=analysis, recharges=_with_beside(later, found) if fits else ()
            )
        if later.counts:
            break
    return CycleRuns(discharge=analysis, recharges=())


def _with_beside(recharge: RunAnalysis, found: StationRuns) -> tuple[RunAnalysis, ...]:
    """A recharge and the others that flowed at the same time."""
    return (recharge, *(beside.other for beside in inputs_beside(recharge, found)))


def _fits(discharge: RunAnalysis, recharge: RunAnalysis) -> bool:
    """Whether a recharge puts back what a discharge took: the same window."""
    if recharge.recharge is None or not METHODS[discharge.run.method].gives_capacity:
        return False
    low, high = recharge.recharge.soc
    return abs(discharge.run.soc_to - low) <= 1 and abs(discharge.run.soc_from - high) <= 1


@dataclass(frozen=True, kw_only=True)
class Beside:
    """A recharge that flowed at the same time as another one."""

    other: RunAnalysis
    pair: InputsTogether


def inputs_beside(analysis: RunAnalysis, found: StationRuns) -> list[Beside]:
    """This recharge beside every other that flowed into the station at the same time."""
    mine = _input_trace(analysis) if analysis.recharge is not None else None
    if mine is None:
        return []
    seen = []
    for other in found.analyses:
        if other.run.id == analysis.run.id or other.recharge is None:
            continue
        trace = _input_trace(other) if other.run.state == RunState.FINISHED.value else None
        pair = inputs_together(mine, trace) if trace is not None else None
        if pair is not None:
            seen.append(Beside(other=other, pair=pair))
    return seen


def _input_trace(analysis: RunAnalysis) -> InputTrace | None:
    """A recharge's power on the clock; None without power samples."""
    if analysis.trace is None:
        return None
    time_s, power = analysis.trace.valid(Quantity.POWER)
    if time_s.size < 2:
        return None
    began_s = datetime.fromisoformat(analysis.run.started_at).timestamp()
    title = METHODS[analysis.run.method].title
    return InputTrace(
        name=f"run {analysis.run.number} ({title})", time_s=time_s + began_s, power_w=power
    )


def repeats_of(analysis: RunAnalysis, found: StationRuns) -> RepeatFigures | None:
    """The figures of all finished runs of the same method, window and load."""
    result = analysis.result
    if not analysis.counts or result is None or not result.mean_w:
        return None
    same = [
        _repeat(a, a.result)
        for a in found.analyses
        if a.counts
        and a.result is not None
        and a.result.mean_w
        and a.run.method == analysis.run.method
        and (a.run.soc_from, a.run.soc_to) == (analysis.run.soc_from, analysis.run.soc_to)
        and not a.result.has(Code.NO_CUTOFF)
        and not a.doubts
    ]
    return repeat_figures(alike(same, result.mean_w), analysis.repeatability)


def station_energy(analysis: RunAnalysis, found: StationRuns) -> Measured | None:
    """What the station delivers at a run's load: by this run and its repeats; None without a meter.

    A run's own figure carries the meter's U; this one what differs from run to run as well.
    """
    repeats = repeats_of(analysis, found)
    if repeats is not None and repeats.mean is not None:
        return repeats.mean
    result = analysis.result
    if result is None or analysis.budget is None:
        return None
    alone = Measured(value=result.delivered_wh, budget=analysis.budget)
    return station_mean([alone], analysis.repeatability, REPEATABILITY_FREEDOM)


def _repeat(analysis: RunAnalysis, result: DischargeResult) -> Repeat:
    """A run without what all runs of its meter share: its gain."""
    return Repeat(
        number=analysis.run.number,
        energy_wh=result.delivered_wh,
        mean_w=result.mean_w or 0.0,
        own_u_wh=analysis.budget.of_its_own().u if analysis.budget else 0.0,
        budget=analysis.budget,
    )
