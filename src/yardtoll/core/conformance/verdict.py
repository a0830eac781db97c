"""A result held against a limit: does it meet it, fall short, or is it too close to call?"""

import math
from dataclasses import dataclass
from enum import StrEnum

from yardtoll.core.errors import ValueOutOfRangeError


class Direction(StrEnum):
    """Which side of a limit is the good one."""

    AT_LEAST = ">="
    AT_MOST = "<="
    WITHIN = "="
    """Within a tolerance on either side of a nominal value."""


class Rule(StrEnum):
    """How uncertainty enters a verdict (JCGM 106:2012, 8.2 and 8.3).

    GUARDED  must clear the limit by U (the default)
    SIMPLE   compares the numbers alone
    SHARED   goes by the probability of conformity, at 0.5
    """

    GUARDED = "guarded"
    SIMPLE = "simple"
    SHARED = "shared"


class Outcome(StrEnum):
    """The words of a verdict."""

    MEETS = "meets"
    FALLS_SHORT = "falls_short"
    TOO_CLOSE = "too_close_to_call"

    @property
    def words(self) -> str:
        """As shown to a reader."""
        return self.value.replace("_", " ")


@dataclass(frozen=True, kw_only=True)
class Verdict:
    """A judged value.

    Attributes:
        margin: how far the value lies on the good side, in the limit's unit; negative if not.
        probability: of conformity for a normal distribution with u = U ÷ k.
    """

    outcome: Outcome
    rule: Rule
    value: float
    expanded: float
    limit: float
    direction: Direction
    tolerance: float
    margin: float
    probability: float


def judge(
    value: float,
    expanded: float,
    limit: float,
    direction: Direction,
    rule: Rule = Rule.GUARDED,
    *,
    tolerance: float = 0.0,
    coverage_factor: float = 2.0,
) -> Verdict:
    """Judge ``value`` ± ``expanded`` (U) against ``limit``, all in one unit.

    Args:
        coverage_factor: the k of ``expanded``; more than 2 where repeats are few.
        tolerance: half the width around ``limit``, for :attr:`Direction.WITHIN` only.

    Raises:
        ValueOutOfRangeError: U or tolerance is negative or not a number.
    """
    if not (math.isfinite(tolerance) and tolerance >= 0):
        raise ValueOutOfRangeError("the tolerance", tolerance, "0 or more")
    if not (math.isfinite(expanded) and expanded >= 0):
        raise ValueOutOfRangeError("U", expanded, "0 or more")
    margin = _margin(value, limit, direction, tolerance)
    # A margin of a few rounding errors is none: 0.9 − 0.85 − 0.05 must count as on the limit.
    if math.isclose(margin, 0.0, abs_tol=1e-12 * max(abs(value), abs(limit))):
        margin = 0.0
    u = expanded / coverage_factor
    probability = _probability(margin, u)
    if direction is Direction.WITHIN:
        # Both limits count: Φ(margin ÷ u) − Φ(−(2·tolerance − margin) ÷ u).
        other = 2 * tolerance - margin
        probability = max(probability + _probability(other, u) - 1.0, 0.0)
    return Verdict(
        outcome=_outcome(margin, expanded, probability, rule),
        rule=rule,
        value=value,
        expanded=expanded,
        limit=limit,
        direction=direction,
        tolerance=tolerance,
        margin=margin,
        probability=probability,
    )


def _margin(value: float, limit: float, direction: Direction, tolerance: float) -> float:
    """How far inside the nearest limit."""
    if direction is Direction.WITHIN:
        return tolerance - abs(value - limit)
    return value - limit if direction is Direction.AT_LEAST else limit - value


def _probability(margin: float, u: float) -> float:
    """Φ(margin ÷ u) (JCGM 106:2012, eq. 7.3.3); a step where u is 0."""
    if u == 0:
        return 1.0 if margin >= 0 else 0.0
    return 0.5 * (1.0 + math.erf(margin / u / math.sqrt(2)))


def _outcome(margin: float, expanded: float, probability: float, rule: Rule) -> Outcome:
    if rule is Rule.SHARED:
        return Outcome.MEETS if probability >= 0.5 else Outcome.FALLS_SHORT
    guard = expanded if rule is Rule.GUARDED else 0.0
    slack = 1e-12 * max(expanded, abs(margin))
    if margin >= guard - slack:
        return Outcome.MEETS
    if margin < 0 and -margin >= guard - slack:
        return Outcome.FALLS_SHORT
    return Outcome.TOO_CLOSE
