"""What the sun allowed an input at a log's samples, and what a station's cap leaves of it."""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import FloatArray


@dataclass(frozen=True, kw_only=True)
class AvailablePower:
    """What the sun allowed at a trace's samples.

    Attributes:
        free_w: (n,) W the array should give, uncapped, by the irradiance log or the clear sky.
        clear_w: (n,) the same under a clear sky; None where the site is not known.
        up: (n,) whether the sun is above the horizon.
        plane_w_m2: (n,) W/m² on the first array's panels.
        measured: whether ``free_w`` rests on an irradiance log.
    """

    free_w: FloatArray
    clear_w: FloatArray | None
    up: np.ndarray
    plane_w_m2: FloatArray
    measured: bool


def capped(free_w: FloatArray, cap_w: float | None) -> FloatArray:
    """(n,) W that a station takes of what the sun allows; all of it where no cap is known."""
    return free_w if cap_w is None else np.minimum(free_w, cap_w)
