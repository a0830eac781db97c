"""A simulated day of sun on a station: clouds, shade, tracker, cap, a battery that fills – and the
truth of what limited it at every sample.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.sun.limits import LIMITS, Limit
from yardtoll.core.sun.panels import SunArray, array_power_w
from yardtoll.core.sun.sky import SunSite, plane_irradiance

_GRID_S = 60.0
_BACK_SHARE = 0.95
_UNDER = 0.9
_FILLS_UNDER = 0.95
_SEEN_SHARE = 0.02


@dataclass(frozen=True, kw_only=True)
class ShadeOnPanels:
    """Something before the panels, s from the day's first sample; ``left`` is the share left."""

    start_s: float
    end_s: float
    left: float


@dataclass(frozen=True, kw_only=True)
class Weather:
    """Clouds that pass.

    Attributes:
        cloud_s, gap_s: mean length of a cloud and of the blue between; 0 s of clouds for a clear
            sky.
        least, most: share of the light that a cloud lets through.
        edge_s: over which a cloud's edge passes.
    """

    cloud_s: float = 0.0
    gap_s: float = 600.0
    least: float = 0.25
    most: float = 0.6
    edge_s: float = 25.0

    def light(self, time_s: FloatArray, random: np.random.Generator) -> FloatArray:
        """(n,) share of the clear sky's light at times on a regular grid."""
        share = np.ones(time_s.size)
        at = float(time_s[0])
        while self.cloud_s and at < time_s[-1]:
            at += float(random.exponential(self.gap_s))
            until = at + max(float(random.exponential(self.cloud_s)), 30.0)
            share[(time_s >= at) & (time_s < until)] = random.uniform(self.least, self.most)
            at = until
        step = float(time_s[1] - time_s[0])
        return np.asarray(gaussian_filter1d(share, max(self.edge_s / step, 1e-3)))


@dataclass(frozen=True, kw_only=True)
class SolarStation:
    """The station's side.

    Attributes:
        cap_w: what it takes at most.
        lag_s: time constant with which its tracker comes back up; 0 for at once.
        store_wh, start_share, efficiency: of the battery.
        taper_from: share of the store from which it takes less, in a straight line to nothing.
    """

    cap_w: float = 600.0
    lag_s: float = 4.0
    store_wh: float = 4000.0
    start_share: float = 0.1
    efficiency: float = 0.93
    taper_from: float = 0.9


@dataclass(frozen=True, kw_only=True)
class SunnyDay:
    """What was logged, and the truth.

    Attributes:
        time_s: (n,) s from the first sample.
        clock_s: of the first sample, s since 1970.
        power_w, irradiance, soc: (n,) as logged: W, W/m² on the panels, whole %.
        truth: (n,) index into LIMITS.
        back_s: of each shade: s from its end until 95 % of what it would be without was reached.
    """

    time_s: FloatArray
    clock_s: float
    power_w: FloatArray
    irradiance: FloatArray
    soc: FloatArray
    truth: np.ndarray
    back_s: tuple[float, ...]


