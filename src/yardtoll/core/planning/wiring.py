"""Cords and circuits: volt drop, continuous ratings, the 80 % rule."""

import math
import re
from dataclasses import dataclass

from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.formatting import quoted

COPPER_OHM_MM2_PER_M = 0.017241
"""Resistivity of standard annealed copper at 20 °C (IEC 60028)."""
CONTINUOUS_SHARE = 0.8
"""A continuous load may take this share of a breaker (NEC 210.20(A), from memory)."""
CONTINUOUS_HOURS = 3.0
"""From this long on a load counts as continuous (NEC article 100, from memory)."""
MOST_DROP_SHARE = 0.05
"""A drop above this is pointed at (common practice, no source)."""

# Continuous A of flexible two-conductor cords by AWG (NEC table 400.5(A), from memory).
CORD_A_BY_AWG = {18: 10.0, 16: 13.0, 14: 18.0, 12: 25.0, 10: 30.0}
# By mm² (common practice, no source).
CORD_A_BY_MM2 = {0.75: 6.0, 1.0: 10.0, 1.5: 16.0, 2.5: 20.0, 4.0: 25.0}

_GAUGE = re.compile(
    r"^\s*(?:(\d{1,2})\s*(?:AWG|ga(?:uge)?)|(\d+(?:[.,]\d+)?)\s*mm(?:2|²))\s*$", re.I
)
_CIRCUIT = re.compile(
    r"^\s*(\d+(?:\.\d+)?)\s*A[\s,·@]*(?:at\s+)?(\d+(?:\.\d+)?)\s*V\s*$", re.IGNORECASE
)


def awg_diameter_mm(awg: int) -> float:
    """Diameter of a solid wire in mm: 0.127 · 92^((36 − n) ÷ 39) (ASTM B258)."""
    return float(0.127 * 92 ** ((36 - awg) / 39))


@dataclass(frozen=True, kw_only=True)
class Cord:
    """A two-conductor cord.

    Attributes:
        length_m: of the cord, one way.
        area_mm2: of each conductor.
        rated_a: printed on it; None where unknown, then the gauge's usual rating holds.
        awg: where the gauge was given so.

    Raises:
        ValueOutOfRangeError: a figure is not above 0.
    """

    length_m: float
    area_mm2: float
    rated_a: float | None = None
    awg: int | None = None

    def __post_init__(self) -> None:
        for name, value in (("the cord's length in m", self.length_m), ("mm²", self.area_mm2)):
            if not value > 0:
                raise ValueOutOfRangeError(name, value, "above 0")

    @property
    def ohm(self) -> float:
        """Resistance there and back at 20 °C."""
        return 2 * self.length_m * COPPER_OHM_MM2_PER_M / self.area_mm2

    def drop_v(self, amps: float) -> float:
        """Volts lost on the way there and back."""
        return amps * self.ohm

    @property
    def continuous_a(self) -> float | None:
        """A it may carry for hours; None where neither print nor table says."""
        if self.rated_a is not None:
            return self.rated_a
        if self.awg is not None:
            return CORD_A_BY_AWG.get(self.awg)
        fitting = [area for area in CORD_A_BY_MM2 if area <= self.area_mm2 + 1e-9]
        return CORD_A_BY_MM2[max(fitting)] if fitting else None


def cord(length_m: float, gauge: str, rated_a: float | None = None) -> Cord:
    """A cord from a gauge like "14 AWG" or "1.5 mm²".

    Raises:
        UnusableDataError: the gauge is malformed.
        ValueOutOfRangeError: the length is not above 0.
    """
    found = _GAUGE.match(gauge)
    if not found:
        raise UnusableDataError(f'the gauge {quoted(gauge)} should look like "14 AWG" or "1.5 mm²"')
    if found[1]:
        awg = int(found[1])
        area = math.pi / 4 * awg_diameter_mm(awg) ** 2
        return Cord(length_m=length_m, area_mm2=area, rated_a=rated_a, awg=awg)
    area = float(found[2].replace(",", "."))
    return Cord(length_m=length_m, area_mm2=area, rated_a=rated_a)


@dataclass(frozen=True, kw_only=True)
class Circuit:
    """A house circuit behind its breaker.

    Raises:
        ValueOutOfRangeError: a figure is not above 0.
    """

    breaker_a: float
    volts: float

    def __post_init__(self) -> None:
        for name, value in (("the breaker's A", self.breaker_a), ("the circuit's V", self.volts)):
            if not value > 0:
                raise ValueOutOfRangeError(name, value, "above 0")

    def limit_w(self, hours: float) -> float:
        """W it may carry for so long: 80 % of the breaker for three hours or more."""
        share = CONTINUOUS_SHARE if hours >= CONTINUOUS_HOURS else 1.0
        return share * self.breaker_a * self.volts

    def limit_words(self, hours: float) -> str:
        """The limit and where it comes from."""
        rule = ", 80 % for 3 h or more" if hours >= CONTINUOUS_HOURS else ""
        return f"circuit {self.breaker_a:g} A {self.volts:g} V{rule}: {self.limit_w(hours):g} W"


def parse_circuit(text: str) -> Circuit:
    """Like "15 A 120 V".

    Raises:
        UnusableDataError: the text is malformed.
    """
    found = _CIRCUIT.match(text)
    if not found:
        raise UnusableDataError(f'the circuit {quoted(text)} should look like "15 A 120 V"')
    return Circuit(breaker_a=float(found[1]), volts=float(found[2]))
