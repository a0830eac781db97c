"""Where the sun stands: NREL's solar position algorithm, as pvlib has it.

pvlib's package loads pandas, SciPy and an HTTP library with whatever is asked of it; its module of
the algorithm needs NumPy alone, and is loaded by itself.
"""

from dataclasses import dataclass
from functools import cache
from importlib.util import find_spec, module_from_spec, spec_from_file_location
from types import ModuleType

import numpy as np

from yardtoll.core.electrical.trace import FloatArray

_MEAN_YEAR_C = 12.0
_DELTA_T_S = 67.0
"""Terrestrial time less universal time, as pvlib takes it by default; a minute of it moves the sun
by 0.0007°."""
_REFRACTION_AT_SUNRISE_DEG = 0.5667
_STEP_S = 60.0


@dataclass(frozen=True, kw_only=True)
class SunPosition:
    """The sun at (n,) times, degrees.

    Attributes:
        zenith: geometric, from straight up.
        apparent_zenith: as seen through the air, which lifts it.
        azimuth: clockwise from north.
    """

    zenith: FloatArray
    apparent_zenith: FloatArray
    azimuth: FloatArray


def pvlib_folder() -> str:
    """Where the library's files are, found without loading it.

    Raises:
        ImportError: it is not installed.
    """
    spec = find_spec("pvlib")
    if spec is None or not spec.submodule_search_locations:
        raise ImportError("pvlib is not installed")
    return spec.submodule_search_locations[0]


@cache
def _algorithm() -> ModuleType:
    path = f"{pvlib_folder()}/spa.py"
    spec = spec_from_file_location("yardtoll_solar_position_algorithm", path)
    if spec is None or spec.loader is None:
        raise ImportError(f"{path} is no module")
    module = module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def pressure_pa(altitude_m: float) -> float:
    """Mean air pressure at a height, Pa.

    Source: Portland State Aerospace Society, A Quick Derivation Relating Altitude to Air Pressure,
    2004, of the standard atmosphere; the constants as in pvlib.
    """
    return float(100 * ((44331.514 - altitude_m) / 11880.516) ** (1 / 0.1902632))


def sun_position(
    latitude: float, longitude: float, altitude_m: float, clock_s: FloatArray
) -> SunPosition:
    """The sun over a place, degrees north and east, at (n,) s since 1970, UTC.

    Source: Reda and Andreas, Solar position algorithm for solar radiation applications, Solar
    Energy 76 (2004) 577; within 0.0003°.
    """
    found = _algorithm().solar_position(
        np.asarray(clock_s, dtype=float),
        latitude,
        longitude,
        altitude_m,
        pressure_pa(altitude_m) / 100,
        _MEAN_YEAR_C,
        _DELTA_T_S,
        _REFRACTION_AT_SUNRISE_DEG,
        1,
    )
    return SunPosition(apparent_zenith=found[0], zenith=found[1], azimuth=found[4])


def position_between_minutes(
    latitude: float, longitude: float, altitude_m: float, clock_s: FloatArray
) -> SunPosition:
    """The same for times close together: by a straight line between whole minutes.

    The sun moves evenly; of times that are sparse each is worked out itself.
    """
    steps = np.unique(np.floor(clock_s / _STEP_S))
    grid_s = _STEP_S * np.union1d(steps, steps + 1)
    if grid_s.size >= clock_s.size:
        return sun_position(latitude, longitude, altitude_m, clock_s)
    grid = sun_position(latitude, longitude, altitude_m, grid_s)
    around = np.unwrap(grid.azimuth, period=360.0)
    return SunPosition(
        zenith=np.interp(clock_s, grid_s, grid.zenith),
        apparent_zenith=np.interp(clock_s, grid_s, grid.apparent_zenith),
        azimuth=np.interp(clock_s, grid_s, around) % 360.0,
    )
