"""How a claim is meant: which side of its figure counts, and how much it leaves open.

The words beside a figure say so ("up to", "about", "±5 %"), else its kind does. The reviewer may
read a claim in another way: that is kept with it and named on the sheet.
"""

import re
from dataclasses import dataclass
from enum import StrEnum

from yardtoll.core.claims.kinds import CLAIM_KINDS, Claim, GoodSide
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import quoted

# The shares below are common practice, no source.
BOUND_SLACK = 0.02
NOMINAL_MINUS, NOMINAL_PLUS = 0.05, 0.10
SOLAR_MINUS = 0.05
AMPS_PLUS = 0.10
HELD_MINUS = 0.02
WEIGHT_PLUS = 0.05
ABOUT_SHARE = 0.05
AC_VOLTS_SHARE = 0.05
HELD_KINDS = ("continuous_w", "surge_w", "lifted_w")
INPUT_WATTS = ("recharge_w", "car_in_w", "usb_in_w", "combined_in_w")
INPUT_AMPS = ("wall_a", "car_in_a", "solar_a")
SYSTEM_VOLTS = {12.0: (10.5, 15.0), 24.0: (21.0, 30.0)}
"""A "12 V" port is one of a 12 V system: it follows the battery unless it is called regulated."""
_UPPER = re.compile(
    r"\b(?:up to|max(?:imum|\.)?|at most|not more than|peak input)\b", re.IGNORECASE
)
_ABOUT = re.compile(r"\b(?:about|approx\w*\.?|around|roughly|ca\.|circa)|[~≈]", re.IGNORECASE)
_PLUS_MINUS = re.compile(r"±\s*(\d+(?:\.\d+)?)\s*%")
_ROUNDED = re.compile(r"\brounded to (\d+(?:\.\d+)?) (h|min)\b")
_REGULATED = re.compile(r"\bregulated\b", re.IGNORECASE)
_KEPT = re.compile(
    r"^(?P<limit>at_least|at_most|within|upper_bound|as_seen)"
    r"(?:\s+(?P<first>[-+]\d+(?:\.\d+)?)\s*%)?(?:\s+(?P<second>[-+]\d+(?:\.\d+)?)\s*%)?$"
)


class LimitType(StrEnum):
    """Which side of a claimed figure is the good one."""

    AT_LEAST = "at_least"
    AT_MOST = "at_most"
    WITHIN = "within"
    UPPER_BOUND = "upper_bound"
    """Must not be exceeded; not reaching it is no failure."""
    AS_SEEN = "as_seen"

    @property
    def words(self) -> str:
        """As chosen from and shown."""
        return {
            "at_least": "at least",
            "at_most": "at most",
            "within": "nominal",
            "upper_bound": "an upper bound",
            "as_seen": "as seen",
        }[self.value]


@dataclass(frozen=True, kw_only=True)
class Meaning:
    """How one claim is judged, in the claim's own unit.

    Attributes:
        low, high: what a figure must not be below or above; None where that side is free.
        minus, plus: what the claim leaves open on either side, as shares of it.
        chosen: the reviewer reads it so; else its words or its kind do.
    """

    limit: LimitType
    low: float | None
    high: float | None
    minus: float = 0.0
    plus: float = 0.0
    why: str = ""
    chosen: bool = False

    @property
    def words(self) -> str:
        """Like "nominal, −5 % / +10 %", "at most, +5 %"."""
        parts = [f"−{100 * self.minus:g} %"] if self.minus else []
        parts += [f"+{100 * self.plus:g} %"] if self.plus else []
        if self.minus and self.minus == self.plus:
            parts = [f"±{100 * self.minus:g} %"]
        said = ", ".join([self.limit.words, " / ".join(parts)]) if parts else self.limit.words
        if self.chosen:
            return f"{said}, as read here"
        return f"{said}: {self.why}" if self.why else said

    @property
    def kept(self) -> str:
        """As it is kept with a claim; :func:`read_kept` reads it."""
        made: str = self.limit.value
        if self.minus:
            made += f" -{100 * self.minus:g} %"
        if self.plus:
            made += f" +{100 * self.plus:g} %"
        return made


def judged_as_will_do(text: str) -> bool:
    """Whether a kept reading of a claim is one."""
    return not text or _KEPT.match(text) is not None


def read_kept(text: str, value: float) -> Meaning:
    """A reading as it was kept, for a claim of this value.

    Raises:
        UnusableDataError: it is none.
    """
    found = _KEPT.match(text)
    if not found:
        raise UnusableDataError(f"{quoted(text)} is not a known way to judge a claim")
    limit = LimitType(found["limit"])
    shares = [float(found[name]) / 100 for name in ("first", "second") if found[name]]
    minus = -min([*shares, 0.0])
    plus = max([*shares, 0.0])
    return _meaning(limit, value, minus, plus, chosen=True)


def meaning_of(claim: Claim) -> Meaning:
    """How a claim is judged: as the reviewer reads it, else by its words, else by its kind."""
    value = claim.value or 0.0
    if claim.judged_as:
        return read_kept(claim.judged_as, value)
    words = f"{claim.wording} {claim.condition}"
    if claim.about.good_side is GoodSide.YES_NO or (claim.about.is_number and not claim.about.unit):
        return Meaning(limit=LimitType.AS_SEEN, low=value, high=value)
    if stated := _PLUS_MINUS.search(words):
        share = float(stated[1]) / 100
        return _meaning(LimitType.WITHIN, value, share, share, why="as claimed")
    made = _by_kind(claim, value, words)
    return _loosened(made, value) if _ABOUT.search(words) else made


