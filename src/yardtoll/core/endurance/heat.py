"""Energy for warming water."""

import math
from dataclasses import dataclass

from yardtoll.core.errors import ValueOutOfRangeError

WATER_J_PER_KG_K = 4186.0
"""Between 0 and 100 °C (CIPM, about)."""
_J_PER_WH = 3600.0


@dataclass(frozen=True, kw_only=True)
class Heating:
    """Litres of water from one temperature to another, by a vessel of some efficiency."""

    litres: float
    from_c: float
    to_c: float
    efficiency: float = 1.0

    def __post_init__(self) -> None:
        if not 0 < self.litres < math.inf:
            raise ValueOutOfRangeError("litres", self.litres, "above 0")
        if not 0 < self.efficiency <= 1:
            raise ValueOutOfRangeError("efficiency", self.efficiency, "above 0 and at most 1")
        if not -1 <= self.from_c < self.to_c <= 101:
            words = "from below to above, within 0 to 100 °C"
            raise ValueOutOfRangeError("temperature", self.to_c, words)

    @property
    def into_water_wh(self) -> float:
        """Wh that the water takes: 1 L from 20 to 100 °C is 93.0 Wh."""
        return WATER_J_PER_KG_K * self.litres * (self.to_c - self.from_c) / _J_PER_WH

    @property
    def from_outlet_wh(self) -> float:
        """Wh that the outlet gives for it."""
        return self.into_water_wh / self.efficiency
