"""The light of the sun and the sky: behind the air, split in beam and diffuse, on a plane.

Each formula is of its paper; pvlib has the same ones and is what they are tested against. Its own
are not called because loading them takes longer than a whole command may.
"""

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.sun.calendar import day_of_year
from yardtoll.core.sun.position import pressure_pa

_SOLAR_CONSTANT_W_M2 = 1366.1
_SEA_LEVEL_PA = 101325.0
_LOWEST_COS_FOR_CLEARNESS = 0.065
_LAST_ZENITH_FOR_BEAM_DEG = 87.0
_COS_89_DEG = 0.01745
"""Below it the beam on the ground is too small to divide by."""


def above_the_air(clock_s: FloatArray) -> FloatArray:
    """(n,) W/m² of the sun's beam before it meets the air, at (n,) s since 1970, UTC.

    Source: Spencer, Fourier series representation of the position of the sun, Search 2 (1971) 172;
    the solar constant of ASTM E490.
    """
    angle = 2 * np.pi / 365 * (day_of_year(clock_s) - 1)
    nearer = (
        1.00011
        + 0.034221 * np.cos(angle)
        + 0.00128 * np.sin(angle)
        + 0.000719 * np.cos(2 * angle)
        + 0.000077 * np.sin(2 * angle)
    )
    return np.asarray(_SOLAR_CONSTANT_W_M2 * nearer)


def air_mass(apparent_zenith: FloatArray, altitude_m: float) -> FloatArray:
    """(n,) air that the beam crosses, 1 for straight down to the sea; NaN below the horizon.

    Source: Kasten and Young, Revised optical air mass tables, Applied Optics 28 (1989) 4735.
    """
    seen = np.where(apparent_zenith > 90, np.nan, apparent_zenith)
    relative = 1 / (np.cos(np.radians(seen)) + 0.50572 * (96.07995 - seen) ** -1.6364)
    return np.asarray(relative * pressure_pa(altitude_m) / _SEA_LEVEL_PA)


def clear_light(
    apparent_zenith: FloatArray,
    mass: FloatArray,
    turbid: FloatArray,
    altitude_m: float,
    outside: FloatArray,
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Direct, diffuse and level (n,) W/m² under a clear sky.

    Args:
        mass: air that the beam crosses.
        turbid: Linke's turbidity.
        outside: W/m² above the air.

    Source: Ineichen and Perez, A new airmass independent formulation for the Linke turbidity
    coefficient, Solar Energy 73 (2002) 151.
    """
    up = np.maximum(np.cos(np.radians(apparent_zenith)), 0)
    f1, f2 = np.exp(-altitude_m / 8000), np.exp(-altitude_m / 1250)
    a1, a2 = 5.09e-5 * altitude_m + 0.868, 3.92e-5 * altitude_m + 0.0387
    reaching = np.fmax(np.exp(-a2 * mass * (f1 + f2 * (turbid - 1))), 0)
    level = a1 * outside * up * reaching
    b = 0.664 + 0.163 / f1
    beam = outside * np.fmax(b * np.exp(-0.09 * mass * (turbid - 1)), 0)
    # The beam is no more than what leaves the sky its least share of diffuse light.
    with np.errstate(divide="ignore"):
        share = (1 - (0.1 - 0.2 * np.exp(-turbid)) / (0.1 + 0.882 / f1)) / up
    direct = np.minimum(beam, level * np.fmin(np.fmax(share, 0), 1e20))
    return direct, level - direct * up, level


def split_level(
    level: FloatArray, zenith: FloatArray, outside: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Direct and diffuse (n,) W/m² behind global readings on level ground.

    Args:
        zenith: geometric, degrees.
        outside: W/m² above the air.

    Source: Erbs, Klein and Duffie, Estimation of the diffuse radiation fraction, Solar Energy 28
    (1982) 293, equation 1.
    """
    up = np.cos(np.radians(zenith))
    k = (level / (outside * np.maximum(up, _LOWEST_COS_FOR_CLEARNESS))).clip(0.0, 1.0)
    middle = 0.9511 - 0.1604 * k + 4.388 * k**2 - 16.638 * k**3 + 12.336 * k**4
    share = np.where(k <= 0.22, 1 - 0.09 * k, np.where(k <= 0.8, middle, 0.165))
    diffuse = share * level
    with np.errstate(divide="ignore", invalid="ignore"):
        direct = (level - diffuse) / up
    none = (zenith > _LAST_ZENITH_FOR_BEAM_DEG) | (level < 0) | (direct < 0)
    return np.where(none, 0.0, direct), np.where(none, level, diffuse)


def light_on_plane(
    tilt: float | FloatArray,
    azimuth: float | FloatArray,
    sun: tuple[FloatArray, FloatArray],
    light: tuple[FloatArray, FloatArray, FloatArray],
    outside: FloatArray,
    albedo: float,
) -> FloatArray:
    """(n,) W/m² on a plane.

    Args:
        tilt, azimuth: of the plane, degrees; it may be turned from time to time.
        sun: its zenith and azimuth, degrees.
        light: direct, diffuse and level.
        outside: W/m² above the air.
        albedo: share of light the ground throws back.

    Source: Hay and Davies, Calculations of the solar radiation incident on an inclined surface,
    1980; the ground's share as for an even glow from all of it.
    """
    zenith, sun_azimuth = (np.radians(angle) for angle in sun)
    tilted = np.radians(tilt)
    direct, diffuse, level = light
    facing = np.cos(tilted) * np.cos(zenith) + np.sin(tilted) * np.sin(zenith) * np.cos(
        sun_azimuth - np.radians(azimuth)
    )
    facing = np.maximum(facing, 0)
    around_sun = direct / outside
    ratio = facing / np.maximum(np.cos(zenith), _COS_89_DEG)
    even = np.maximum(diffuse * (1 - around_sun) * 0.5 * (1 + np.cos(tilted)), 0)
    glow = np.maximum(diffuse * around_sun * ratio, 0)
    ground = level * albedo * 0.5 * (1 - np.cos(tilted))
    return np.asarray(direct * facing + even + glow + ground)
