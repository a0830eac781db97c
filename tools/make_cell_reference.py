"""Make tests/bench/lfp_reference.csv: an LFP cell discharged at several rates by PyBaMM.

Run by script/reference in an environment of its own: tools/make_cell_reference.py FILE. The model
is the Doyle–Fuller–Newman one with the parameter set Prada2013 (LFP, 2.3 Ah).
"""

import os
import sys
from pathlib import Path

os.environ["PYBAMM_DISABLE_TELEMETRY"] = "true"

import numpy as np
import pybamm

RATES = (0.05, 0.1, 0.2, 0.5, 1.0)
DEPTHS = tuple(round(0.05 * i, 2) for i in range(1, 20))


def main(path: str) -> None:
    pybamm.set_logging_level("ERROR")
    values = pybamm.ParameterValues("Prada2013")
    lines = ["c_rate,depth,volts,energy_wh,hours"]
    for rate in RATES:
        simulation = pybamm.Simulation(
            pybamm.lithium_ion.DFN(), parameter_values=values, C_rate=rate
        )
        seconds = np.linspace(0, 3600 / rate * 1.15, 2000)
        found = simulation.solve(seconds)
        charge = found["Discharge capacity [A.h]"].entries
        volts = found["Terminal voltage [V]"].entries
        hours = float(found["Time [h]"].entries[-1])
        energy = float(np.trapezoid(volts, charge))
        for depth in DEPTHS:
            at = float(np.interp(depth * charge[-1], charge, volts))
            lines.append(f"{rate},{depth},{at:.4f},{energy:.4f},{hours:.4f}")
    Path(path).write_text("\n".join(lines) + "\n", "utf-8")


if __name__ == "__main__":
    main(sys.argv[1])
