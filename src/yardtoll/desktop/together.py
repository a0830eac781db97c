"""What a station's runs say together: the loss split, the cycle a run belongs to, its repeats."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from yardtoll.core.cycle_ledger import Cycle, cycle_ledger
from yardtoll.core.discharge import DischargeResult
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.idle import IdleResult
from yardtoll.core.inputs_together import InputsTogether, InputTrace, inputs_together
from yardtoll.core.ledger import Ledger
from yardtoll.core.losses import LossSplit, RunAtLoad, fit_losses, idle_sets_the_scale
from yardtoll.core.methods import METHODS, Flow
from yardtoll.core.quantities import Quantity
from yardtoll.core.repeats import Repeat, RepeatFigures, alike, repeat_figures
from yardtoll.core.trace import Code
from yardtoll.core.uncertainty import COVERAGE_FACTOR
from yardtoll.desktop.analyses import RunAnalysis
from yardtoll.store.records import Station

WHOLE = 0.98
"""A discharge over this share of the charge is one to empty."""


@dataclass(frozen=True, kw_only=True)
class LoadPoint:
    """A whole discharge as a point: W, Wh, and U of the Wh (None without a meter)."""

    number: int
    mean_w: float
    delivered_wh: float
    expanded_wh: float | None


@dataclass(frozen=True, kw_only=True)
class Together:
    """All of a station's runs.

    Attributes:
        split: None where there is no whole discharge.
        points: the whole AC discharges that it rests on.
        idle_w: from the latest idle test; None where there is none.
        idle_too_coarse: there is an idle test, but it leaves the store's scale open.
    """

    analyses: tuple[RunAnalysis, ...]
    split: LossSplit | None
    points: tuple[LoadPoint, ...]
    idle_w: float | None
    idle_too_coarse: bool = False

    @property
    def has_split(self) -> bool:
        """Whether the runs tell the tolls apart."""
        return self.split is not None and self.split.e0_wh.value is not None


def together(analyses: Sequence[RunAnalysis]) -> Together:
    """Put a station's runs together; void ones and other windows are left out of the fit."""
    whole = [a for a in analyses if is_whole(a)]
    idle = _latest_idle(analyses)
    runs = [_run_at_load(a) for a in whole]
    split, too_coarse = _split(runs, whole[0].station, idle) if whole else (None, False)
    return Together(
        analyses=tuple(analyses),
        split=split,
        points=tuple(_point(a) for a in whole),
        idle_w=idle.idle_w if idle else None,
        idle_too_coarse=too_coarse,
    )


def _latest_idle(analyses: Sequence[RunAnalysis]) -> IdleResult | None:
    """The latest finished idle test with the AC outlets on."""
    found = [
        a.idle
        for a in sorted(analyses, key=lambda a: a.run.started_at)
        if a.idle is not None and a.run.method == "idle_ac" and a.run.state == "finished"
    ]
    return found[-1] if found else None


def _run_at_load(analysis: RunAnalysis) -> RunAtLoad:
    result = analysis.result
    assert result is not None
    assert result.duration_s is not None
    bare = RunAtLoad(energy_wh=result.delivered_wh, duration_s=result.duration_s)
    if analysis.mean_sq_w2 is None:
        return bare
    # Counter and power column differ a little; no mean square lies below the square of a mean.
    return replace(bare, mean_sq_w2=max(analysis.mean_sq_w2, bare.mean_w**2))


def _split(
    runs: Sequence[RunAtLoad], station: Station, idle: IdleResult | None
) -> tuple[LossSplit | None, bool]:
    """The loss split, and whether an idle test had to be left out of it."""
    rated_wh, rated_w = station.rated_wh, station.rated_w
    try:
        if idle is not None and idle_sets_the_scale(
            runs, rated_wh, idle.idle_w, idle.idle_w_expanded / COVERAGE_FACTOR
        ):
            split = fit_losses(runs, rated_wh, idle_w=idle.idle_w, rated_w=rated_w)
            return split, False
        return fit_losses(runs, rated_wh, rated_w=rated_w), idle is not None
    except UnusableDataError:
        return None, False


