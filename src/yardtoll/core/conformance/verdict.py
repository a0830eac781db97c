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
    """How uncertainty enters a verdict.

    GUARDED  must clear the limit by U (the default; guarded acceptance, JCGM 106:2012, 8.3)
    SIMPLE   compares the numbers alone (simple acceptance or shared risk, JCGM 106:2012, 8.2)
    LIKELY   goes by the probability of conformity, at 0.5
    """

    GUARDED = "guarded"
    SIMPLE = "simple"
    LIKELY = "likely"

    @classmethod
    def _missing_(cls, value: object) -> "Rule | None":
        """Yards and commands of earlier versions say "shared"."""
        return cls.LIKELY if value == "shared" else None


class Outcome(StrEnum):
    """The words of a verdict."""

    MEETS = "meets"
    FALLS_SHORT = "falls_short"
    TOO_CLOSE = "too_close_to_call"
    CANNOT_BE_JUDGED = "cannot_be_judged"

    @property
    def words(self) -> str:
        """As shown to a reader."""
        return self.value.replace("_", " ")


@dataclass(frozen=True, kw_only=True)
class Verdict:
    """A judged value.

    Attributes:
        margin: how far the value lies on the good side, in the limit's unit; negative if not.
        probability: of conformity, for a normal distribution with u = U ÷ k, or Student's t where
            repeats are few.
        u_too_large: U is larger than the tolerance, so that no value could meet or miss it.
        reason: why it cannot be judged; "" where it can.
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
    u_too_large: bool = False
    reason: str = ""


def judge(
    value: float,
    expanded: float,
    limit: float,
    direction: Direction,
    rule: Rule = Rule.GUARDED,
    *,
    tolerance: float = 0.0,
    coverage_factor: float = 2.0,
    degrees_of_freedom: float = math.inf,
    doubt: str = "",
) -> Verdict:
    """Judge ``value`` ± ``expanded`` (U) against ``limit``, all in one unit.

    Args:
        coverage_factor: the k of ``expanded``; more than 2 where repeats are few.
        degrees_of_freedom: degrees of freedom behind U, for the probability; infinite for a normal
            distribution.
        tolerance: half the width around ``limit``, for :attr:`Direction.WITHIN` only.
        doubt: why the value cannot be trusted to meet anything; "" where it can. It keeps nothing
            from falling short, nor the simple rule from anything.

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
    probability = _probability(margin, u, degrees_of_freedom)
    if direction is Direction.WITHIN:
        # Both limits count (JCGM 106:2012, 7.4): Φ(margin ÷ u) − Φ(−(2·tolerance − margin) ÷ u).
        other = 2 * tolerance - margin
        probability = max(probability + _probability(other, u, degrees_of_freedom) - 1.0, 0.0)
    too_large = direction is Direction.WITHIN and 0 < tolerance < expanded
    outcome = _outcome(margin, expanded, probability, rule)
    if too_large and rule is not Rule.SIMPLE:
        outcome = Outcome.TOO_CLOSE
    doubted = bool(doubt) and outcome is Outcome.MEETS and rule is not Rule.SIMPLE
    return Verdict(
        outcome=Outcome.CANNOT_BE_JUDGED if doubted else outcome,
        rule=rule,
        value=value,
        expanded=expanded,
        limit=limit,
        direction=direction,
        tolerance=tolerance,
        margin=margin,
        probability=probability,
        u_too_large=too_large,
        reason=doubt if doubted else "",
    )


def _margin(value: float, limit: float, direction: Direction, tolerance: float) -> float:
    """How far inside the nearest limit."""
    if direction is Direction.WITHIN:
        return tolerance - abs(value - limit)
    return value - limit if direction is Direction.AT_LEAST else limit - value


def _probability(margin: float, u: float, degrees_of_freedom: float) -> float:
    """Φ(margin ÷ u) (JCGM 106:2012, 7.3), or Student's t for few repeats; a step where u is 0."""
    if u == 0:
        return 1.0 if margin >= 0 else 0.0
    if degrees_of_freedom < math.inf:
        # Loading it takes longer than opening the window, and only repeats need it.
        from scipy.special import stdtr

        return float(stdtr(max(degrees_of_freedom, 1.0), margin / u))
    return 0.5 * (1.0 + math.erf(margin / u / math.sqrt(2)))


def _outcome(margin: float, expanded: float, probability: float, rule: Rule) -> Outcome:
    if rule is Rule.LIKELY:
        return Outcome.MEETS if probability >= 0.5 else Outcome.FALLS_SHORT
    guard = expanded if rule is Rule.GUARDED else 0.0
    slack = 1e-12 * max(expanded, abs(margin))
    if margin >= guard - slack:
        return Outcome.MEETS
    if margin < 0 and -margin >= guard - slack:
        return Outcome.FALLS_SHORT
    return Outcome.TOO_CLOSE
