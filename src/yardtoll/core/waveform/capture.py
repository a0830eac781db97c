"""One capture of a curve, evenly spaced in time."""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.errors import UnusableDataError

MOST_HZ = 200_000.0
"""Faster captures are thinned out: the 40th harmonic of 60 Hz is at 2.4 kHz."""
_MOST = 1e9
_UNEVEN = 0.02
"""Times that differ from an even grid by more than this share of a step are placed on one."""


@dataclass(frozen=True, kw_only=True)
class Capture:
    """Volts, and amps where there is a current channel, at a steady rate.

    Attributes:
        name: for messages.
        rate_hz: samples a second.
        volts, amps: (n,); volts in shares of full scale where ``relative``.
        relative: no scale is known; ratios alone can be told.
        full_scale: the largest that could be read, in the unit of ``volts``; None if not known.
        start_s: time of the first sample on the instrument's own axis.
        highest: peak of the capture before it was thinned out, which rounds it; None if it was not.
    """

    name: str
    rate_hz: float
    volts: FloatArray
    amps: FloatArray | None = None
    relative: bool = False
    full_scale: float | None = None
    start_s: float = 0.0
    highest: float | None = None

    @property
    def peak(self) -> float:
        """The largest value of either sign."""
        return self.highest if self.highest is not None else float(np.max(np.abs(self.volts)))

    @property
    def duration_s(self) -> float:
        """Length of the capture, an interval for each sample."""
        return self.volts.size / self.rate_hz

    @property
    def time_s(self) -> FloatArray:
        """(n,) s from the first sample."""
        return np.arange(self.volts.size) / self.rate_hz


def evenly_spaced(
    name: str, time_s: FloatArray, volts: FloatArray, amps: FloatArray | None = None
) -> Capture:
    """A capture from samples with a time each.

    Raises:
        UnusableDataError: fewer than four samples, times that do not rise, or no steady rate.
    """
    good = np.isfinite(time_s) & np.isfinite(volts)
    if amps is not None:
        good &= np.isfinite(amps)
    time_s, volts = time_s[good], volts[good]
    amps = amps[good] if amps is not None else None
    if time_s.size < 4:
        raise UnusableDataError(f"{name}: {time_s.size} samples are no waveform")
    largest = max(float(np.max(np.abs(v))) for v in (time_s, volts, amps) if v is not None)
    if largest > _MOST:
        raise UnusableDataError(f"{name}: {largest:.3g} is no plausible figure of a scope")
    steps = np.diff(time_s)
    # Times are often written with few digits, so that neighbours repeat; the whole span counts.
    step_s = float(time_s[-1] - time_s[0]) / (time_s.size - 1)
    if not step_s > 0 or np.any(steps < 0):
        raise UnusableDataError(f"{name}: the times do not rise")
    even_s = time_s[0] + step_s * np.arange(time_s.size)
    off = np.abs(time_s - even_s)
    if float(off.max()) > _UNEVEN * step_s and np.all(steps > 0) and _is_uneven(steps):
        volts = np.interp(even_s, time_s, volts)
        amps = np.interp(even_s, time_s, amps) if amps is not None else None
    return Capture(name=name, rate_hz=1 / step_s, volts=volts, amps=amps, start_s=float(time_s[0]))


def _is_uneven(steps: FloatArray) -> bool:
    """Whether steps really differ, and not for the last digit of the times alone."""
    return bool(np.ptp(steps) > 0.5 * np.median(steps))
