"""What a curve of volts says: r.m.s., frequency, distortion, crest, shape, and power with amps."""

import math
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.stretches import stretches
from yardtoll.core.electrical.trace import Code, FloatArray, Notice
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.waveform.capture import MOST_HZ, Capture
from yardtoll.core.waveform.fundamental import HIGHEST_ORDER, find_hertz, fit_sines
from yardtoll.core.waveform.harmonics import Distortion, distortion
from yardtoll.core.waveform.shape import Shape, folded, shape_of

SECONDS_PER_DAY = 86_400.0
FEW_CYCLES = 3.0
_UNEXPLAINED = 0.35
"""A curve of which more than this share of the r.m.s. repeats in no cycle is not periodic."""
_FLAT_SAMPLES = 3
_NEARLY_ONE = 0.98
_LEAST_PER_CYCLE = 8


@dataclass(frozen=True, kw_only=True)
class WaveResult:
    """What a capture shows.

    Attributes:
        vrms, dc_v, peak_v: over whole cycles, r.m.s. with its DC; None where no scale is known.
        hertz: None where nothing is periodic.
        cycles: of the capture.
        arms, watts, power_factor, displacement_factor: None without a current channel.
        cycle: (n,) one mean cycle of volts, for a picture.
    """

    name: str
    vrms: float | None
    hertz: float | None
    dc_v: float | None
    peak_v: float | None
    crest: float | None
    distortion: Distortion | None
    shape: Shape
    cycles: float
    volts_off_ratio: float | None
    hertz_off_ratio: float | None
    clock_gain_s_per_day: float | None
    relative: bool
    arms: float | None = None
    watts: float | None = None
    power_factor: float | None = None
    displacement_factor: float | None = None
    cycle: tuple[float, ...] = ()
    notices: tuple[Notice, ...] = ()

    @property
    def va(self) -> float | None:
        """Volts times amps, r.m.s."""
        return None if self.vrms is None or self.arms is None else self.vrms * self.arms


def analyse_wave(capture: Capture, nominal_v: float, nominal_hz: float) -> WaveResult:
    """Work out a capture.

    Args:
        nominal_v, nominal_hz: what the outlet should give, > 0.

    Raises:
        UnusableDataError: it is shorter than one cycle, or has no curve.
        ValueOutOfRangeError: a nominal value is not above 0.
    """
    for name, value in (("nominal_v", nominal_v), ("nominal_hz", nominal_hz)):
        if not (math.isfinite(value) and value > 0):
            raise ValueOutOfRangeError(f"{{{name}}}", value, "above 0")
    capture = _thinned(capture)
    if capture.duration_s * nominal_hz < _NEARLY_ONE:
        raise UnusableDataError(
            f"{capture.name}: {1000 * capture.duration_s:.3g} ms are under one cycle (too_short)"
        )
    if capture.rate_hz < _LEAST_PER_CYCLE * nominal_hz:
        raise UnusableDataError(
            f"{capture.name}: {capture.rate_hz:.4g} samples a second are too few to see a cycle"
        )
    hertz = find_hertz(capture.volts, capture.rate_hz, nominal_hz)
    notices: list[Notice] = []
    if hertz is not None and not _repeats(capture, hertz):
        hertz = None
    if hertz is not None and capture.duration_s * hertz < _NEARLY_ONE:
        hertz = None
    if hertz is None:
        notices.append(
            Notice(code=Code.NOT_PERIODIC, message=f"{capture.name}: no cycle repeats another")
        )
        return _of_no_cycle(capture, nominal_v, nominal_hz, notices)
    return _of_cycles(capture, nominal_v, nominal_hz, hertz, notices)


def _of_cycles(
    capture: Capture, nominal_v: float, nominal_hz: float, hertz: float, notices: list[Notice]
) -> WaveResult:
    volts, rate_hz = capture.volts, capture.rate_hz
    cycles = capture.duration_s * hertz
    found = distortion(volts, rate_hz, hertz, nominal_hz)
    mean_square, mean = (_mean_of_cycles(v, rate_hz, hertz) for v in (volts**2, volts))
    vrms = math.sqrt(mean_square)
    peak = capture.peak
    crest = peak / vrms if vrms > 0 else None
    cycle = folded(volts, rate_hz, hertz)
    shape = shape_of(cycle - np.mean(cycle), found.thd, crest or 0.0)
    if cycles < FEW_CYCLES:
        said = f"{capture.name}: {cycles:.1f} cycles; three and more say it better"
        notices.append(Notice(code=Code.FEW_CYCLES, message=said))
    if not found.reaches_all:
        reached = max((h.order for h in found.harmonics if h.share is not None), default=1)
        said = f"{capture.name}: {rate_hz:.0f} samples a second reach order {reached} of 40"
        notices.append(Notice(code=Code.LOW_SAMPLE_RATE, message=said))
    if _is_clipped(capture, shape):
        said = f"{capture.name}: the curve is cut at the end of the instrument's range"
        notices.append(Notice(code=Code.CLIPPED, message=said))
    hidden = capture.relative
    return WaveResult(
        name=capture.name,
        vrms=None if hidden else vrms,
        hertz=hertz,
        dc_v=None if hidden else mean,
        peak_v=None if hidden else peak,
        crest=crest,
        distortion=found,
        shape=shape,
        cycles=cycles,
        volts_off_ratio=None if hidden else vrms / nominal_v - 1,
        hertz_off_ratio=hertz / nominal_hz - 1,
        clock_gain_s_per_day=SECONDS_PER_DAY * (hertz / nominal_hz - 1),
        relative=hidden,
        cycle=tuple(float(v) for v in cycle),
        notices=tuple(notices),
        **_with_amps(capture, hertz, found, vrms),
    )


