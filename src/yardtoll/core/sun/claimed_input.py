"""An array against every claim of a station's solar input; the safer of two claims decides."""

from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.claims.contradictions import binding_limit
from yardtoll.core.claims.kinds import Claim
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.sun.array_check import (
    ArrayCheck,
    InputLimits,
    Module,
    check_array,
    volts_at,
)

MIXED_SHARE = 0.05
"""Strings whose volts at full power differ by more than this hold each other back (common
practice, no source)."""
COUNT_SLACK = 0.06
"""A measured Voc so far off a whole number of panels fits no count: dim light alone takes a few
per cent (common practice, no source)."""


@dataclass(frozen=True, kw_only=True)
class SourceCheck:
    """An array against the volts that one source claims.

    Attributes:
        decides: it is the safest claim, the one to keep to.
    """

    source: str
    limits: InputLimits
    check: ArrayCheck
    decides: bool


@dataclass(frozen=True, kw_only=True)
class PanelCount:
    """What a measured open-circuit voltage says of the wiring.

    Attributes:
        expected_v: that the wiring as entered should give at this temperature.
        count: how many modules in series it looks like; None where it fits no whole number.
        per_module_v: of one module at this temperature.
    """

    expected_v: float
    count: int | None
    per_module_v: float


def check_claims(
    module: Module,
    series: int,
    parallel: int,
    claims: Sequence[Claim],
    *,
    coldest_c: float,
    hottest_c: float,
) -> list[SourceCheck]:
    """The array against every claimed limit of volts, the deciding one first.

    What a source does not say – lowest volts, amps, watts – is taken from the safest other claim.

    Raises:
        ValueOutOfRangeError, UnusableDataError: as :func:`check_array`.
    """
    volts = [c for c in claims if c.kind == "solar_v_max" and c.value]
    found: list[SourceCheck] = []
    for claim in sorted(volts, key=lambda c: c.value or 0.0):
        same = [c for c in claims if c.source == claim.source]
        lowest = _value(same, claims, "solar_v_min")
        assert claim.value is not None
        limits = InputLimits(
            highest_v=claim.value,
            lowest_v=lowest if lowest is not None and lowest < claim.value else None,
            highest_a=_value(same, claims, "solar_a"),
            highest_w=_value(same, claims, "solar_w"),
        )
        check = check_array(
            module, series, parallel, limits, coldest_c=coldest_c, hottest_c=hottest_c
        )
        found.append(
            SourceCheck(source=claim.source, limits=limits, check=check, decides=not found)
        )
    return found


def _value(same: Sequence[Claim], claims: Sequence[Claim], kind: str) -> float | None:
    claim = binding_limit(same, kind) or binding_limit(claims, kind)
    return claim.value if claim is not None else None


def panels_in_series(measured_v: float, module: Module, series: int, cell_c: float) -> PanelCount:
    """How many panels in series a measured Voc looks like.

    Raises:
        ValueOutOfRangeError: volts that are none, or a cell no panel has.
    """
    if not 0 < measured_v < 2000:
        raise ValueOutOfRangeError("the measured volts", measured_v, "above 0 and under 2000 V")
    if not -60 <= cell_c <= 110:
        raise ValueOutOfRangeError("the panels' temperature", cell_c, "from -60 to 110 °C")
    one = volts_at(module.voc_v, module.beta_voc, cell_c)
    if one <= 0:
        raise UnusableDataError("the label's temperature coefficient leaves no volts at all")
    count = max(round(measured_v / one), 1)
    fits = abs(measured_v / (count * one) - 1) <= COUNT_SLACK
    return PanelCount(expected_v=series * one, count=count if fits else None, per_module_v=one)


def mixed_strings(first_vmp_v: float, second_vmp_v: float) -> float | None:
    """By which share two strings' volts at full power differ, where that is too much to join
    them in parallel; None where they go together.
    """
    share = abs(first_vmp_v - second_vmp_v) / max(first_vmp_v, second_vmp_v)
    return share if share > MIXED_SHARE else None
