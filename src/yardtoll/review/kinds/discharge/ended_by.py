"""What ended a discharge: as the reviewer says, else as its figures allow."""

from yardtoll.core.conformance.conditions import HOLD_SLACK
from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.core.electrical.trace import Code
from yardtoll.review.run_analysis import RunAnalysis

EMPTY_SHARE = 0.8
"""A run within its rating that delivered more than this share of the rated energy ended empty."""


def what_ended(analysis: RunAnalysis, at_most_w: float | None = None) -> str:
    """A word such as "trip", "hand" or "battery"; "" where it is not known.

    Nothing within the rated power that had delivered most of the rated energy is called a trip:
    that is an empty battery. A log that ends under load was ended by hand.

    Args:
        at_most_w: the power up to which the station should hold; the station's rating where None.
    """
    if analysis.run.ended_by:
        return analysis.run.ended_by
    out = analysis.energy_out
    if out is None:
        return EndedBy.UNKNOWN.value
    result = out.result
    if result.has(Code.NO_CUTOFF):
        return EndedBy.HAND.value
    rated_w = at_most_w or analysis.station.rated_w
    within = (result.mean_w or 0.0) <= rated_w * (1 + HOLD_SLACK)
    if within and result.usable_ratio >= EMPTY_SHARE:
        return EndedBy.BATTERY.value
    if out.outlet is not None and within:
        return EndedBy.BATTERY.value
    return EndedBy.UNKNOWN.value
