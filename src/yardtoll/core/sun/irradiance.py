"""Figures of an irradiance sensor made into W/m²; needs no model of the sun."""

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import quoted

MOST_W_M2 = 2000.0
"""No sky gives more; clouds at the edge of the sun reach about 1600."""
_KILO_BELOW = 3.0


def in_watts(irradiance: FloatArray, name: str) -> tuple[FloatArray, bool]:
    """(n,) W/m², and whether they were given in kW/m²: no daylight stays under 3 W/m².

    Args:
        irradiance: (n,) as logged; NaN where a value is missing.
        name: of the column, for messages.

    Raises:
        UnusableDataError: more than any sky gives.
    """
    highest = float(np.nanmax(irradiance)) if np.isfinite(irradiance).any() else 0.0
    kilo = 0 < highest < _KILO_BELOW
    watts = irradiance * 1000.0 if kilo else irradiance
    if highest * (1000.0 if kilo else 1.0) > MOST_W_M2:
        raise UnusableDataError(
            f"the irradiance column {quoted(name)} reaches {highest:g} W/m²; no sky gives more "
            f"than {MOST_W_M2:g}"
        )
    return np.asarray(watts).clip(min=0.0), kilo