def is_whole(analysis: RunAnalysis) -> bool:
    """Whether a run is a finished discharge to empty through the AC outlet."""
    result = analysis.result
    return bool(
        analysis.counts
        and result is not None
        and result.duration_s
        and analysis.run.method in ("capacity_ac", "conditioning")
        and result.rating.window >= WHOLE
        and not result.has(Code.NO_CUTOFF)
        and not result.has(Code.STARTS_LOADED)
    )


def ledger_of(analysis: RunAnalysis, found: Together) -> Ledger | None:
    """The fullest ledger for a run: with its recharge and the loss split, where there are any."""
    discharge, recharge = cycle_of(analysis, found)
    if discharge is None or discharge.result is None:
        return None
    split = found.split if discharge.run.method in ("capacity_ac", "conditioning") else None
    return cycle_ledger(
        Cycle(
            discharge=discharge.result,
            drawn_wh=recharge.recharge.drawn_wh if recharge and recharge.recharge else None,
            split=split,
            mean_sq_w2=discharge.mean_sq_w2,
        )
    )


def cycle_of(
    analysis: RunAnalysis, found: Together
) -> tuple[RunAnalysis | None, RunAnalysis | None]:
    """(discharge, recharge) that a run belongs to: the recharge is the next one after it."""
    in_time = sorted(found.analyses, key=lambda a: a.run.started_at)
    if METHODS[analysis.run.method].flow is Flow.IN:
        before = [
            a
            for a in in_time
            if a.counts and a.run.started_at < analysis.run.started_at and _fits(a, analysis)
        ]
        return (before[-1] if before else None), analysis
    after = [a for a in in_time if a.run.started_at > analysis.run.started_at]
    for later in after:
        if later.recharge is not None and later.run.state == "finished":
            return analysis, later if _fits(analysis, later) else None
        if later.counts:
            break
    return analysis, None


def _fits(discharge: RunAnalysis, recharge: RunAnalysis) -> bool:
    """Whether a recharge puts back what a discharge took: the same window."""
    if recharge.recharge is None or not METHODS[discharge.run.method].gives_capacity:
        return False
    low, high = recharge.recharge.soc
    return abs(discharge.run.soc_to - low) <= 1 and abs(discharge.run.soc_from - high) <= 1


def inputs_beside(analysis: RunAnalysis, found: Together) -> list[InputsTogether]:
    """This recharge beside every other that flowed into the station at the same time."""
    mine = _input_trace(analysis)
    if mine is None:
        return []
    others = [
        other
        for a in found.analyses
        if a.run.id != analysis.run.id and a.recharge is not None and a.run.state == "finished"
        if (other := _input_trace(a)) is not None
    ]
    beside = (inputs_together(mine, other) for other in others)
    return [pair for pair in beside if pair is not None]


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


def repeats_of(analysis: RunAnalysis, found: Together) -> RepeatFigures | None:
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
    ]
    return repeat_figures(alike(same, result.mean_w))


def _repeat(analysis: RunAnalysis, result: DischargeResult) -> Repeat:
    """A run without what all runs of its meter share: gain and floor."""
    lines = analysis.budget.lines if analysis.budget else ()
    own = [line.u_wh for line in lines if not line.name.startswith("Meter")]
    return Repeat(
        number=analysis.run.number,
        energy_wh=result.delivered_wh,
        mean_w=result.mean_w or 0.0,
        own_u_wh=math.hypot(*own) if own else 0.0,
    )


def _point(analysis: RunAnalysis) -> LoadPoint:
    result = analysis.result
    assert result is not None
    return LoadPoint(
        number=analysis.run.number,
        mean_w=result.mean_w or 0.0,
        delivered_wh=result.delivered_wh,
        expanded_wh=analysis.budget.expanded_wh if analysis.budget else None,
    )
