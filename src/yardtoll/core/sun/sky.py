"""Sun and sky over a site: the sun's position and the irradiance on a plane, clear or measured.

The sun's position and the table of turbidity are pvlib's; Ineichen's clear sky, Erbs' split of
global light into beam and diffuse and Hay and Davies' transposition are in ``light``. A horizon
or an obstacle takes the beam away; the little of the sky's own light that it hides as well is left
out.
"""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.errors import ValueOutOfRangeError
from yardtoll.core.sun.light import (
    above_the_air,
    air_mass,
    clear_light,
    light_on_plane,
    split_level,
)
from yardtoll.core.sun.position import SunPosition, position_between_minutes, sun_position
from yardtoll.core.sun.turbidity import turbidity


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
        clock_s: s since 1970, UTC.
        direct, diffuse, level: beam towards the sun, the sky's own, and both on level ground.
        zenith, azimuth: apparent, of the sun.
        up: whether the sun is above the level horizon.
    """

    clock_s: FloatArray
    direct: FloatArray
    diffuse: FloatArray
    level: FloatArray
    zenith: FloatArray
    azimuth: FloatArray
    up: np.ndarray


def clear_sky(site: SunSite, clock_s: FloatArray) -> Sky:
    """The light of a clear sky at (n,) s since 1970, UTC."""
    sun = sun_position(site.latitude, site.longitude, site.altitude_m, clock_s)
    light = clear_light(
        sun.apparent_zenith,
        air_mass(sun.apparent_zenith, site.altitude_m),
        turbidity(site.latitude, site.longitude, clock_s),
        site.altitude_m,
        above_the_air(clock_s),
    )
    return _sky(site, clock_s, sun, light)


def measured_sky(site: SunSite, clock_s: FloatArray, level: FloatArray) -> Sky:
    """The light behind a sensor's global readings on level ground, (n,) W/m²."""
    sun = position_between_minutes(site.latitude, site.longitude, site.altitude_m, clock_s)
    direct, diffuse = split_level(level, sun.zenith, above_the_air(clock_s))
    return _sky(site, clock_s, sun, (direct, diffuse, level))


def _sky(
    site: SunSite,
    clock_s: FloatArray,
    sun: SunPosition,
    light: tuple[FloatArray, FloatArray, FloatArray],
) -> Sky:
    elevation = 90 - sun.apparent_zenith
    hidden = elevation < site.horizon_deg
    for obstacle in site.obstacles:
        hidden |= obstacle.hides(sun.azimuth, elevation)
    beam, own, lit = (np.nan_to_num(part) for part in light)
    return Sky(
        clock_s=clock_s,
        direct=np.where(hidden, 0.0, beam),
        diffuse=own,
        level=np.where(hidden, own, lit),
        zenith=sun.apparent_zenith,
        azimuth=sun.azimuth,
        up=elevation > 0,
    )


def on_plane(
    sky: Sky, tilt: float | FloatArray, azimuth: float | FloatArray, albedo: float
) -> FloatArray:
    """(n,) W/m² on a plane, or on one that is turned from time to time; 0 at night."""
    plane = light_on_plane(
        tilt,
        azimuth,
        (sky.zenith, sky.azimuth),
        (sky.direct, sky.diffuse, sky.level),
        above_the_air(sky.clock_s),
        albedo,
    )
    return np.asarray(np.nan_to_num(plane, nan=0.0)).clip(min=0.0)


def plane_irradiance(site: SunSite, clock_s: FloatArray) -> FloatArray:
    """(n,) W/m² on a site's panels under a clear sky; 0 at night."""
    return on_plane(clear_sky(site, clock_s), site.tilt, site.azimuth % 360, site.albedo)
