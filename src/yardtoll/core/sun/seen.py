"""What the sun allowed at a log's samples: by an irradiance sensor where there is one, else clear.

Sun and sky are worked out minute by minute and read off between; they change slowly.
"""

from collections.abc import Sequence
from enum import StrEnum

import numpy as np
import pandas as pd

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.sun.clear_day import STEP_S, free_power_w
from yardtoll.core.sun.panels import SunArray, array_power_w
from yardtoll.core.sun.sky import SunSite, clear_sky, measured_sky, on_plane
from yardtoll.core.sun.solar_run import SunSeen
from yardtoll.core.trace import FloatArray

_UP_W_M2 = 5.0
"""Without a site the sun counts as up where a sensor sees more than this."""
MOST_W_M2 = 2000.0
"""No sky gives more; clouds at the edge of the sun reach about 1600."""
_KILO_BELOW = 3.0


class SensorPlane(StrEnum):
    """How an irradiance sensor lies."""

    PANELS = "poa"
    LEVEL = "ghi"


Parts = Sequence[tuple[SunSite, SunArray]]


def in_watts(irradiance: FloatArray, name: str) -> tuple[FloatArray, bool]:
    """(n,) W/m², and whether they were given in kW/m²: no daylight stays under 3 W/m².

    Args:
        irradiance: (n,) as logged; NaN where a value is missing.
        name: of the column, for messages.

    Raises:
        UnusableDataError: more than any sky gives.
    """
    highest = float(np.nanmax(irradiance)) if np.isfinite(irradiance).any() else 0.0
    kilo = 0 < highest < _KILO_BELOW
    watts = irradiance * 1000.0 if kilo else irradiance
    if highest * (1000.0 if kilo else 1.0) > MOST_W_M2:
        raise UnusableDataError(
            f'the irradiance column "{name}" reaches {highest:g} W/m²; no sky gives more than '
            f"{MOST_W_M2:g}"
        )
    return np.asarray(watts).clip(min=0.0), kilo


def sun_seen(
    parts: Parts,
    clock_s: FloatArray,
    irradiance: FloatArray | None = None,
    plane: SensorPlane = SensorPlane.PANELS,
) -> SunSeen:
    """The sun over a site at a log's samples.

    Args:
        parts: arrays and how each is turned; of one place.
        clock_s: (n,) s since 1970, UTC.
        irradiance: (n,) W/m² of a sensor, NaN where one is missing; None for a clear sky.
        plane: how that sensor lies. One on the panels' plane counts for the first array; the
            others' light is the clear sky's in the same proportion.
    """
    grid = np.arange(np.floor(clock_s[0] / STEP_S) * STEP_S, clock_s[-1] + 2 * STEP_S, STEP_S)
    times = pd.to_datetime(grid, unit="s", utc=True)
    site = parts[0][0]
    sky = clear_sky(site, times)
    clear_w = np.interp(clock_s, grid, free_power_w(parts, times))
    up = np.interp(clock_s, grid, 90 - sky.zenith) > 0
    if irradiance is None:
        return SunSeen(free_w=clear_w, clear_w=clear_w, up=up, measured=False)
    light = _bridged(clock_s, irradiance)
    if plane is SensorPlane.LEVEL:
        free_w = _from_level(parts, clock_s, light)
    else:
        free_w = _from_plane(parts, clock_s, light, grid, times)
    return SunSeen(free_w=free_w, clear_w=clear_w, up=up, measured=True)


def sun_of_sensor(array: SunArray, clock_s: FloatArray, irradiance: FloatArray) -> SunSeen:
    """Without a site: a sensor on the panels' plane tells all there is to tell."""
    light = _bridged(clock_s, irradiance)
    free_w = array_power_w(light, array)
    return SunSeen(free_w=free_w, clear_w=None, up=light > _UP_W_M2, measured=True)


def _bridged(clock_s: FloatArray, irradiance: FloatArray) -> FloatArray:
    """A sensor's values at every sample, by a straight line where one is missing."""
    known = np.isfinite(irradiance)
    return np.interp(clock_s, clock_s[known], irradiance[known])


def _from_level(parts: Parts, clock_s: FloatArray, light: FloatArray) -> FloatArray:
    times = pd.to_datetime(clock_s, unit="s", utc=True)
    sky = measured_sky(parts[0][0], times, light)
    made = [
        array_power_w(on_plane(sky, site.tilt, site.azimuth % 360, site.albedo), array)
        for site, array in parts
    ]
    return np.asarray(np.sum(made, axis=0))


def _from_plane(
    parts: Parts,
    clock_s: FloatArray,
    light: FloatArray,
    grid: FloatArray,
    times: pd.DatetimeIndex,
) -> FloatArray:
    made = array_power_w(light, parts[0][1])
    if len(parts) > 1:
        first, others = free_power_w(parts[:1], times), free_power_w(parts[1:], times)
        known = first > 0.02 * max(float(first.max()), 1e-9)
        ratio = np.where(known, others / np.maximum(first, 1e-9), 0.0)
        made = made * (1 + np.interp(clock_s, grid, ratio))
    return np.asarray(made)
