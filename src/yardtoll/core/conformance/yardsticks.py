"""Named limits a reviewer judges by, and the verdict of a discharge against one of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

from yardtoll.core.conformance.verdict import Direction, Outcome, Rule, Verdict, judge
from yardtoll.core.electrical.doubts import doubt_reason
from yardtoll.core.electrical.trace import Code
from yardtoll.core.formatting import decimals_for, format_probability, format_with_uncertainty
from yardtoll.core.uncertainty.budget import Measured

if TYPE_CHECKING:
    from yardtoll.core.discharge.analysis import DischargeResult


class Basis(StrEnum):
    """What a figure is a ratio of; never one called another."""

    OF_RATED = "usable_ratio"
    OF_WINDOW = "usable_ratio_window"
    OF_RATED_DC = "usable_ratio_dc"
    FULL_LOAD = "usable_ratio_full_load"
    ROUND_TRIP = "round_trip"
    CONVERSION = "conversion"
    PRICE_PER_WH = "price_per_wh"

    @property
    def words(self) -> str:
        """As written in a title."""
        return {
            "usable_ratio": "of rated",
            "usable_ratio_window": "of the rated window",
            "usable_ratio_dc": "of rated through DC",
            "usable_ratio_full_load": "of rated at full load",
            "round_trip": "round trip",
            "conversion": "conversion, Euro-weighted",
            "price_per_wh": "per rated Wh",
        }[self.value]

    @property
    def is_share(self) -> bool:
        """Whether it is shown in percent."""
        return self is not Basis.PRICE_PER_WH

    @property
    def direction(self) -> Direction:
        """Which side of the limit is the good one."""
        return Direction.AT_LEAST if self.is_share else Direction.AT_MOST


@dataclass(frozen=True, kw_only=True)
class Yardstick:
    """A limit with a name: such as the delivered share at which a station passes."""

    name: str
    limit: float
    basis: Basis = Basis.OF_RATED

    @property
    def shown(self) -> str:
        """Like "≥ 85 % of rated"."""
        limit = f"{100 * self.limit:g} %" if self.basis.is_share else f"{self.limit:g}"
        sign = "≥" if self.basis.direction is Direction.AT_LEAST else "≤"
        return f"{sign} {limit} {self.basis.words}"


# The schools in common use: common practice, no source.
SHIPPED_YARDSTICKS = (
    Yardstick(name="Pass", limit=0.85),
    Yardstick(name="Good", limit=0.80),
    Yardstick(name="Excellent", limit=0.90),
    Yardstick(name="Pass, over the window", limit=0.85, basis=Basis.OF_WINDOW),
    Yardstick(name="DC, pass", limit=0.85, basis=Basis.OF_RATED_DC),
    Yardstick(name="Full load, typical", limit=0.75, basis=Basis.FULL_LOAD),
    Yardstick(name="Round trip, good", limit=0.80, basis=Basis.ROUND_TRIP),
    Yardstick(name="Conversion, good", limit=0.88, basis=Basis.CONVERSION),
    Yardstick(name="Price per rated Wh", limit=0.80, basis=Basis.PRICE_PER_WH),
)


@dataclass(frozen=True, kw_only=True)
class JudgedRun:
    """A verdict on one run with its reasons in words."""

    verdict: Verdict
    yardstick: Yardstick
    reasons: tuple[str, ...]


def judge_discharge(
    result: DischargeResult,
    measured: Measured,
    yardstick: Yardstick,
    rule: Rule = Rule.GUARDED,
    doubts: Sequence[Code] = (),
) -> JudgedRun:
    """Hold delivered ÷ rated (or ÷ window) against a yardstick.

    Args:
        result: the analysed discharge, or one of several at its load.
        measured: the ratio, of the station rather than of one run; without lines where nothing is
            known of its uncertainty.
        doubts: what the runs cannot be trusted for, and nobody has explained.
    """
    rated_wh = result.rating.rated_wh
    if yardstick.basis is Basis.OF_WINDOW:
        rated_wh *= result.rating.window
    verdict = judge(
        measured.value,
        measured.expanded,
        yardstick.limit,
        Direction.AT_LEAST,
        rule,
        coverage_factor=measured.budget.coverage_factor,
        degrees_of_freedom=measured.budget.degrees_of_freedom,
        doubt=doubt_reason(doubts) if doubts else "",
    )
    return JudgedRun(
        verdict=verdict,
        yardstick=yardstick,
        reasons=(_finding(verdict, yardstick, rated_wh), *_cautions(result, yardstick)),
    )


def _finding(verdict: Verdict, yardstick: Yardstick, rated_wh: float) -> str:
    """The verdict as one sentence with its figures."""
    share = format_with_uncertainty(100 * verdict.value, 100 * verdict.expanded)
    limit = f"{100 * verdict.limit:g} %"
    basis = yardstick.basis.words
    lead = f"{share} % {basis} delivered"
    decimals = decimals_for(verdict.expanded * rated_wh)
    apart = f"{abs(verdict.margin) * rated_wh:.{decimals}f} Wh"
    uncertain = f"{verdict.expanded * rated_wh:.{decimals}f} Wh"
    side = "above" if verdict.margin >= 0 else "below"
    chance = f"Probability of conformity {format_probability(verdict.probability)}."
    if verdict.rule is Rule.SIMPLE:
        alone = f"{lead}, {apart} {side} {limit}; the numbers alone, uncertainty left aside."
        return f"{alone} {chance}" if verdict.expanded else alone
    if verdict.outcome is Outcome.CANNOT_BE_JUDGED:
        reason = f"{verdict.reason[:1].upper()}{verdict.reason[1:]}"
        return f"{lead}. {reason}."
    if verdict.rule is Rule.LIKELY:
        return f"{lead}, {side} {limit}. {chance}"
    if verdict.outcome is Outcome.TOO_CLOSE:
        return (
            f"{lead}: {apart} {side} {limit}, which the uncertainty of {uncertain} does not "
            f"settle. {chance}"
        )
    return f"{lead}: {apart} {side} {limit}, more than the uncertainty of {uncertain}. {chance}"


def _cautions(result: DischargeResult, yardstick: Yardstick) -> list[str]:
    """Reasons not to rely on the verdict."""
    said = []
    if result.has(Code.NO_CUTOFF):
        said.append("The run ends under load: the station may deliver more than this.")
    if result.has(Code.STARTS_LOADED):
        said.append("The log begins under load: what was delivered before is missing.")
    if result.has(Code.ABOVE_RATED):
        said.append("More than the rating came out: look for an input left plugged in.")
    if result.has(Code.COUNTER_DISAGREES):
        said.append("Power and energy counter disagree: one of them is wrong.")
    if result.rating.window < 1 and yardstick.basis is Basis.OF_RATED:
        said.append(
            f"Only {result.rating.soc_from:g} → {result.rating.soc_to:g} % was discharged, so "
            "the whole rating could not be reached."
        )
    return said
