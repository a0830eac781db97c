"""Figures of a solar run that need no model of the sun: harvest, volts, what another took."""

from datetime import datetime

import numpy as np

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.uncertainty.budget import Budget, Contribution, rectangular
from yardtoll.core.uncertainty.energy_budget import DC, harvest_budget, power_budget
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.together import Beside

_TAKING_SHARE = 0.1
CLEAR_SKY_LIMIT = 0.10
"""A clear-sky model may be off by this share (common practice, no source)."""
TYPED_LIMIT = 0.10
"""So may irradiance read by hand now and then."""
AIM_LIMIT = 0.02
"""What a few degrees of tilt or azimuth do to a day's sum (common practice, no source)."""
CELL_LIMIT_K = 5.0
"""How far a modelled cell temperature may be off (common practice, no source)."""
WIRING_LIMIT = 0.01


def harvest_of(analysis: RunAnalysis) -> Budget | None:
    """What stands behind a solar run's harvest; None without a meter."""
    if analysis.solar is None or analysis.meter is None:
        return None
    run = analysis.solar.run
    return harvest_budget(
        run.harvest_wh,
        run.duration_s,
        run.sample_limits,
        run.gaps,
        analysis.meter.accuracy,
        str(analysis.meter.id),
    )


def performance_budget(analysis: RunAnalysis) -> Budget | None:
    """Of harvest ÷ what the sun allowed, a share: the meter's lines, and the sky's and panels'."""
    review, harvest = analysis.solar, harvest_of(analysis)
    if review is None or harvest is None or review.run.performance is None:
        return None
    expected_wh = review.run.expected_wh or 0.0
    lines = harvest.scaled(1 / expected_wh, "").lines
    return Budget.of("", [*lines, *_model_lines(analysis, review.run.performance)])


def nameplate_budget(analysis: RunAnalysis) -> Budget | None:
    """Of the share of the nameplate at 1000 W/m², the same way."""
    review, meter = analysis.solar, analysis.meter
    if review is None or meter is None or review.run.nameplate_share is None:
        return None
    share = review.run.nameplate_share
    power = power_budget(review.run.peak_w, meter.accuracy, str(meter.id), range_=DC, level="in")
    lines = power.scaled(share / review.run.peak_w, "").lines
    return Budget.of("", [*lines, *_model_lines(analysis, share)])


def _model_lines(analysis: RunAnalysis, share: float) -> list[Contribution]:
    """What the light and the panels' model leave open, as shares of the figure."""
    review = analysis.solar
    assert review is not None
    light = {
        "sensor": (review.sensor_share, "Irradiance sensor's class"),
        "typed": (TYPED_LIMIT, "Irradiance read by hand"),
    }.get(review.light, (CLEAR_SKY_LIMIT, "Clear-sky model"))
    gamma = abs(review.arrays[0].gamma) if review.arrays else 0.0037
    parts = [
        (light[1], light[0], f"±{light[0]:.0%}"),
        ("Cell temperature", gamma * CELL_LIMIT_K, f"±{CELL_LIMIT_K:g} K"),
        ("Wiring", WIRING_LIMIT, f"±{WIRING_LIMIT:.0%}"),
    ]
    # A sensor beside the panels is turned as they are.
    if review.light != "sensor":
        parts.append(("How the panels stood", AIM_LIMIT, f"±{AIM_LIMIT:.0%}"))
    return [rectangular(name, limit * share, why) for name, limit, why in parts]


def lost_to_the_other(analysis: RunAnalysis, beside: Beside) -> float | None:
    """Wh that the sun offered and the station did not take while another input held the sum at
    its cap; None where no cap is seen or the sun is not known.
    """
    review, pair = analysis.solar, beside.pair
    if review is None or review.run.free_w is None or pair.cap_w is None:
        return None
    began_s = datetime.fromisoformat(analysis.run.started_at).timestamp()
    run, free_w = review.run, review.run.free_w
    usual = run.usual_share if run.usual_share is not None else 1.0
    offered = np.interp(pair.time_s - began_s, run.time_s, usual * free_w, left=0, right=0)
    if review.claimed_w is not None:
        offered = np.minimum(offered, review.claimed_w)
    mine, other = pair.powers_w
    held = (mine + other > 0.97 * pair.cap_w) & (mine > 0) & (other > 0)
    step_s = float(pair.time_s[1] - pair.time_s[0])
    return float(np.maximum(offered - mine, 0.0)[held].sum()) * step_s / SECONDS_PER_HOUR


def volts_seen(analysis: RunAnalysis) -> tuple[float, float] | None:
    """Lowest and highest volts at which the input really took power; None where not logged."""
    if analysis.trace is None:
        return None
    volts = analysis.trace.columns.get(Quantity.VOLTS)
    power = analysis.trace.columns.get(Quantity.POWER)
    if volts is None or power is None:
        return None
    taking = np.isfinite(volts) & (power > _TAKING_SHARE * float(np.nanmax(power)))
    if not taking.any():
        return None
    return float(np.percentile(volts[taking], 1)), float(np.percentile(volts[taking], 99))
