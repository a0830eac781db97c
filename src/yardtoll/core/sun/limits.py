"""What limited a solar input, sample by sample: sun, array, station cap, full battery, or shade.

With an irradiance log the sun's share is known and only what the station made of it is in doubt.
Without one the clear sky is used: an input that varies under it is a cloudy one, one
that stays the same share under it has a weak array.
"""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.sun.running_median import running_median
from yardtoll.core.sun.shade import Drop, find_drops


class Limit(StrEnum):
    """What held an input where it was."""

    SUN = "sun"
    ARRAY = "array"
    CAP = "cap"
    FULL = "full"
    SHADE = "shade"


LIMITS = tuple(Limit)
CAP_SHARE = 0.98
"""An input within 2 % of the cap is at it."""
UNDER_SHARE = 0.9
"""Steadily under this share of what the sun allows, something else limits it."""
HAZE_SHARE = 0.8
"""Without a sensor haze takes so much of a clear sky that a weak array is not recognised above it
(common practice, no source)."""
NEARLY_FULL_SOC = 80.0
"""A charge may taper from here on (common practice, no source)."""
MOST_SHADES = 5
"""Nobody shades panels by hand more often in a log without an irradiance sensor (common practice,
no source)."""
_NOTHING_SHARE = 0.03
_FULL_SHARE = 0.93
_LEAST_SHARE = 0.02
"""Under this share of the nameplate a model of the array says nothing."""
_BRIGHT_SHARE = 0.3
_SMOOTH_S = 60.0
_FLAT_SHARE = 0.006
_FLAT_S = 600.0
_FOLLOWS = 0.15
_CHANGES, _CHANGES_CLAIMED, _NEAR_CLAIM = 1.05, 1.015, 0.06
_TAPER_S = 600.0
_STEADY, _STEADY_S = 0.05, 900.0
_PASSING_S = 300.0
"""A tracker that lags behind the light is back sooner."""
_STILL, _MOVING = 0.012, 0.03


@dataclass(frozen=True, kw_only=True)
class SolarInput:
    """A solar input beside what the sun allowed.

    Attributes:
        time_s, power_w: (n,) s and W at the station.
        free_w: (n,) W the array should give at this irradiance, or under a clear sky, uncapped.
        measured_sun: whether ``free_w`` rests on an irradiance log.
        array_w: nameplate.
        cap_w: the station's limit where it is known.
        soc: (n,) % of the display or its log; None where there is none. NaN between readings.
    """

    time_s: FloatArray
    power_w: FloatArray
    free_w: FloatArray
    measured_sun: bool
    array_w: float
    cap_w: float | None = None
    soc: FloatArray | None = None


@dataclass(frozen=True, kw_only=True)
class Limits:
    """What limited each sample.

    Attributes:
        which: (n,) index into :data:`LIMITS`.
        drops: shade put on, and how it was left.
        cap_w: the cap, given or seen; None for neither.
        usual_share: of what the sun allows, where nothing else limited; None where not seen.
    """

    which: NDArray[np.int8]
    drops: tuple[Drop, ...]
    cap_w: float | None
    usual_share: float | None


def find_limits(seen: SolarInput) -> Limits:
    """Sort every sample into one of the five."""
    lit = seen.free_w > _LEAST_SHARE * seen.array_w
    cap_w = _cap(seen, lit)
    at_cap = np.zeros(seen.time_s.size, dtype=bool)
    if cap_w is not None:
        level = _smoothed(seen.power_w, seen.time_s, _SMOOTH_S, least=3)
        at_cap = lit & (level >= CAP_SHARE * cap_w)
    of_sun = _share_where_lit(seen.power_w, seen.free_w, lit)
    usual = _usual_share(of_sun, lit & ~at_cap, seen)
    smooth = _smoothed(of_sun, seen.time_s, _SMOOTH_S)
    full = _full(seen, smooth, usual, cap_w, lit & ~at_cap)
    # What a nearly full battery never comes back from is no shade.
    # Nor is a plug that is pulled: then nothing at all flows to the end of the log.
    drops = [
        d
        for d in _drops(seen, usual, cap_w, lit)
        if d.back is not None or not (full[d.first] or d.floor < _NOTHING_SHARE)
    ]
    shaded = np.zeros(seen.time_s.size, dtype=bool)
    for drop in drops:
        shaded[drop.first : drop.back if drop.back is not None else drop.last + 1] = True
    free = ~shaded & ~at_cap
    which = np.full(seen.time_s.size, LIMITS.index(Limit.SUN), dtype=np.int8)
    under = _under(seen, smooth, usual, cap_w) & free & lit
    weak = usual is not None and usual < UNDER_SHARE
    if seen.measured_sun and not weak:
        _mark_stretches(which, _lasting(under, seen.time_s, _PASSING_S), seen)
    else:
        which[under] = LIMITS.index(Limit.ARRAY)
    if seen.measured_sun and weak:
        # At dusk a model says nothing; a weak array is as weak then.
        which[~lit] = LIMITS.index(Limit.ARRAY)
    which[full] = LIMITS.index(Limit.FULL)
    which[at_cap] = LIMITS.index(Limit.CAP)
    which[shaded] = LIMITS.index(Limit.SHADE)
    return Limits(which=which, drops=tuple(drops), cap_w=cap_w, usual_share=usual)


