"""The scorecard: points with a rule each; without evidence a point is not scored, not zero.

The shipped ten points are common practice, no source; a reviewer edits them.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

SIGNS = (">=", "<=", "yes")
"""How a point is judged."""


@dataclass(frozen=True, kw_only=True)
class ScorePoint:
    """One point of the scorecard.

    Attributes:
        quantity: what is looked at, such as "usable_ratio"; a yes/no is 1 or 0.
        sign: ">=", "<=" or "yes".
        limit: for the whole point; not used for "yes".
        half_limit: for half of it; None where there is no half.
    """

    title: str
    quantity: str
    sign: str
    limit: float = 1.0
    half_limit: float | None = None
    points: float = 1.0


@dataclass(frozen=True, kw_only=True)
class Evidence:
    """A value for a quantity, and where it comes from in words.

    A doubt keeps it from scoring, and so does a limit that is within ``expanded``, its U.
    """

    value: float
    words: str
    doubt: str = ""
    expanded: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Scored:
    """A point with what it got; ``points`` is None where there is no evidence."""

    point: ScorePoint
    points: float | None
    evidence: str


SHIPPED_POINTS = (
    ScorePoint(
        title="Full from the wall in under 4 h", quantity="full_charge_h", sign="<=", limit=4
    ),
    ScorePoint(title="Pass-through", quantity="pass_through", sign="yes"),
    ScorePoint(title="Pure sine at nominal volts", quantity="pure_sine", sign="yes"),
    ScorePoint(title="Regulated DC", quantity="regulated_dc", sign="yes"),
    ScorePoint(title="Informative display", quantity="informative_display", sign="yes"),
    ScorePoint(title="No unasked auto-off", quantity="no_auto_off", sign="yes"),
    ScorePoint(title="UPS", quantity="ups", sign="yes"),
    ScorePoint(title="85 % of rated delivered", quantity="usable_ratio", sign=">=", limit=0.85),
    ScorePoint(title="Full from the sun in under 5 h", quantity="solar_full_h", sign="<=", limit=5),
    ScorePoint(
        title="Price per Wh", quantity="price_per_wh", sign="<=", limit=0.80, half_limit=1.00
    ),
)
SEEN_BY_EYE = {
    "pass_through": "Feeds a load while it charges",
    "pure_sine": "Pure sine, seen on a scope",
    "regulated_dc": "DC volts hold from full to empty",
    "informative_display": "The display tells W in, W out, % and time left",
    "no_auto_off": "Does not switch itself off unasked",
    "ups": "Takes over when the wall is pulled",
}
"""Quantities that are seen rather than worked out, and how they are asked for."""


def score(points: Sequence[ScorePoint], evidence: Mapping[str, Evidence]) -> list[Scored]:
    """Every point with what it got."""
    return [_scored(point, evidence.get(point.quantity)) for point in points]


def summed(scored: Sequence[Scored]) -> tuple[float, float]:
    """(points got, points that could be got) over the points that have evidence."""
    judged = [s for s in scored if s.points is not None]
    return sum(s.points or 0.0 for s in judged), sum(s.point.points for s in judged)


def _scored(point: ScorePoint, found: Evidence | None) -> Scored:
    if found is None:
        return Scored(point=point, points=None, evidence="no evidence, not scored")
    if found.doubt:
        return Scored(
            point=point, points=None, evidence=f"{found.words}, not scored: {found.doubt}"
        )
    ends = {_share(point, found.value + way * found.expanded) for way in (-1.0, 0.0, 1.0)}
    if len(ends) > 1:
        return Scored(point=point, points=None, evidence=f"{found.words}, too close to call")
    return Scored(
        point=point, points=point.points * _share(point, found.value), evidence=found.words
    )


def _share(point: ScorePoint, value: float) -> float:
    if point.sign == "yes":
        return 1.0 if value else 0.0
    for limit, share in ((point.limit, 1.0), (point.half_limit, 0.5)):
        if limit is not None and (value >= limit if point.sign == ">=" else value <= limit):
            return share
    return 0.0
