"""Cells of the simulated store: their volts by charge and rate."""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import FloatArray


@dataclass(frozen=True, kw_only=True)
class CellModel:
    """One cell.

    Attributes:
        depths, volts: open-circuit volts over the depth of discharge, 0 full to 1 empty.
        volts_per_c: lost at 1 C through its resistance.
        nominal_v: the maker's figure.
        in_12_v: how many in series make a 12 V output.
    """

    depths: tuple[float, ...]
    open_volts: tuple[float, ...]
    volts_per_c: float
    nominal_v: float
    in_12_v: int

    def volts(self, depth: FloatArray, c_rate: FloatArray | float) -> FloatArray:
        """(n,) terminal V at (n,) depths of discharge and a discharge rate in 1/h."""
        rest = np.interp(depth, self.depths, self.open_volts)
        return np.asarray(rest - self.volts_per_c * c_rate)


# Shapes of an LFP and an NMC cell (common practice, no source); the LFP one is held against a
# published cell model, see tests/bench/test_cells.py.
LFP = CellModel(
    depths=(0.0, 0.05, 0.2, 0.3, 0.5, 0.6, 0.7, 0.8, 0.85, 0.9, 0.95, 1.0),
    open_volts=(3.40, 3.315, 3.305, 3.272, 3.264, 3.25, 3.205, 3.168, 3.11, 2.99, 2.79, 2.2),
    volts_per_c=0.072,
    nominal_v=3.2,
    in_12_v=4,
)
NMC = CellModel(
    depths=(0.0, 0.1, 0.2, 0.4, 0.6, 0.8, 0.9, 0.95, 1.0),
    open_volts=(4.18, 4.05, 3.94, 3.77, 3.65, 3.56, 3.45, 3.33, 3.0),
    volts_per_c=0.10,
    nominal_v=3.6,
    in_12_v=3,
)
CELLS = {"LFP": LFP, "NMC": NMC}
