"""What discharges give for the scorecard."""

from dataclasses import replace

from yardtoll.core.conformance.scorecard import Evidence
from yardtoll.core.formatting import format_with_uncertainty
from yardtoll.core.methods import Outlet
from yardtoll.review.evidence import trusted
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.outlet_runs import is_whole, off_the_usual_load, outlet_of
from yardtoll.review.station.repeats import station_energy
from yardtoll.review.station.runs import StationRuns

_REGULATED = 0.05
"""A DC port within this share of its mean from full to empty is regulated (common practice)."""


def of_dc_port(run: RunAnalysis) -> dict[str, Evidence]:
    """Whether the DC port that a run loaded is regulated."""
    out = run.energy_out
    if outlet_of(run) is not Outlet.DC or out is None:
        return {}
    if not out.result.volts_mean or out.result.volts_min is None:
        return {}
    fall = 1 - out.result.volts_min / out.result.volts_mean
    words = f"falls {100 * fall:.1f} % below its mean in run {run.run.number}"
    return {"regulated_dc": trusted(float(fall <= _REGULATED), words, run)}


def of_capacity(station: StationRuns) -> dict[str, Evidence]:
    """Delivered ÷ rated at the load nearest to 0.2 C."""
    whole = [a for a in station.analyses if is_whole(a) and outlet_of(a) is Outlet.AC]
    if not whole:
        return {}
    nearest = min(whole, key=off_the_usual_load)
    out = nearest.energy_out
    assert out is not None
    measured = station_energy(nearest, station)
    rated_wh = nearest.station.rated_wh
    value = measured.value / rated_wh if measured else out.result.usable_ratio
    expanded = measured.expanded / rated_wh if measured else 0.0
    shown = format_with_uncertainty(100 * value, 100 * expanded)
    words = f"{shown} % at {out.mean_w:.0f} W in run {nearest.run.number}"
    return {"usable_ratio": replace(trusted(value, words, nearest), expanded=expanded)}
