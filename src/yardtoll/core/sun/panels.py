"""What panels make of the light that falls on them.

The Sandia cell temperature of an open rack, or of panels close to the ground; the module
follows irradiance and temperature as PVWatts has it: P = P_stc · G ÷ 1000 · (1 + γ·(T_cell − 25)).
"""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.errors import ValueOutOfRangeError

OPEN_RACK, CLOSE_TO_GROUND = "open_rack_glass_polymer", "insulated_back_glass_polymer"
"""A folding panel on the ground has no air behind it, like one with an insulated back."""
_MOUNTS = {OPEN_RACK: (-3.56, -0.0750, 3.0), CLOSE_TO_GROUND: (-2.81, -0.0455, 0.0)}
"""a, b and ΔT in K of King, Boyson and Kratochvil, Photovoltaic array performance model,
SAND2004-3535, table 1: glass, cell, polymer sheet on an open rack, and with an insulated back."""
_STC_W_M2, _STC_C = 1000.0, 25.0


@dataclass(frozen=True, kw_only=True)
class SunArray:
    """An array and the losses between it and the station's store.

    Attributes:
        power_stc_w: at 1000 W/m² and 25 °C.
        cap_w: what the station takes at most; None for no cap.
        gamma: change of the power with temperature, 1/K.
        wiring_loss: share lost in the wires.
        mount: how the air reaches it, one of the two Sandia mounts above.
    """

    power_stc_w: float
    cap_w: float | None = None
    gamma: float = -0.0037
    wiring_loss: float = 0.02
    ambient_c: float = 20.0
    wind_ms: float = 1.0
    mount: str = OPEN_RACK

    def __post_init__(self) -> None:
        for name, value, low, high in (
            ("array_w", self.power_stc_w, 1e-9, 1e7),
            ("cap_w", self.cap_w, 1e-9, 1e7),
            ("gamma", self.gamma, -0.02, 0),
            ("wiring_loss", self.wiring_loss, 0, 0.9),
            ("ambient_c", self.ambient_c, -60, 70),
            ("wind_ms", self.wind_ms, 0, 60),
        ):
            if value is not None and not low <= value <= high:
                raise ValueOutOfRangeError(name, value, f"from {low:g} to {high:g}")


def array_power_w(plane_w_m2: FloatArray, array: SunArray) -> FloatArray:
    """(n,) W behind the wires, before any cap, for (n,) W/m² on the panels."""
    a, b, rise_k = _MOUNTS[array.mount]
    back_c = array.ambient_c + plane_w_m2 * np.exp(a + b * array.wind_ms)
    cell_c = back_c + rise_k * plane_w_m2 / _STC_W_M2
    share = plane_w_m2 / _STC_W_M2 * (1 + array.gamma * (cell_c - _STC_C))
    return np.asarray(array.power_stc_w * share * (1 - array.wiring_loss)).clip(min=0.0)
