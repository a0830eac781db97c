"""Figures of a solar run that need no model of the sun: harvest, volts, what another took."""

from datetime import datetime

import numpy as np

from yardtoll.core.energy import SECONDS_PER_HOUR
from yardtoll.core.quantities import Quantity
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import harvest_budget
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.together import Beside

_TAKING_SHARE = 0.1


def harvest_of(analysis: RunAnalysis) -> Budget | None:
    """What stands behind a solar run's harvest; None without a meter."""
    if analysis.solar is None or analysis.meter is None:
        return None
    run = analysis.solar.run
    return harvest_budget(
        run.harvest_wh,
        run.duration_s,
        run.fineness,
        run.gaps,
        analysis.meter.accuracy,
        str(analysis.meter.id),
    )


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