def _mark_stretches(which: NDArray[np.int8], under: NDArray[np.bool_], seen: SolarInput) -> None:
    """Stretches under what a sound array makes of the light that a sensor saw.

    One that keeps a level while the light keeps changing is a cap that was lowered, as a hot
    station does; every other one is shade that came slowly, such as a tree's.
    """
    edges = np.flatnonzero(np.diff(np.concatenate([[0], under.astype(np.int8), [0]])))
    for start, stop in edges.reshape(-1, 2).tolist():
        power, free = seen.power_w[start:stop], seen.free_w[start:stop]
        still = float(np.std(power)) < _STILL * max(float(np.mean(power)), 1e-9)
        low, high = np.percentile(free, (10, 90))
        lowered = still and high - low > _MOVING * high
        which[start:stop] = LIMITS.index(Limit.CAP if lowered else Limit.SHADE)


def _drops(
    seen: SolarInput, usual: float | None, cap_w: float | None, lit: NDArray[np.bool_]
) -> list[Drop]:
    """Drops in the share of what this array usually makes of the sun, up to the cap.

    Without an irradiance log a day of many drops is one of broken cloud, so a shade cannot be found
    among them.
    """
    if not lit.any():
        return []
    share = _share_where_lit(seen.power_w, _usual_w(seen, usual, cap_w), lit)
    found = find_drops(seen.time_s, share, seen.power_w, rough=not seen.measured_sun)
    if not seen.measured_sun and len(found) > MOST_SHADES:
        return []
    return found


def _usual_w(seen: SolarInput, usual: float | None, cap_w: float | None) -> FloatArray:
    """(n,) W that this array usually makes of the sun, up to the cap."""
    watts = seen.free_w * (usual if usual is not None else 1.0)
    return watts if cap_w is None else np.minimum(watts, cap_w)


def _share_where_lit(
    power_w: FloatArray, allowed: FloatArray, lit: NDArray[np.bool_]
) -> FloatArray:
    """Input ÷ allowed; in the dark the last share in the light, before dawn the first one."""
    if not lit.any():
        return np.ones(power_w.size)
    share = (power_w / np.maximum(allowed, 1e-9)).clip(0.0, 2.0)
    nearest = np.maximum.accumulate(np.where(lit, np.arange(lit.size), -1))
    return np.asarray(share[np.where(nearest < 0, int(np.argmax(lit)), nearest)])


def _smoothed(
    values: FloatArray, time_s: FloatArray, seconds: float, *, least: int = 1
) -> FloatArray:
    """Running median over so many seconds, or samples where those are few."""
    interval = float(np.median(np.diff(time_s))) if time_s.size > 1 else seconds
    size = max(least, round(seconds / max(interval, 1e-9))) | 1
    return running_median(values, size)


def _cap(seen: SolarInput, lit: NDArray[np.bool_]) -> float | None:
    """The station's limit: as claimed where the input reaches it, else as found in the log."""
    if seen.cap_w is not None and lit.any():
        top = float(np.percentile(seen.power_w[lit], 98))
        if CAP_SHARE * seen.cap_w <= top <= seen.cap_w * (2 - CAP_SHARE):
            return seen.cap_w
    found = _seen_cap(seen, lit)
    return found if found is not None else seen.cap_w


def _seen_cap(seen: SolarInput, lit: NDArray[np.bool_]) -> float | None:
    """A level that the input keeps while the available power keeps changing above it."""
    if not lit.any():
        return None
    top = float(np.percentile(seen.power_w[lit], 98))
    if top <= 0:
        return None
    at_top = lit & (np.abs(seen.power_w / top - 1) < 2 * _FLAT_SHARE)
    if np.count_nonzero(at_top) < 5:
        return None
    spent = float(np.gradient(seen.time_s)[at_top].sum())
    free = seen.free_w[at_top]
    low, high = np.percentile(free, (5, 95))
    level = float(np.median(seen.power_w[at_top]))
    still = float(np.std(seen.power_w[at_top])) < _FLAT_SHARE * level
    # A maker's figure close by makes a smaller change of the sun above it tell as much.
    claimed = seen.cap_w is not None and abs(level / seen.cap_w - 1) < _NEAR_CLAIM
    changes = high > (_CHANGES_CLAIMED if claimed else _CHANGES) * max(low, level)
    if not (still and spent >= _FLAT_S and changes):
        return None
    return level if _follows(seen.power_w[at_top], free) < _FOLLOWS else None


