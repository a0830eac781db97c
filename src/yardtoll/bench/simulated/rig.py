"""The simulated rig: a station's sockets with a scope, thermometer and meters, behind SCPI.

Its commands are of SCPI-1999 where that has words for them; curves come as definite-length blocks
of IEEE 488.2, 8.7.9, in REAL,32 with the high byte first.
"""

import threading
from collections.abc import Callable
from typing import Self

import numpy as np

from yardtoll.bench.simulated.line_server import LineServer
from yardtoll.bench.simulated.outlets import OutletModel, OutletState
from yardtoll.core.electrical.trace import FloatArray

IDENTITY = "Yard Toll,Simulated rig,0,1"
_MOST_POINTS = 200_000
_SHARED_GAIN = 0.003
_NOT_A_NUMBER = "9.91E37"


class SimulatedRig:
    """One station's sockets on a loopback port.

    Args:
        model: the truth.
        seed: of noise and of the spread from try to try.
    """

    def __init__(self, model: OutletModel, seed: int = 1) -> None:
        self.state = OutletState(model)
        self.gaps_ms: list[float] = []
        self._random = np.random.default_rng(seed)
        self._lock = threading.Lock()
        self._span_s, self._points = 0.25, 10_000
        self._captured: tuple[FloatArray, FloatArray] | None = None
        self._errors: list[str] = []
        self._server = LineServer(self.answer, "simulated rig")

    @property
    def resource(self) -> str:
        """VISA address of the rig."""
        return self._server.resource

    def close(self) -> None:
        """Stop listening; safe to call twice."""
        self._server.close()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def answer(self, line: str) -> str | bytes | None:
        """What the rig says to one line; None for commands."""
        header, _, rest = line.strip().partition(" ")
        header, rest = header.upper(), rest.strip()
        with self._lock:
            try:
                if header.endswith("?"):
                    return self._asked(header, rest)
                self._told(header, rest)
            except ValueError:
                self._errors.append('-224,"Illegal parameter value"')
                return _NOT_A_NUMBER if header.endswith("?") else None
        return None

    def _asked(self, header: str, rest: str) -> str | bytes:
        state, known = self.state, self._measured()
        if header == "TRAC?":
            return self._block(rest.upper())
        if header == "MEAS:POW?" and rest:
            return f"{self._noisy(state.port_w(_unquoted(rest))):.2f}"
        if header in known:
            return f"{known[header]:.3f}"
        words: dict[str, Callable[[], str]] = {
            "*IDN?": lambda: IDENTITY,
            "SYST:ERR?": lambda: self._errors.pop(0) if self._errors else '0,"No error"',
            "SWE:TINT?": lambda: f"{self._span_s / self._points:.9E}",
            "SYST:FAUL?": lambda: state.model.overload.code if state.tripped else "",
            "OUTP:RES?": lambda: "1" if state.reset(rest.lower()) else "0",
        }
        if header not in words:
            self._errors.append('-113,"Undefined header"')
            return _NOT_A_NUMBER
        return words[header]()

    def _measured(self) -> dict[str, float]:
        """What its meters show now."""
        state = self.state
        return {
            "MEAS:POW?": state.output_w,
            "MEAS:VOLT?": 0.0 if state.tripped else state.model.rms_v(state.load_w),
            "MEAS:TEMP?": state.temperature_c,
            "MEAS:SOUN?": state.sound_db,
            "MEAS:FAN?": float(state.fan_on),
            "MEAS:INP:POW?": state.input_w,
            "MEAS:BATT:POW?": state.charging_w,
            "OUTP?": float(not state.tripped),
        }

    def _told(self, header: str, rest: str) -> None:
        state = self.state
        if header == "LOAD:POW":
            state.load_w = max(float(rest), 0.0)
        elif header == "LOAD:PORT":
            name, _, watts = rest.rpartition(",")
            state.loads[_unquoted(name)] = max(float(watts), 0.0)
        elif header == "INP":
            state.wall_on = rest.upper() in ("ON", "1")
        elif header == "SWE:TIME":
            self._span_s = min(max(float(rest), 1e-3), 20.0)
        elif header == "SWE:POIN":
            self._points = int(min(max(float(rest), 16), _MOST_POINTS))
        elif header == "INIT":
            self._capture()
        elif header == "INIT:SWIT":
            self._capture(switching=True)
        elif header == "CLOC:ADV":
            state.advance(state.time_s + min(max(float(rest), 0.0), 1e6))
        elif header in ("*RST", "*CLS", "FORM", "FORM:BORD"):
            self._errors.clear()
        else:
            self._errors.append('-113,"Undefined header"')

    def _capture(self, *, switching: bool = False) -> None:
        """The curve now; across a switch of the wall where that is asked for."""
        state = self.state
        time_s: FloatArray = np.arange(self._points, dtype=np.float64) * self._span_s / self._points
        phase = float(self._random.uniform(0, 2 * np.pi))
        load_w = 0.0 if state.tripped else state.load_w
        volts = state.model.volts(time_s, load_w, phase)
        if state.tripped:
            volts = np.zeros_like(volts)
        if switching:
            volts = self._switched(time_s, volts, phase)
        noise = self._random.normal(0, 0.002 * state.model.nominal_v, volts.size)
        self._captured = volts + noise, state.model.amps(volts, load_w)

    def _switched(self, time_s: FloatArray, volts: FloatArray, phase: float) -> FloatArray:
        """Volts before and after the wall changes sides, nothing between."""
        state, model = self.state, self.state.model
        mean_ms = model.gap_ms if state.wall_on else model.back_ms
        gap_ms = max(float(self._random.normal(mean_ms, model.gap_spread_ms)), 0.6)
        self.gaps_ms.append(gap_ms)
        begin_s = 0.42 * self._span_s + float(self._random.uniform(0, 1 / model.hertz))
        wall = np.sqrt(2) * model.nominal_v * np.sin(2 * np.pi * model.hertz * time_s + phase)
        before, after = (wall, volts) if state.wall_on else (volts, wall)
        state.wall_on = not state.wall_on
        end_s = begin_s + gap_ms / 1000
        made = np.where(time_s < begin_s, before, 0.0)
        return np.asarray(np.where(time_s >= end_s, after, made))

    def _block(self, channel: str) -> bytes:
        if self._captured is None:
            self._capture()
        assert self._captured is not None
        number = 1 if channel == "CH2" else 0
        data = self._captured[number].astype(">f4").tobytes()
        size = str(len(data))
        return f"#{len(size)}{size}".encode("ascii") + data

    def _noisy(self, watts: float) -> float:
        return watts * (1 + float(self._random.normal(0, _SHARED_GAIN)))


def _unquoted(text: str) -> str:
    return text.strip().strip('"')
