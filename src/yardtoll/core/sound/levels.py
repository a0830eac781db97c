"""Sound levels: without background, at another distance; A-weighted from a recording; hum.

The A-weighting is the analytic one of IEC 61672-1:2013, annex E (from memory), applied in the
frequency domain, so that no filter bends it towards half the sampling rate.
"""

import math
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import Code, FloatArray, Notice
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError

LEAST_ABOVE_DB = 3.0
FAST_S = 0.125
_POLES_HZ = (20.598997, 107.65265, 737.86223, 12194.217)
_REFERENCE_HZ = 1000.0
_LEAST_HUM_DB, _HUM_ORDERS = 6.0, 20
_HUM_S = 1.0


@dataclass(frozen=True, kw_only=True)
class Hum:
    """A tone at a multiple of the mains frequency, in dB above the noise beside it."""

    hertz: float
    above_floor_db: float


@dataclass(frozen=True, kw_only=True)
class SoundResult:
    """Levels in dB; None where they cannot be told.

    Attributes:
        at_1m_db: of the level without background, where there is one.
        relative: a recording without calibration: no levels, hum alone.
    """

    level_db: float | None
    without_background_db: float | None
    at_1m_db: float | None
    l_eq_db: float | None = None
    l_max_db: float | None = None
    hum: tuple[Hum, ...] = ()
    relative: bool = False
    notices: tuple[Notice, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Recording:
    """Sound pressure over time, in shares of full scale.

    Attributes:
        samples: (n,) −1 to 1.
    """

    name: str
    rate_hz: float
    samples: FloatArray


def without_background(level_db: float, background_db: float) -> float | None:
    """The source alone: 10·log10(10^(L/10) − 10^(B/10)); None under 3 dB apart."""
    if level_db - background_db < LEAST_ABOVE_DB:
        return None
    return 10 * math.log10(10 ** (level_db / 10) - 10 ** (background_db / 10))


def at_distance(level_db: float, from_m: float, to_m: float = 1.0) -> float:
    """L − 20·log10(to ÷ from): a small source in the open.

    Raises:
        ValueOutOfRangeError: a distance is not above 0.
    """
    for value in (from_m, to_m):
        if not (math.isfinite(value) and value > 0):
            raise ValueOutOfRangeError("{distance_m}", value, "above 0")
    return level_db - 20 * math.log10(to_m / from_m)


def analyse_level(
    level_db: float, distance_m: float = 1.0, background_db: float | None = None
) -> SoundResult:
    """A level as read off a meter or a phone.

    Raises:
        ValueOutOfRangeError: a level outside −20 to 200 dB, or a distance not above 0.
    """
    for name, value in (("level", level_db), ("background", background_db)):
        if value is not None and not -20 <= value <= 200:
            raise ValueOutOfRangeError(f"{{{name}}}", value, "from -20 to 200 dB")
    alone, notices = _alone(level_db, background_db)
    basis = alone if alone is not None else level_db
    return SoundResult(
        level_db=level_db,
        without_background_db=alone,
        at_1m_db=at_distance(basis, distance_m),
        notices=notices,
    )


def analyse_recording(
    recording: Recording,
    *,
    calibration: tuple[float, float] | None = None,
    distance_m: float = 1.0,
    background_db: float | None = None,
    mains_hz: float = 60.0,
) -> SoundResult:
    """A recording.

    Args:
        calibration: a level in dB, and the r.m.s. in shares of full scale that it gave.

    Raises:
        UnusableDataError: under a fifth of a second, or silence.
        ValueOutOfRangeError: a figure is not above 0.
    """
    samples = recording.samples - np.mean(recording.samples)
    if samples.size < 0.2 * recording.rate_hz:
        raise UnusableDataError(f"{recording.name} is shorter than 0.2 s")
    if not np.any(samples):
        raise UnusableDataError(f"{recording.name} is silent")
    if not (math.isfinite(mains_hz) and mains_hz > 0):
        raise ValueOutOfRangeError("{mains_hz}", mains_hz, "above 0")
    hum = tuple(find_hum(samples, recording.rate_hz, mains_hz))
    if calibration is None:
        return SoundResult(
            level_db=None, without_background_db=None, at_1m_db=None, hum=hum, relative=True
        )
    level_db, rms = calibration
    if not (math.isfinite(rms) and rms > 0):
        raise ValueOutOfRangeError("{calibration}", rms, "above 0")
    weighted = a_weighted(samples, recording.rate_hz)
    l_eq = level_db + 20 * math.log10(float(np.sqrt(np.mean(weighted**2))) / rms)
    l_max = level_db + 20 * math.log10(_fast_max(weighted, recording.rate_hz) / rms)
    alone, notices = _alone(l_eq, background_db)
    return SoundResult(
        level_db=l_eq,
        without_background_db=alone,
        at_1m_db=at_distance(alone if alone is not None else l_eq, distance_m),
        l_eq_db=l_eq,
        l_max_db=l_max,
        hum=hum,
        notices=notices,
    )


def a_weighting_db(hertz: FloatArray) -> FloatArray:
    """(n,) dB of the A-weighting; 0 at 1 kHz."""
    one = float(_response(np.array([_REFERENCE_HZ]))[0])
    with np.errstate(divide="ignore"):
        return np.asarray(20 * np.log10(_response(np.asarray(hertz, dtype=float)) / one))


def a_weighted(samples: FloatArray, rate_hz: float) -> FloatArray:
    """(n,) A-weighted sound pressure."""
    from scipy import fft

    spectrum = fft.rfft(samples)
    hertz = np.asarray(np.fft.rfftfreq(samples.size, 1 / rate_hz), dtype=np.float64)
    gain = _response(hertz) / _response(np.array([_REFERENCE_HZ]))[0]
    return np.asarray(fft.irfft(spectrum * gain, samples.size))


def find_hum(samples: FloatArray, rate_hz: float, mains_hz: float) -> list[Hum]:
    """Tones at multiples of the mains frequency that stand 6 dB or more above what is beside."""
    from scipy import signal

    size = min(int(_HUM_S * rate_hz), samples.size)
    hertz, power = signal.welch(samples, rate_hz, "hann", size, scaling="spectrum")
    step = hertz[1] - hertz[0]
    near = max(0.01 * mains_hz, 2 * step)
    found = []
    for order in range(1, _HUM_ORDERS + 1):
        at = order * mains_hz
        if at + mains_hz / 2 > rate_hz / 2:
            break
        line = np.abs(hertz - at) <= near
        beside = (np.abs(hertz - at) <= mains_hz / 2.5) & (np.abs(hertz - at) > near + 2 * step)
        if not np.any(line) or not np.any(beside):
            continue
        floor = float(np.median(power[beside]))
        peak = float(np.max(power[line]))
        if floor > 0 and peak > 0:
            above_db = 10 * math.log10(peak / floor)
            if above_db >= _LEAST_HUM_DB:
                found.append(Hum(hertz=at, above_floor_db=above_db))
    return found


def _alone(level_db: float, background_db: float | None) -> tuple[float | None, tuple[Notice, ...]]:
    if background_db is None:
        return None, ()
    alone = without_background(level_db, background_db)
    if alone is not None:
        return alone, ()
    said = (
        f"{level_db:.1f} dB is under 3 dB above the background of {background_db:.1f} dB: "
        "the source alone is at most so loud"
    )
    return None, (Notice(code=Code.BACKGROUND_TOO_CLOSE, message=said),)


def _response(hertz: FloatArray) -> FloatArray:
    """(n,) magnitude of the A-weighting, unscaled."""
    low, second, third, high = (pole**2 for pole in _POLES_HZ)
    square = hertz**2
    return np.asarray(
        high
        * square**2
        / ((square + low) * np.sqrt((square + second) * (square + third)) * (square + high))
    )


def _fast_max(weighted: FloatArray, rate_hz: float) -> float:
    """The highest r.m.s. with the time weighting F (125 ms)."""
    from scipy import signal

    share = 1 - math.exp(-1 / (FAST_S * rate_hz))
    square = weighted**2
    # It begins at the mean, so that no start from silence or from a click is shown.
    begun = [(1 - share) * float(np.mean(square[: max(int(FAST_S * rate_hz), 1)]))]
    smooth, _ = signal.lfilter([share], [1, share - 1], square, zi=begun)
    return math.sqrt(float(np.max(smooth)))
