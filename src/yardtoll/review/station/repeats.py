"""Runs that repeat each other, and what the station delivers by them."""

from yardtoll.core.discharge.repeats import Repeat, RepeatFigures, alike, repeat_figures
from yardtoll.core.electrical.trace import Code
from yardtoll.core.ledger.loss_fit import REPEATABILITY_DEGREES_OF_FREEDOM
from yardtoll.core.uncertainty.budget import Measured, station_mean
from yardtoll.review.outcome import EnergyOut
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns


def repeats_of(analysis: RunAnalysis, station: StationRuns) -> RepeatFigures | None:
    """The figures of all finished runs of the same method, window and load."""
    out = analysis.energy_out
    if not analysis.is_valid_discharge or out is None or not out.mean_w:
        return None
    same = [
        _repeat(a, a.energy_out)
        for a in station.analyses
        if a.is_valid_discharge
        and a.energy_out is not None
        and a.energy_out.mean_w
        and a.run.method == analysis.run.method
        and (a.run.soc_from, a.run.soc_to) == (analysis.run.soc_from, analysis.run.soc_to)
        and not a.energy_out.result.has(Code.NO_CUTOFF)
        and not a.doubts
    ]
    return repeat_figures(alike(same, out.mean_w), analysis.repeatability)


def station_energy(analysis: RunAnalysis, station: StationRuns) -> Measured | None:
    """What the station delivers at a run's load: by this run and its repeats; None without a meter.

    A run's own figure carries the meter's U; this one what differs from run to run as well.
    """
    repeats = repeats_of(analysis, station)
    if repeats is not None and repeats.mean is not None:
        return repeats.mean
    measured = analysis.energy_out.measured if analysis.energy_out is not None else None
    if measured is None:
        return None
    return station_mean([measured], analysis.repeatability, REPEATABILITY_DEGREES_OF_FREEDOM)


def _repeat(analysis: RunAnalysis, out: EnergyOut) -> Repeat:
    """A run without what all runs of its meter share: its gain."""
    return Repeat(
        number=analysis.run.number,
        energy_wh=out.delivered_wh,
        mean_w=out.mean_w,
        own_u_wh=out.budget.of_its_own().u if out.budget else 0.0,
        budget=out.budget,
    )
