"""Budgets of figures other than an energy, and what to say where there is none."""

from yardtoll.core.uncertainty.budget import Budget, rectangular
from yardtoll.review.analysis import RunAnalysis

EXACT = Budget(unit="", lines=())
NO_METER = "No meter is stated, so its uncertainty is not known: edit the run under Ledger."


def watts_budget(watts: float, analysis: RunAnalysis) -> Budget | None:
    """Of a power: the meter's gain and floor; None without a meter."""
    if analysis.meter is None:
        return None
    accuracy = analysis.meter.accuracy
    share = accuracy.reading_share
    gain = rectangular(
        "Meter gain",
        share * watts,
        f"±{100 * share:g} % of {watts:.0f} W",
        shared=f"gain of {analysis.meter.id}",
    )
    floor = rectangular("Meter floor", accuracy.floor_w, f"±{accuracy.floor_w:g} W")
    return Budget.of("W", [gain, floor])


def gain_budget(value: float, unit: str, analysis: RunAnalysis) -> Budget | None:
    """Of volts, amps or hertz; None without a meter.

    A meter's volts are taken to be as good as its watts, for want of a limit of their own.
    """
    if analysis.meter is None:
        return None
    share = analysis.meter.reading_share
    why = f"±{100 * share:g} % of {value:.1f} {unit}, as its watts"
    return Budget.of(unit, [rectangular("Meter gain", share * value, why)])