_USUAL: dict[str, tuple[LimitType, float, float]] = {
    **dict.fromkeys(INPUT_WATTS, (LimitType.WITHIN, NOMINAL_MINUS, NOMINAL_PLUS)),
    **dict.fromkeys(INPUT_AMPS, (LimitType.AT_MOST, 0.0, AMPS_PLUS)),
    **dict.fromkeys(HELD_KINDS, (LimitType.AT_LEAST, HELD_MINUS, 0.0)),
    "solar_w": (LimitType.AT_LEAST, SOLAR_MINUS, 0.0),
    "weight_kg": (LimitType.AT_MOST, 0.0, WEIGHT_PLUS),
    "ac_v": (LimitType.WITHIN, AC_VOLTS_SHARE, AC_VOLTS_SHARE),
}
"""The meaning of kinds that their side alone does not give."""


def _by_kind(claim: Claim, value: float, words: str) -> Meaning:
    kind, about = claim.kind, claim.about
    bound = _UPPER.search(words)
    if bound and kind in (*INPUT_WATTS, *INPUT_AMPS, "solar_w"):
        why = f"“{bound[0].lower()}”"
        return _meaning(LimitType.UPPER_BOUND, value, 0.0, BOUND_SLACK, why=why)
    if kind in _USUAL:
        return _meaning(_USUAL[kind][0], value, *_USUAL[kind][1:])
    if kind.endswith("_v") and value in SYSTEM_VOLTS and not _REGULATED.search(words):
        low, high = SYSTEM_VOLTS[value]
        why = f"a {value:g} V system: {low:g} to {high:g} V"
        return Meaning(limit=LimitType.WITHIN, low=low, high=high, why=why)
    if about.unit in ("h", "min"):
        return _time(value, about.unit, words)
    side = {GoodSide.AT_LEAST: LimitType.AT_LEAST, GoodSide.AT_MOST: LimitType.AT_MOST}
    limit = side.get(about.good_side, LimitType.WITHIN)
    within = about.tolerance if limit is LimitType.WITHIN else 0.0
    return _meaning(limit, value, within, within)


def _time(value: float, unit: str, words: str) -> Meaning:
    """At most, with the rounding that the claim itself has: "2.1 h" may be 2.1 h and 3 minutes."""
    step = 10.0 ** -_decimals(value)
    if rounded := _ROUNDED.search(words):
        in_hours = float(rounded[1]) / (60.0 if rounded[2] == "min" else 1.0)
        step = in_hours * (60.0 if unit == "min" else 1.0)
    high = value + step / 2
    return Meaning(
        limit=LimitType.AT_MOST, low=None, high=high, why=f"as rounded, up to {high:g} {unit}"
    )


def _decimals(value: float) -> int:
    _, _, decimals = f"{value:.6f}".rstrip("0").partition(".")
    return len(decimals)


def _meaning(
    limit: LimitType,
    value: float,
    minus: float,
    plus: float,
    *,
    why: str = "",
    chosen: bool = False,
) -> Meaning:
    low, high = value * (1 - minus), value * (1 + plus)
    return Meaning(
        limit=limit,
        low=None if limit in (LimitType.AT_MOST, LimitType.UPPER_BOUND) else low,
        high=None if limit is LimitType.AT_LEAST else high,
        minus=minus,
        plus=plus,
        why=why,
        chosen=chosen,
    )


def _loosened(made: Meaning, value: float) -> Meaning:
    """A figure called "about" leaves 5 % open on the sides that count, or what its kind leaves."""
    minus = max(made.minus, ABOUT_SHARE) if made.low is not None else 0.0
    plus = max(made.plus, ABOUT_SHARE) if made.high is not None else 0.0
    return _meaning(made.limit, value, minus, plus, why="“about”")


def demand_of(claim: Claim) -> str:
    """What is claimed, with its words, its side and its condition: "up to 1400 W", "≤ 58 min"."""
    words = [w for w in claim.wording.split(", ") if w and not w.startswith("rounded")]
    before = " ".join(w for w in words if not w.startswith("±"))
    after = " ".join(w for w in words if w.startswith("±"))
    side = ""
    if claim.about.is_number and claim.about.good_side is not GoodSide.STATED and not before:
        sides = {LimitType.AT_LEAST: "≥", LimitType.AT_MOST: "≤", LimitType.UPPER_BOUND: "≤"}
        side = sides.get(meaning_of(claim).limit, "")
    return " ".join(f"{before}{side} {claim.shown} {after} {claim.condition}".split())


def choices_for(kind: str) -> tuple[LimitType, ...]:
    """The ways in which a claim of a kind may be read; none where it is as seen or stated."""
    about = CLAIM_KINDS[kind]
    if not about.is_number or not about.unit or about.good_side is GoodSide.STATED:
        return ()
    return (LimitType.AT_LEAST, LimitType.AT_MOST, LimitType.WITHIN, LimitType.UPPER_BOUND)
