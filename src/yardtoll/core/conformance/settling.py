"""What would make a verdict conclusive: a better meter, more repeats, a longer run."""

import math

from yardtoll.core.uncertainty.budget import Budget

METER_CLASSES = (0.02, 0.01, 0.005, 0.002, 0.001)
"""Accuracies that meters are sold with, as shares of the reading."""


def what_would_settle(value: float, budget: Budget, margin: float) -> str:
    """A sentence on the least change that makes U smaller than the margin; "" without a budget.

    Args:
        value, margin: the figure and how far it is from the limit, in the budget's unit, both ≥ 0.
    """
    if not budget.lines:
        return ""
    gain = [line for line in budget.lines if line.of_gain]
    rest = math.hypot(*(line.u for line in budget.lines if line not in gain))
    room = (margin / budget.coverage_factor) ** 2 - rest**2
    if gain and value and room > 0:
        needed = math.sqrt(3 * room) / abs(value)
        fitting = [share for share in METER_CLASSES if share <= needed]
        now = math.sqrt(3) * math.hypot(*(line.u for line in gain)) / abs(value)
        if fitting and fitting[0] < now:
            return f"A meter of ±{100 * fitting[0]:g} % would make this verdict conclusive."
    largest = budget.lines[0]
    share = budget.share(largest)
    words = (
        f"The largest share of its uncertainty, {share:.0%}, is {largest.name.lower()} "
        f"({largest.why})"
    )
    if largest.longer_helps:
        return f"{words}: a longer run makes it smaller."
    if largest.repeats_help:
        return f"{words}: more repeats make it smaller."
    return f"{words}; more repeats and a better meter make it smaller."
