"""The frequency of a curve, and the sines it is made of, by least squares.

The model is a constant and sines at whole multiples of one frequency; its misfit is smallest at
the frequency that is there (the periodogram of a harmonic signal).
"""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import FloatArray

HIGHEST_ORDER = 40
_SEARCH = (0.6, 1.6)
"""Shares of the nominal frequency between which the fundamental is looked for."""
_SAMPLES, _ORDERS = 6_000, 15
"""So many are enough to find the frequency."""
_WELL_CONDITIONED = 1e8
_RIDGE = 1e-9
"""So little keeps a short capture's equations solvable and moves no frequency."""


@dataclass(frozen=True)
class Sines:
    """A constant and sines at multiples of a frequency.

    Attributes:
        hertz: of the fundamental.
        constant: the mean.
        phasors: (orders + 1,) complex peak values a − jb of a·cos + b·sin; entry 0 is not used.
    """

    hertz: float
    constant: float
    phasors: np.ndarray

    def at(self, time_s: FloatArray) -> FloatArray:
        """(n,) values of the model."""
        first = np.exp(2j * np.pi * self.hertz * time_s)
        made = np.full(time_s.size, self.constant, dtype=complex)
        turning = np.ones_like(first)
        for phasor in self.phasors[1:]:
            turning *= first
            made += phasor * turning
        return np.asarray(made.real)


def fit_sines(time_s: FloatArray, values: FloatArray, hertz: float, orders: int) -> Sines:
    """The sines of a known frequency that fit best."""
    basis = _basis(time_s, hertz, orders)
    found = _solved(basis, values)
    cosines, sines = found[1 : orders + 1], found[orders + 1 :]
    return Sines(hertz, float(found[0]), np.concatenate([[0j], cosines - 1j * sines]))


def find_hertz(
    values: FloatArray, rate_hz: float, nominal_hz: float, samples: int = _SAMPLES
) -> float | None:
    """The fundamental's frequency near a nominal one; None where nothing is periodic there.

    Args:
        values: (n,) at a steady rate, at least one cycle.
        samples: more than these are thinned out.
    """
    from scipy import optimize

    values = np.asarray(values - np.mean(values), dtype=float)
    if not np.any(values):
        return None
    most = int(rate_hz / (2 * 2 * _ORDERS * nominal_hz))
    factor = max(min(values.size // samples, most), 1)
    if factor > 1:
        usable = values.size // factor * factor
        values, rate_hz = values[:usable].reshape(-1, factor).mean(axis=1), rate_hz / factor
    time_s = np.arange(values.size) / rate_hz
    low, high = _SEARCH[0] * nominal_hz, _SEARCH[1] * nominal_hz
    start = _coarse(values, rate_hz, low, high)
    orders = max(min(_ORDERS, int(0.45 * rate_hz / start)), 1)
    cycles = time_s[-1] * start
    if cycles < 1.5:
        orders = min(orders, 5)
    # Within this the misfit has one valley.
    width = min(0.5 / max(time_s[-1], 1e-9), 0.2 * start)

    whole = float(np.sum(values**2))

    def misfit(hertz: float) -> float:
        basis = _basis(time_s, hertz, orders)
        against = basis.T @ values
        gram = basis.T @ basis
        gram[np.diag_indices_from(gram)] *= 1 + _RIDGE
        return whole - float(against @ np.linalg.solve(gram, against))

    tried = np.linspace(max(start - width, low), min(start + width, high), 9)
    best = int(np.argmin([misfit(h) for h in tried]))
    left, right = tried[max(best - 1, 0)], tried[min(best + 1, tried.size - 1)]
    found = optimize.minimize_scalar(
        misfit, bounds=(left, right), method="bounded", options={"xatol": 3e-6 * start}
    )
    return float(found.x)


def _coarse(values: FloatArray, rate_hz: float, low: float, high: float) -> float:
    """The strongest line of the spectrum between two frequencies."""
    from scipy import fft

    size = fft.next_fast_len(max(8 * values.size, 2))
    spectrum = np.abs(fft.rfft(values * np.hanning(values.size), size))
    hertz = np.fft.rfftfreq(size, 1 / rate_hz)
    within = np.flatnonzero((hertz >= low) & (hertz <= high))
    return float(hertz[within[np.argmax(spectrum[within])]]) if within.size else (low + high) / 2


def _solved(basis: FloatArray, values: FloatArray) -> FloatArray:
    """Least squares by the normal equations, which whole cycles keep well conditioned."""
    gram = basis.T @ basis
    if np.linalg.cond(gram) < _WELL_CONDITIONED:
        return np.asarray(np.linalg.solve(gram, basis.T @ values))
    return np.asarray(np.linalg.lstsq(basis, values, rcond=None)[0])


def _basis(time_s: FloatArray, hertz: float, orders: int) -> FloatArray:
    """(n, 2·orders + 1): a constant, cosines, sines."""
    angle = 2 * np.pi * hertz * time_s
    first = np.exp(1j * angle)
    powers = np.empty((time_s.size, orders), dtype=complex)
    powers[:, 0] = first
    for order in range(1, orders):
        powers[:, order] = powers[:, order - 1] * first
    return np.concatenate([np.ones((time_s.size, 1)), powers.real, powers.imag], axis=1)