def simulate_sun(
    parts: Sequence[tuple[SunSite, SunArray]],
    station: SolarStation,
    clock_s: FloatArray,
    *,
    weather: Weather | None = None,
    shade: Sequence[ShadeOnPanels] = (),
    share: float = 1.0,
    noise: float = 0.003,
    seed: int = 1,
) -> SunnyDay:
    """Play a day.

    Args:
        clock_s: (n,) s since 1970, UTC, on a regular grid.
        share: of what its light allows that the array gives: soiled, worn, or overrated panels.
        noise: of the meter's watts, relative standard deviation.
    """
    random = np.random.default_rng(seed)
    time_s = np.asarray(clock_s - clock_s[0])
    step_s = float(time_s[1])
    grid_s = _GRID_S * np.arange(int(time_s[-1] / _GRID_S) + 2)
    light = (weather or Weather()).light(time_s, random)
    planes = [
        np.interp(time_s, grid_s, plane_irradiance(site, clock_s[0] + grid_s)) * light
        for site, _ in parts
    ]
    made = [array_power_w(plane, array) for plane, (_, array) in zip(planes, parts, strict=True)]
    irradiance, free_w = planes[0], np.asarray(np.sum(made, axis=0))
    shading, number = np.ones(time_s.size), np.full(time_s.size, -1)
    for i, event in enumerate(shade):
        inside = (time_s >= event.start_s) & (time_s < event.end_s)
        shading[inside], number[inside] = event.left, i
    power, soc, fills = _station(free_w * share * shading, station, step_s)
    seen = free_w > _SEEN_SHARE * sum(array.power_stc_w for _, array in parts)
    truth = _truth(free_w, power, station, fills, seen, weak=share < _UNDER)
    if share < _UNDER:
        truth[~seen] = LIMITS.index(Limit.ARRAY)
    unshaded, _, _ = _station(free_w * share, station, step_s)
    back = _mark_shade(truth, power, unshaded, time_s, shade, number)
    logged = power * (1 + noise * random.standard_normal(power.size))
    return SunnyDay(
        time_s=time_s,
        clock_s=float(clock_s[0]),
        power_w=logged.clip(min=0.0),
        irradiance=irradiance * (1 + noise * random.standard_normal(power.size)),
        soc=np.floor(100 * soc + 0.5),
        truth=truth,
        back_s=back,
    )


def _station(
    offered_w: FloatArray, station: SolarStation, step_s: float
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """W taken, share stored, and the W that the battery would take, sample by sample."""
    power, soc = np.zeros(offered_w.size), np.zeros(offered_w.size)
    fills = np.full(offered_w.size, np.inf)
    stored, taken = station.start_share * station.store_wh, 0.0
    follow = 1.0 if not station.lag_s else 1 - np.exp(-step_s / station.lag_s)
    for i, offered in enumerate(offered_w.tolist()):
        soc[i] = stored / station.store_wh
        if soc[i] > station.taper_from:
            room = (1 - soc[i]) / (1 - station.taper_from)
            fills[i] = station.cap_w * max(room, 0.0)
        goal = min(offered, station.cap_w, fills[i])
        taken = goal if goal < taken else taken + follow * (goal - taken)
        power[i] = taken
        stored += taken * station.efficiency * step_s / 3600
    return power, soc, fills


def _truth(
    free_w: FloatArray,
    power: FloatArray,
    station: SolarStation,
    fills: FloatArray,
    seen: np.ndarray,
    *,
    weak: bool,
) -> np.ndarray:
    """What limited each sample, shade left aside; where there is hardly light, the sun.

    A tracker that lags still follows the sun: only weak panels are under it steadily.
    """
    truth = np.full(power.size, LIMITS.index(Limit.SUN), dtype=np.int8)
    allowed = np.minimum(free_w, station.cap_w)
    if weak:
        truth[seen & (power < _UNDER * allowed)] = LIMITS.index(Limit.ARRAY)
    truth[seen & (power >= 0.99 * station.cap_w)] = LIMITS.index(Limit.CAP)
    full = seen & (fills < _FILLS_UNDER * allowed) & (power > 0.9 * np.minimum(fills, allowed))
    truth[full] = LIMITS.index(Limit.FULL)
    return truth


def _mark_shade(
    truth: np.ndarray,
    power: FloatArray,
    unshaded: FloatArray,
    time_s: FloatArray,
    shade: Sequence[ShadeOnPanels],
    number: np.ndarray,
) -> tuple[float, ...]:
    """Shade lasts until the input is back at what it would be without; the s that took, each."""
    took = []
    for i, event in enumerate(shade):
        inside = np.flatnonzero(number == i)
        end = int(inside[-1]) + 1
        returned = np.flatnonzero(power[end:] >= _BACK_SHARE * unshaded[end:])
        back = end + int(returned[0]) if returned.size else power.size
        truth[inside[0] : back] = LIMITS.index(Limit.SHADE)
        took.append(float(time_s[min(back, power.size - 1)] - event.end_s))
    return tuple(took)
