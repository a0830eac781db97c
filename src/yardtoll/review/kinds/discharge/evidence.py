"""What discharges give for the scorecard."""

from dataclasses import replace

from yardtoll.core.conformance.scorecard import Evidence
from yardtoll.core.formatting import format_with_uncertainty
from yardtoll.core.ledger.loss_fit import REPEATABILITY_DEGREES_OF_FREEDOM
from yardtoll.core.methods import Outlet
from yardtoll.core.uncertainty.budget import station_mean
from yardtoll.core.uncertainty.energy_budget import usable_ratio_window
from yardtoll.review.evidence import trusted
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.outlet_runs import (
    REGULATED_SHARE,
    is_whole,
    off_the_usual_load,
    outlet_of,
)
from yardtoll.review.station.repeats import station_energy
from yardtoll.review.station.runs import StationRuns

_FULL_PERCENT, _LEAST_WINDOW = 100.0, 0.8
"""A run from full to a floor of 20 % or less is scaled by its window (common practice)."""


def of_dc_port(run: RunAnalysis) -> dict[str, Evidence]:
    """Whether the DC port that a run loaded is regulated."""
    out = run.energy_out
    if outlet_of(run) is not Outlet.DC or out is None:
        return {}
    if not out.result.volts_mean or out.result.volts_min is None:
        return {}
    fall = 1 - out.result.volts_min / out.result.volts_mean
    words = f"falls {100 * fall:.1f} % below its mean in run {run.run.number}"
    return {"regulated_dc": trusted(float(fall <= REGULATED_SHARE), words, run)}


def of_capacity(station: StationRuns) -> dict[str, Evidence]:
    """Delivered ÷ rated at the load nearest to 0.2 C; without a whole run, of a window scaled."""
    whole = [a for a in station.analyses if is_whole(a) and outlet_of(a) is Outlet.AC]
    if not whole:
        return _of_window(station)
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


def _of_window(station: StationRuns) -> dict[str, Evidence]:
    """Delivered ÷ (rated × window) of a run that was ended at a floor, the scaling named."""
    ended = [a for a in station.analyses if _is_of_window(a)]
    if not ended:
        return {}
    nearest = min(ended, key=off_the_usual_load)
    out = nearest.energy_out
    assert out is not None
    value, expanded = out.result.usable_ratio_window, 0.0
    if out.budget is not None:
        scaled = usable_ratio_window(out.result, out.budget)
        mean = station_mean([scaled], nearest.repeatability, REPEATABILITY_DEGREES_OF_FREEDOM)
        value, expanded = mean.value, mean.expanded
    rating = out.result.rating
    shown = format_with_uncertainty(100 * value, 100 * expanded)
    words = (
        f"{shown} % of rated × {rating.window:.2f}, scaled: {rating.soc_from:g} → "
        f"{rating.soc_to:g} % by the display, at {out.mean_w:.0f} W in run {nearest.run.number}"
    )
    return {"usable_ratio": replace(trusted(value, words, nearest), expanded=expanded)}


def _is_of_window(analysis: RunAnalysis) -> bool:
    """Whether a discharge through AC covers enough of the scale to be scaled to all of it."""
    out = analysis.energy_out
    return bool(
        analysis.is_valid_discharge
        and out is not None
        and out.mean_w
        and outlet_of(analysis) is Outlet.AC
        and analysis.run.soc_from >= _FULL_PERCENT
        and _LEAST_WINDOW <= out.result.rating.window < 1
    )