def _follows(power_w: FloatArray, free_w: FloatArray) -> float:
    """How closely the input follows the available power: 1 fully, 0 not at all."""
    spread = float(np.var(free_w))
    if spread == 0:
        return 1.0
    slope = float(np.mean((power_w - power_w.mean()) * (free_w - free_w.mean()))) / spread
    return slope * float(free_w.mean()) / float(power_w.mean())


def _usual_share(share: FloatArray, free: NDArray[np.bool_], seen: SolarInput) -> float | None:
    """The share of the available power, where the sun is high enough and the battery not full."""
    usable = free & (seen.free_w > _BRIGHT_SHARE * float(seen.free_w.max()))
    if seen.soc is not None:
        usable &= ~(_held(seen.soc) >= NEARLY_FULL_SOC)
    if np.count_nonzero(usable) < 5:
        usable = free
    if not usable.any():
        return None
    return float(np.percentile(share[usable], 80 if seen.measured_sun else 90))


def _under(
    seen: SolarInput, smooth: FloatArray, usual: float | None, cap_w: float | None
) -> NDArray[np.bool_]:
    """Where the array, or its tracker, gives less than the sun allows and the station takes."""
    allowed = np.ones(smooth.size)
    if cap_w is not None:
        allowed = np.minimum(cap_w / np.maximum(seen.free_w, 1e-9), 1.0)
    if seen.measured_sun:
        return smooth < UNDER_SHARE * allowed
    if usual is None or not 0 < usual < HAZE_SHARE:
        return np.zeros(smooth.size, dtype=bool)
    alike = (np.abs(smooth / usual - 1) <= _STEADY) & (smooth < UNDER_SHARE * allowed)
    return _lasting(alike, seen.time_s, _STEADY_S)


def _lasting(mask: NDArray[np.bool_], time_s: FloatArray, seconds: float) -> NDArray[np.bool_]:
    """Only the stretches that last so long: a cloud meets any share in passing."""
    kept = mask.copy()
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(np.int8), [0]])))
    for start, stop in edges.reshape(-1, 2).tolist():
        if time_s[stop - 1] - time_s[start] < seconds:
            kept[start:stop] = False
    return kept


def _held(soc: FloatArray) -> FloatArray:
    """The last state of charge that was read; NaN before the first."""
    known = np.isfinite(soc)
    last = np.maximum.accumulate(np.where(known, np.arange(soc.size), -1))
    return np.where(last >= 0, soc[np.maximum(last, 0)], np.nan)


def _full(
    seen: SolarInput,
    smooth: FloatArray,
    usual: float | None,
    cap_w: float | None,
    free: NDArray[np.bool_],
) -> NDArray[np.bool_]:
    """Where the input falls away under its usual level because the battery is nearly full.

    Without a state of charge only a fall that lasts to the end of daylight shows it.
    """
    usually = _usual_w(seen, usual, cap_w) / np.maximum(seen.free_w, 1e-9)
    low = free & (smooth < _FULL_SHARE * np.minimum(usually, 1.0))
    if seen.soc is not None and np.isfinite(seen.soc).any():
        return low & (_held(seen.soc) >= NEARLY_FULL_SOC)
    lit = np.flatnonzero(free)
    good = np.flatnonzero(free & ~low)
    start = int(good[-1]) + 1 if good.size else 0
    tail = lit[lit >= start]
    nothing = np.zeros(low.size, dtype=bool)
    stopped = _stopped_for_good(seen, lit)
    if stopped is not None:
        nothing[stopped:] = free[stopped:]
    if tail.size < 5 or seen.time_s[tail[-1]] - seen.time_s[tail[0]] < _TAPER_S:
        return nothing
    share = (smooth / np.maximum(usually, 1e-9))[tail]
    power = _smoothed(seen.power_w, seen.time_s, _TAPER_S / 2)[tail]
    falling = float(np.mean(np.diff(power) <= 0.002 * seen.array_w)) > 0.97
    deep = 0.6
    if not seen.measured_sun:
        # An afternoon of cloud falls away as well, but never to nothing while the sun is high.
        high = seen.free_w[tail] > 0.25 * float(seen.free_w.max())
        share, deep = (share[high], 0.1) if high.any() else (share, 0.0)
    if falling and share.min() < deep and share[0] > 0.65:
        nothing[tail] = True
    return nothing


def _stopped_for_good(seen: SolarInput, lit: NDArray[np.intp]) -> int | None:
    """The sample from which nothing more flows though the sun is up; None where it does not stop.

    Some batteries take no more from one moment to the next when they are full. A plug that is
    pulled looks the same: only a state of charge would show it.
    """
    flowing = np.flatnonzero(seen.power_w > _NOTHING_SHARE * seen.array_w)
    if flowing.size == 0 or lit.size == 0:
        return None
    bright = seen.free_w > _BRIGHT_SHARE * float(seen.free_w.max())
    after = lit[(lit > flowing[-1]) & bright[lit]]
    if after.size < 5 or seen.time_s[after[-1]] - seen.time_s[after[0]] < _TAPER_S:
        return None
    return int(after[0])
