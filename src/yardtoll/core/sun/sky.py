"""Sun and sky over a site: the sun's position and the irradiance on a plane, clear or measured.

pvlib does the sun: its solar position, Ineichen's clear sky with its table of turbidity, Erbs'
split of global light into beam and diffuse, Hay and Davies' transposition. A horizon or an obstacle
takes the beam away; the little of the sky's own light that it hides as well is left out.
"""

from dataclasses import dataclass

import numpy as np
import pandas as pd
from pvlib import irradiance
from pvlib.location import Location

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.errors import ValueOutOfRangeError

_SKY = "haydavies"
_STEP_S = 60.0


@dataclass(frozen=True, kw_only=True)
class Obstacle:
    """A house, a tree: it hides the sky up to a height between two directions.

    Attributes:
        from_deg, to_deg: azimuths clockwise from north; from 350 to 10 is through north.
        height_deg: above the level, as seen from the panels.
    """

    from_deg: float
    to_deg: float
    height_deg: float

    def hides(self, azimuth: FloatArray, elevation: FloatArray) -> np.ndarray:
        """(n,) whether the sun at these azimuths and elevations in degrees is behind it."""
        width = (self.to_deg - self.from_deg) % 360
        within = (azimuth - self.from_deg) % 360 <= width
        return within & (elevation < self.height_deg)


@dataclass(frozen=True, kw_only=True)
class SunSite:
    """Where the array stands and how it is turned.

    Attributes:
        latitude, longitude: degrees, north and east positive.
        tilt: degrees from the ground, 0 flat, 90 upright, beyond that face down.
        azimuth: degrees clockwise from north.
        albedo: share of light the ground throws back.
        horizon_deg: height of the horizon, all round.
        obstacles: what is higher than that.

    Raises:
        ValueOutOfRangeError: a figure is outside its range.
    """

    latitude: float
    longitude: float
    tilt: float
    azimuth: float
    altitude_m: float = 0.0
    albedo: float = 0.25
    horizon_deg: float = 0.0
    obstacles: tuple[Obstacle, ...] = ()

    def __post_init__(self) -> None:
        for name, value, low, high in (
            ("lat", self.latitude, -90, 90),
            ("lon", self.longitude, -180, 180),
            ("tilt", self.tilt, 0, 180),
            ("azimuth", self.azimuth, -360, 360),
            ("altitude_m", self.altitude_m, -450, 9000),
            ("albedo", self.albedo, 0, 1),
            ("horizon", self.horizon_deg, 0, 90),
        ):
            if not low <= value <= high:
                raise ValueOutOfRangeError(name, value, f"from {low:g} to {high:g}")


@dataclass(frozen=True, kw_only=True)
class Sky:
    """The light over a site at (n,) times, W/m², and the sun's position, degrees.

    Attributes:
        direct, diffuse, level: beam towards the sun, the sky's own, and both on level ground.
        zenith, azimuth: apparent, of the sun.
        up: whether the sun is above the level horizon.
    """

    times: pd.DatetimeIndex
    direct: FloatArray
    diffuse: FloatArray
    level: FloatArray
    zenith: FloatArray
    azimuth: FloatArray
    up: np.ndarray


def clear_sky(site: SunSite, times: pd.DatetimeIndex) -> Sky:
    """The light of a clear sky; times are aware."""
    place = Location(site.latitude, site.longitude, altitude=site.altitude_m)
    position = place.get_solarposition(times)
    sky = place.get_clearsky(times, model="ineichen", solar_position=position)
    return _sky(site, times, position, sky["dni"], sky["dhi"], sky["ghi"])


def measured_sky(site: SunSite, times: pd.DatetimeIndex, level: FloatArray) -> Sky:
    """The light behind a sensor's global readings on level ground, (n,) W/m²."""
    position = _position(site, times)
    parts = irradiance.erbs(level, position["zenith"], times)
    return _sky(site, times, position, parts["dni"], parts["dhi"], level)


def _position(site: SunSite, times: pd.DatetimeIndex) -> pd.DataFrame:
    """Where the sun stands; between the minutes by a straight line, for it moves evenly."""
    place = Location(site.latitude, site.longitude, altitude=site.altitude_m)
    at_s = times.as_unit("ns").asi8 / 1e9
    steps = np.unique(np.floor(at_s / _STEP_S))
    grid_s = _STEP_S * np.union1d(steps, steps + 1)
    if grid_s.size >= at_s.size:
        return place.get_solarposition(times)
    grid = place.get_solarposition(pd.to_datetime(grid_s, unit="s", utc=True))
    found = {name: np.interp(at_s, grid_s, grid[name]) for name in ("zenith", "apparent_zenith")}
    around = np.unwrap(grid["azimuth"].to_numpy(dtype=float), period=360.0)
    found["azimuth"] = np.interp(at_s, grid_s, around) % 360.0
    return pd.DataFrame(found, index=times)


def _sky(
    site: SunSite,
    times: pd.DatetimeIndex,
    position: pd.DataFrame,
    direct: object,
    diffuse: object,
    level: object,
) -> Sky:
    zenith = position["apparent_zenith"].to_numpy(dtype=float)
    azimuth = position["azimuth"].to_numpy(dtype=float)
    elevation = 90 - zenith
    hidden = elevation < site.horizon_deg
    for obstacle in site.obstacles:
        hidden |= obstacle.hides(azimuth, elevation)
    beam = np.nan_to_num(np.asarray(direct, dtype=float))
    own = np.nan_to_num(np.asarray(diffuse, dtype=float))
    lit = np.nan_to_num(np.asarray(level, dtype=float))
    return Sky(
        times=times,
        direct=np.where(hidden, 0.0, beam),
        diffuse=own,
        level=np.where(hidden, own, lit),
        zenith=zenith,
        azimuth=azimuth,
        up=elevation > 0,
    )


def on_plane(
    sky: Sky, tilt: float | FloatArray, azimuth: float | FloatArray, albedo: float
) -> FloatArray:
    """(n,) W/m² on a plane, or on one that is turned from time to time; 0 at night."""
    plane = irradiance.get_total_irradiance(
        tilt,
        azimuth,
        sky.zenith,
        sky.azimuth,
        sky.direct,
        sky.level,
        sky.diffuse,
        dni_extra=irradiance.get_extra_radiation(sky.times).to_numpy(),
        albedo=albedo,
        model=_SKY,
    )
    return np.asarray(np.nan_to_num(plane["poa_global"], nan=0.0)).clip(min=0.0)


def plane_irradiance(site: SunSite, times: pd.DatetimeIndex) -> FloatArray:
    """(n,) W/m² on a site's panels under a clear sky; 0 at night."""
    return on_plane(clear_sky(site, times), site.tilt, site.azimuth % 360, site.albedo)
