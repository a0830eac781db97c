"""What a discharge and its recharge come to together: round trip, and all that was drawn."""

from yardtoll.core.uncertainty.budget import Measured, ratio, total
from yardtoll.review.together import CycleRuns


def round_trip_of(cycle: CycleRuns) -> Measured | None:
    """Delivered ÷ drawn of a cycle; a meter that did both falls out. None without its meters."""
    discharge = cycle.discharge
    if discharge is None or discharge.result is None or not cycle.recharges:
        return None
    drawn = drawn_of(cycle)
    if discharge.budget is None or drawn is None:
        return None
    delivered = Measured(value=discharge.result.delivered_wh, budget=discharge.budget)
    return ratio(delivered, drawn, names=("Delivered", "Drawn"))


def drawn_of(cycle: CycleRuns) -> Measured | None:
    """What all inputs of a recharge drew; None where one of them has no meter stated."""
    parts = [
        Measured(value=a.recharge.drawn_wh, budget=a.budget)
        for a in cycle.recharges
        if a.recharge is not None and a.budget is not None
    ]
    return total(parts) if parts and len(parts) == len(cycle.recharges) else None
