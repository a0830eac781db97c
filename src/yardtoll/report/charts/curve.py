"""What charts show, apart from how it is drawn."""

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.pyramid import Pyramid
from yardtoll.core.electrical.trace import FloatArray

if TYPE_CHECKING:
    from yardtoll.core.sun.solar_run import SolarRun


@dataclass(frozen=True, kw_only=True)
class Curve:
    """A power trace as a chart: (n,) s and W, in the colour of its energy.

    Attributes:
        solar: of a solar run: what the sun allowed, and what limited it when.
    """

    key: str
    title: str
    kind: EnergyKind
    time_s: FloatArray
    power_w: FloatArray
    solar: "SolarRun | None" = None

    @cached_property
    def pyramid(self) -> Pyramid:
        """Its levels, to draw any part of it at once."""
        return Pyramid(self.time_s, self.power_w)
