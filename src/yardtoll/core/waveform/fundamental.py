"""The frequency of a curve, and the sines it is made of, by least squares.

The model is a constant and sines at whole multiples of one frequency; its misfit is smallest at
the frequency that is there (the periodogram of a harmonic signal).
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

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
        against, gram = _normal_equations(values, hertz / rate_hz, orders)
        gram.flat[:: gram.shape[0] + 1] *= 1 + _RIDGE
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
    first = np.exp(2j * np.pi * hertz * time_s)
    turning = np.ones_like(first)
    # A row each, which lie together in memory; seen as columns only at the end.
    rows = np.ones((2 * orders + 1, time_s.size))
    for order in range(1, orders + 1):
        turning *= first
        rows[order], rows[orders + order] = turning.real, turning.imag
    return rows.T


def _normal_equations(
    values: FloatArray, turns: float, orders: int
) -> tuple[FloatArray, FloatArray]:
    """(2·orders + 1,) and a square of it: a basis times values, and times itself.

    The basis itself, n times as large, is not made: with steady steps its products with itself are
    sums of geometric series, and those with the values are taken a block of samples at a time.

    Args:
        values: (n,) at a steady rate.
        turns: cycles from one value to the next.
    """
    block = math.isqrt(values.size)
    blocks = -(-values.size // block)
    padded = np.zeros(blocks * block)
    padded[: values.size] = values
    angles = 2 * np.pi * turns * np.arange(1, orders + 1)
    within = np.exp(1j * np.outer(np.arange(block), angles))
    of_blocks = padded.reshape(blocks, block) @ within.view(float)
    begins = np.exp(1j * np.outer(np.arange(blocks) * block, angles))
    lines = np.einsum("bk,bk->k", of_blocks.view(complex), begins)
    against = np.concatenate([[values.sum()], lines.real, lines.imag])

    sums = _turning_sums(values.size, turns, 2 * orders)
    order = np.arange(orders + 1)
    above = sums[order[:, np.newaxis] + order]
    apart = sums[np.abs(order[:, np.newaxis] - order)]
    # cos·cos and sin·sin are half the difference's cosine ± half the sum's; sin·cos of the sines.
    leads = np.sign(order[:, np.newaxis] - order)
    gram = np.empty((2 * orders + 1, 2 * orders + 1))
    gram[: orders + 1, : orders + 1] = (apart.real + above.real) / 2
    gram[orders + 1 :, orders + 1 :] = ((apart.real - above.real) / 2)[1:, 1:]
    mixed = (above.imag + leads * apart.imag)[1:] / 2
    gram[orders + 1 :, : orders + 1] = mixed
    gram[: orders + 1, orders + 1 :] = mixed.T
    return against, gram


def _turning_sums(count: int, turns: float, highest: int) -> NDArray[np.complex128]:
    """(highest + 1,) Σ exp(2πi·order·turns·n) over ``count`` n from 0 on: geometric series."""
    angles = 2 * np.pi * turns * np.arange(1, highest + 1)
    # sin(nx/2) ÷ sin(x/2), turned to the middle of the samples.
    sizes = np.sin(count * angles / 2) / np.sin(angles / 2)
    return np.concatenate([[complex(count)], sizes * np.exp(0.5j * (count - 1) * angles)])
