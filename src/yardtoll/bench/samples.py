"""What a meter hands over at once."""

from collections.abc import Mapping
from dataclasses import dataclass

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import FloatArray


@dataclass(frozen=True, kw_only=True)
class SampleBlock:
    """Samples in the order they were taken.

    Attributes:
        time_s: (n,) s on the meter's own time, or since the driver was opened.
        columns: quantity → (n,) in its fixed unit.
    """

    time_s: FloatArray
    columns: Mapping[Quantity, FloatArray]
