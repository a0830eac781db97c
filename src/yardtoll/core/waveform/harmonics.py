"""Harmonics and total harmonic distortion: subgroups of IEC 61000-4-7, or whole cycles fitted.

IEC 61000-4-7:2002, 5.5.1 (from memory): windows of 10 cycles at 50 Hz and 12 at 60 Hz, a line
every 5 Hz; a harmonic's subgroup is its own line and the two beside it, added in power.
"""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.waveform.fundamental import HIGHEST_ORDER, fit_sines

IEC, LEAST_SQUARES = "iec_61000_4_7", "least_squares"
_PHASE_CYCLES = 12
_MOST_WINDOWS = 50
"""Ten seconds: more would change no digit."""
_NYQUIST_ROOM = 0.49
_SHORT_CYCLES = 0.01
"""A window may miss so little at its end: ten cycles as measured are rarely ten to the digit."""


@dataclass(frozen=True)
class Harmonic:
    """One order against the fundamental.

    Attributes:
        share: of the fundamental; None where the sampling cannot reach it.
        degrees: phase, with the fundamental's rising zero crossing as the beginning.
    """

    order: int
    share: float | None
    degrees: float | None


@dataclass(frozen=True)
class Distortion:
    """What a curve has beside its fundamental.

    Attributes:
        fundamental: r.m.s. of the fundamental.
        phase_rad: of the fundamental's cosine at the first sample.
        thd: of orders 2 to 40, as far as they are reached.
        method: "iec_61000_4_7" or "least_squares".
    """

    fundamental: float
    phase_rad: float
    thd: float
    harmonics: tuple[Harmonic, ...]
    method: str

    @property
    def reaches_all(self) -> bool:
        """Whether the sampling sees every order."""
        return all(harmonic.share is not None for harmonic in self.harmonics)


def window_cycles(nominal_hz: float) -> int:
    """Cycles of a window: 10 at 50 Hz, 12 at 60 Hz."""
    return 10 if nominal_hz < 55 else 12


def distortion(values: FloatArray, rate_hz: float, hertz: float, nominal_hz: float) -> Distortion:
    """Harmonics of a curve of at least one cycle."""
    orders = min(HIGHEST_ORDER, int(_NYQUIST_ROOM * rate_hz / hertz))
    # As many unknowns as samples fit anything.
    orders = max(min(orders, (int(rate_hz / hertz) - 1) // 2), 1)
    whole = max(int(values.size / rate_hz * hertz * (1 + 1e-9)), 1)
    fitted = values[: min(round(whole * rate_hz / hertz), values.size)]
    phases = _phases(fitted, rate_hz, hertz, orders)
    cycles = window_cycles(nominal_hz)
    windows = min(int((values.size / rate_hz * hertz + _SHORT_CYCLES) / cycles), _MOST_WINDOWS)
    if windows >= 1:
        sizes = _subgroups(values, rate_hz, hertz, cycles, windows, orders)
        method = IEC
    else:
        time_s = np.arange(fitted.size) / rate_hz
        sizes = np.abs(fit_sines(time_s, fitted, hertz, orders).phasors) / np.sqrt(2)
        method = LEAST_SQUARES
    fundamental = float(sizes[1])
    shares = sizes / fundamental if fundamental > 0 else np.zeros_like(sizes)
    harmonics = tuple(
        Harmonic(order, float(shares[order]), float(phases[order]))
        if order <= orders
        else Harmonic(order, None, None)
        for order in range(2, HIGHEST_ORDER + 1)
    )
    return Distortion(
        fundamental=fundamental,
        phase_rad=float(phases[0]),
        thd=float(np.sqrt(np.sum(shares[2:] ** 2))),
        harmonics=harmonics,
        method=method,
    )


def _phases(values: FloatArray, rate_hz: float, hertz: float, orders: int) -> FloatArray:
    """(orders + 1,) degrees of each order's sine; entry 0 is the fundamental's cosine in rad."""
    most = int(_PHASE_CYCLES * rate_hz / hertz)
    part = values[:most]
    phasors = fit_sines(np.arange(part.size) / rate_hz, part, hertz, orders).phasors
    angles = np.angle(phasors)
    # sin(x) = cos(x − 90°): the fundamental as a sine begins at its rising crossing.
    first = angles[1] + np.pi / 2
    numbers = np.arange(orders + 1)
    degrees = np.degrees(angles + np.pi / 2 - numbers * first)
    found = -((-degrees + 180.0) % 360.0 - 180.0)
    found[0] = angles[1]
    return np.asarray(found)


def _subgroups(
    values: FloatArray, rate_hz: float, hertz: float, cycles: int, windows: int, orders: int
) -> FloatArray:
    """(orders + 1,) r.m.s. of each subgroup, the mean power over the windows."""
    length_s = cycles / hertz
    power = np.zeros((orders, 3))
    for number in range(windows):
        start_s = number * length_s
        first = int(np.ceil(start_s * rate_hz - 1e-9))
        last = min(int(np.ceil((start_s + length_s) * rate_hz - 1e-9)), values.size)
        time_s = np.arange(first, last) / rate_hz - start_s
        part = values[first:last] - np.mean(values[first:last])
        # Each sample stands for its interval; those over the edge for their part of it.
        weights = np.ones(time_s.size)
        weights[-1] = max(length_s * rate_hz - (time_s.size - 1) - time_s[0] * rate_hz, 0.0) or 1.0
        weights[0] += time_s[0] * rate_hz
        # The three lines of an order share their turning but for one turn a window.
        turn = np.exp(-2j * np.pi / length_s * time_s)
        weighted = part * weights
        lines = np.stack([weighted * np.conj(turn), weighted, weighted * turn])
        of_first = turn**cycles
        of_order = np.ones_like(turn)
        for order in range(orders):
            of_order = of_order * of_first
            power[order] += np.abs(2 / (length_s * rate_hz) * (lines @ of_order)) ** 2 / 2
    sums = (power / windows).sum(axis=1)
    return np.concatenate([[0.0], np.sqrt(sums)])
