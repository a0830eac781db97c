"""The simulated bench's meter on a loopback TCP port, speaking SCPI as a real one would."""

import threading
from typing import Self

import numpy as np

from yardtoll.bench.simulated.clock import VirtualClock
from yardtoll.bench.simulated.line_server import LineServer
from yardtoll.bench.simulated.models import BenchModel, Simulation
from yardtoll.core.electrical.trace import FloatArray

IDENTITY = "Yard Toll,Simulated bench meter,0,1"
BUFFER_COLUMNS = ("time", "power", "volts", "amps", "energy", "hertz", "power_factor")
_DECIMALS = (3, 2, 2, 3, 3, 2, 2)
_MEASURED = {
    "MEAS:POW?": "power",
    "MEAS:VOLT?": "volts",
    "MEAS:CURR?": "amps",
    "MEAS:ENER?": "energy",
    "MEAS:FREQ?": "hertz",
    "MEAS:PFAC?": "power_factor",
}


class SimulatedBench:
    """A station, its load and a meter on one virtual clock, behind a SCPI socket.

    Args:
        model: what is simulated.
        clock: how bench time runs.
        start_s: bench time the meter's recording begins at; what came before has happened but
            was not recorded, as when a program was away while the load ran on.
    """

    def __init__(self, model: BenchModel, clock: VirtualClock, start_s: float = 0.0) -> None:
        self.clock = clock
        self._lock = threading.Lock()
        self._simulation = Simulation(model)
        self._zero_wh = 0.0
        self._errors: list[str] = []
        self._recorded: list[dict[str, FloatArray]] = []
        self._last = dict.fromkeys(BUFFER_COLUMNS, 0.0)
        if start_s:
            self._simulation.advance(start_s)
        self._server = LineServer(self.answer, "simulated bench")

    @property
    def resource(self) -> str:
        """VISA address of the meter."""
        return self._server.resource

    def truth(self) -> Simulation:
        """The simulation itself, for tests and for filling in the simulated display."""
        with self._lock:
            self._advance()
            return self._simulation

    def close(self) -> None:
        """Stop listening; safe to call twice."""
        self._server.close()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def answer(self, line: str) -> str | None:
        """What the meter says to one line; None for commands, which are not answered."""
        command = line.strip().upper()
        with self._lock:
            self._advance()
            if command == "*IDN?":
                return IDENTITY
            if command == "TRAC:DATA?":
                return self._hand_over()
            if command in _MEASURED:
                return f"{self._shown(_MEASURED[command]):.3f}"
            if command == "SYST:ERR?":
                return self._errors.pop(0) if self._errors else '0,"No error"'
            self._obey(command)
            return None

    def _obey(self, command: str) -> None:
        """Commands; an unknown one is put in the error queue (SCPI-99, error −113)."""
        if command in ("TRAC:CLE", "*RST", "*CLS"):
            self._recorded.clear()
            if command == "*CLS":
                self._errors.clear()
        elif command == "ENER:RES":
            self._zero_wh = self._last["energy"]
        elif command:
            self._errors.append('-113,"Undefined header"')

    def _advance(self) -> None:
        new = self._simulation.advance(self.clock.bench_s())
        if new["time"].size:
            self._recorded.append(new)
            self._last = {name: float(values[-1]) for name, values in new.items()}

    def _shown(self, name: str) -> float:
        return self._last[name] - (self._zero_wh if name == "energy" else 0.0)

    def _hand_over(self) -> str:
        """The recording since the last time as "t,P,…;t,P,…"."""
        blocks, self._recorded = self._recorded, []
        if not blocks:
            return ""
        table = np.stack([np.concatenate([b[c] for b in blocks]) for c in BUFFER_COLUMNS])
        table[BUFFER_COLUMNS.index("energy")] -= self._zero_wh
        row = ",".join(f"%.{decimals}f" for decimals in _DECIMALS)
        return ";".join(row % tuple(record) for record in table.T.tolist())
