"""What the sun allowed at a log's samples: by an irradiance sensor where there is one, else clear.

Sun and sky are worked out minute by minute and read off between; they change slowly.
"""

from collections.abc import Sequence
from enum import StrEnum

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.sun.allowed import AvailablePower
from yardtoll.core.sun.clear_day import STEP_S, free_power_w
from yardtoll.core.sun.panels import SunArray, array_power_w
from yardtoll.core.sun.sky import SunSite, clear_sky, measured_sky, on_plane

_UP_W_M2 = 5.0
"""Without a site the sun counts as up where a sensor sees more than this."""


class SensorPlane(StrEnum):
    """How an irradiance sensor is mounted."""

    PANELS = "poa"
    LEVEL = "ghi"


Parts = Sequence[tuple[SunSite, SunArray]]


def available_power(
    parts: Parts,
    clock_s: FloatArray,
    irradiance: FloatArray | None = None,
    plane: SensorPlane = SensorPlane.PANELS,
) -> AvailablePower:
    """The sun over a site at a log's samples.

    Args:
        parts: arrays and how each is turned; of one place.
        clock_s: (n,) s since 1970, UTC.
        irradiance: (n,) W/m² of a sensor, NaN where one is missing; None for a clear sky.
        plane: how that sensor lies. One on the panels' plane counts for the first array; the
            others' light is the clear sky's in the same proportion.
    """
    # Around the samples alone: a log may have four of them, years apart.
    steps = np.unique(np.floor(clock_s / STEP_S))
    grid = STEP_S * np.union1d(steps, steps + 1)
    site = parts[0][0]
    sky = clear_sky(site, grid)
    clear_w = np.interp(clock_s, grid, free_power_w(parts, grid, sky))
    up = np.interp(clock_s, grid, 90 - sky.zenith) > 0
    if irradiance is None:
        bright = on_plane(sky, site.tilt, site.azimuth % 360, site.albedo)
        return AvailablePower(
            free_w=clear_w,
            clear_w=clear_w,
            up=up,
            plane_w_m2=np.interp(clock_s, grid, bright),
            measured=False,
        )
    light = _bridged(clock_s, irradiance)
    if plane is SensorPlane.LEVEL:
        free_w, on_panels = _from_level(parts, clock_s, light)
    else:
        free_w, on_panels = _from_plane(parts, clock_s, light, grid), light
    return AvailablePower(
        free_w=free_w, clear_w=clear_w, up=up, plane_w_m2=on_panels, measured=True
    )


def available_by_sensor(
    array: SunArray, clock_s: FloatArray, irradiance: FloatArray
) -> AvailablePower:
    """Without a site: a sensor on the panels' plane gives all that is known."""
    light = _bridged(clock_s, irradiance)
    free_w = array_power_w(light, array)
    return AvailablePower(
        free_w=free_w, clear_w=None, up=light > _UP_W_M2, plane_w_m2=light, measured=True
    )


def _bridged(clock_s: FloatArray, irradiance: FloatArray) -> FloatArray:
    """A sensor's values at every sample, by a straight line where one is missing."""
    known = np.isfinite(irradiance)
    return np.interp(clock_s, clock_s[known], irradiance[known])


def _from_level(
    parts: Parts, clock_s: FloatArray, light: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """W of all arrays, and W/m² on the first one's panels, from a level sensor."""
    at_s, seen = _by_seconds(clock_s, light)
    sky = measured_sky(parts[0][0], at_s, seen)
    planes = [on_plane(sky, site.tilt, site.azimuth % 360, site.albedo) for site, _ in parts]
    made = [array_power_w(plane, array) for plane, (_, array) in zip(planes, parts, strict=True)]
    found = np.asarray(np.sum(made, axis=0)), planes[0]
    if at_s.size == clock_s.size:
        return found
    return np.interp(clock_s, at_s, found[0]), np.interp(clock_s, at_s, found[1])


def _by_seconds(clock_s: FloatArray, light: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Means of whole seconds, of a sensor that is read more often: no sky changes faster."""
    starts = np.flatnonzero(np.diff(np.floor(clock_s), prepend=-np.inf))
    if 2 * starts.size > clock_s.size:
        return clock_s, light
    counts = np.diff(np.append(starts, clock_s.size))
    at_s, seen = (np.add.reduceat(values, starts) / counts for values in (clock_s, light))
    return np.asarray(at_s), np.asarray(seen)


def _from_plane(
    parts: Parts,
    clock_s: FloatArray,
    light: FloatArray,
    grid: FloatArray,
) -> FloatArray:
    made = array_power_w(light, parts[0][1])
    if len(parts) > 1:
        first, others = free_power_w(parts[:1], grid), free_power_w(parts[1:], grid)
        known = first > 0.02 * max(float(first.max()), 1e-9)
        ratio = np.where(known, others / np.maximum(first, 1e-9), 0.0)
        made = made * (1 + np.interp(clock_s, grid, ratio))
    return np.asarray(made)
