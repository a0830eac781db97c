"""What a discharge and its recharge come to together: round trip, and all that was drawn."""

from yardtoll.core.electrical.trace import Code
from yardtoll.core.ledger.loss_fit import REPEATABILITY_FREEDOM
from yardtoll.core.uncertainty.budget import Measured, ratio, station_mean, total
from yardtoll.review.together import CycleRuns


def round_trip_of(cycle: CycleRuns) -> Measured | None:
    """Delivered ÷ drawn of this cycle: what one meter's gain has in common falls out.

    None without its meters, and where more came out than went in: that is no efficiency.
    """
    discharge = cycle.discharge
    if discharge is None or discharge.result is None or not cycle.recharges:
        return None
    drawn = drawn_of(cycle)
    if discharge.budget is None or drawn is None:
        return None
    if discharge.result.delivered_wh > drawn.value:
        return None
    delivered = Measured(value=discharge.result.delivered_wh, budget=discharge.budget)
    return ratio(delivered, drawn, names=("Delivered", "Drawn"))


def station_round_trip(cycle: CycleRuns) -> Measured | None:
    """The same as what it says of the station: with run-to-run repeatability in it."""
    trip = round_trip_of(cycle)
    if trip is None or cycle.discharge is None:
        return None
    return station_mean([trip], cycle.discharge.repeatability, REPEATABILITY_FREEDOM)


def doubts_of_cycle(cycle: CycleRuns) -> tuple[Code, ...]:
    """What any of its runs cannot be trusted for, and nobody has explained."""
    runs = [run for run in (cycle.discharge, *cycle.recharges) if run is not None]
    return tuple(dict.fromkeys(code for run in runs for code in run.doubts))


def drawn_of(cycle: CycleRuns) -> Measured | None:
    """What all inputs of a recharge drew; None where one of them has no meter stated."""
    parts = [
        Measured(value=a.recharge.drawn_wh, budget=a.budget)
        for a in cycle.recharges
        if a.recharge is not None and a.budget is not None
    ]
    return total(parts) if parts and len(parts) == len(cycle.recharges) else None
