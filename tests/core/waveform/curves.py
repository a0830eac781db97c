"""Curves of volts with a known truth, drawn sample by sample."""

import numpy as np

from yardtoll.core.waveform.capture import Capture


def capture(volts, rate_hz, amps=None, **facts):
    return Capture(name="scope.csv", rate_hz=rate_hz, volts=np.asarray(volts, float), amps=amps,
                   **facts)  # fmt: skip


def sampled(curve, hertz=50.0, cycles=10.0, rate_hz=48_000.0, begin=0.013):
    """A curve given over one turn (0 to 1), sampled."""
    turns = np.arange(round(cycles / hertz * rate_hz)) / rate_hz * hertz + begin
    return capture(curve(turns % 1.0), rate_hz)


def sine(peak):
    return lambda turn: peak * np.sin(2 * np.pi * turn)


def square(peak):
    return lambda turn: np.where(turn < 0.5, peak, -peak)


def triangle(peak):
    return lambda turn: peak * (1 - 4 * np.abs((turn + 0.25) % 1.0 - 0.5))


def modified(peak, duty):
    """Two levels with rests between: each level lasts duty ÷ 2 of a turn."""
    return lambda turn: (
        peak * (np.abs(turn - 0.25) < duty / 4) - peak * (np.abs(turn - 0.75) < duty / 4)
    )