def _with_amps(
    capture: Capture, hertz: float, found: Distortion, vrms: float
) -> dict[str, float | None]:
    amps = capture.amps
    if amps is None or capture.relative:
        return {}
    rate_hz = capture.rate_hz
    arms = math.sqrt(_mean_of_cycles(amps**2, rate_hz, hertz))
    watts = _mean_of_cycles(capture.volts * amps, rate_hz, hertz)
    most = min(amps.size, int(12 * rate_hz / hertz))
    orders = max(min(HIGHEST_ORDER, int(0.45 * rate_hz / hertz)), 1)
    current = fit_sines(np.arange(most) / rate_hz, amps[:most], hertz, orders).phasors[1]
    late = found.phase_rad - float(np.angle(current))
    return {
        "arms": arms,
        "watts": watts,
        "power_factor": watts / (vrms * arms) if vrms * arms > 0 else None,
        "displacement_factor": math.cos(late) if abs(current) > 0 else None,
    }


def _of_no_cycle(
    capture: Capture, nominal_v: float, nominal_hz: float, notices: list[Notice]
) -> WaveResult:
    volts = capture.volts
    vrms = float(np.sqrt(np.mean(volts**2)))
    amps, peak = capture.amps, capture.peak
    hidden = capture.relative
    return WaveResult(
        name=capture.name,
        vrms=None if hidden else vrms,
        hertz=None,
        dc_v=None if hidden else float(np.mean(volts)),
        peak_v=None if hidden else peak,
        crest=peak / vrms if vrms > 0 else None,
        distortion=None,
        shape=Shape.OTHER,
        cycles=capture.duration_s * nominal_hz,
        volts_off_ratio=None if hidden else vrms / nominal_v - 1,
        hertz_off_ratio=None,
        clock_gain_s_per_day=None,
        relative=hidden,
        arms=None if amps is None or hidden else float(np.sqrt(np.mean(amps**2))),
        watts=None if amps is None or hidden else float(np.mean(volts * amps)),
        notices=tuple(notices),
    )


def _mean_of_cycles(values: FloatArray, rate_hz: float, hertz: float) -> float:
    """Mean over as many whole cycles as there are, their end placed between samples."""
    period = rate_hz / hertz
    whole = max(int(values.size / period * (1 + 1e-9)), 1)
    end = min(whole * period, float(values.size))
    full = int(end)
    part = end - full
    total = float(np.sum(values[:full])) + (part * float(values[full]) if part > 1e-9 else 0.0)
    return total / end


def _repeats(capture: Capture, hertz: float) -> bool:
    """Whether sines of whole multiples make up most of the curve, a few cycles at a time."""
    volts, rate_hz = capture.volts, capture.rate_hz
    orders = max(min(25, int(0.45 * rate_hz / hertz)), 1)
    length = min(volts.size, int(6 * rate_hz / hertz))
    left = whole = 0.0
    for start in range(0, max(volts.size - length, 0) + 1, max(length, 1)):
        part = volts[start : start + length]
        fitted = fit_sines(np.arange(part.size) / rate_hz, part, hertz, orders)
        left += float(np.sum((part - fitted.at(np.arange(part.size) / rate_hz)) ** 2))
        whole += float(np.sum((part - fitted.constant) ** 2))
        if start > 50 * length:
            break
    return whole > 0 and math.sqrt(left / whole) <= _UNEXPLAINED


def _is_clipped(capture: Capture, shape: Shape) -> bool:
    """At full scale, or flat at one and the same extreme in the middle of a round peak."""
    volts = capture.volts
    if capture.full_scale is not None:
        at_end = np.abs(volts) >= capture.full_scale * (1 - 1e-4)
        return _longest(at_end) > 1
    if shape in (Shape.MODIFIED_SINE, Shape.SQUARE):
        return False
    top, bottom = float(np.max(volts)), float(np.min(volts))
    return _longest(volts == top) > _FLAT_SAMPLES and _longest(volts == bottom) > _FLAT_SAMPLES


def _longest(flags: np.ndarray) -> int:
    """Length of the longest run of True."""
    return max((stop - first for first, stop in stretches(flags)), default=0)


def _thinned(capture: Capture) -> Capture:
    """A very fast capture at a rate that still reaches every order."""
    factor = int(capture.rate_hz / MOST_HZ)
    if factor < 2:
        return capture
    amps = capture.amps
    return Capture(
        name=capture.name,
        rate_hz=capture.rate_hz / factor,
        volts=_decimated(capture.volts, factor),
        amps=_decimated(amps, factor) if amps is not None else None,
        relative=capture.relative,
        full_scale=capture.full_scale,
        start_s=capture.start_s,
        highest=capture.peak,
    )


def _decimated(values: FloatArray, factor: int) -> FloatArray:
    from scipy import signal

    usable = values.size // factor * factor
    if usable < 10 * factor:
        return values
    return np.asarray(signal.resample_poly(values, 1, factor, padtype="line"))
