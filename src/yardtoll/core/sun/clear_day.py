"""What an array should give on a clear day: sun, sky, plane, cells, wires, and the station's cap.

pvlib does the sun: Ineichen's clear sky with its table of turbidity, Hay and Davies' transposition,
the Sandia cell temperature of an open rack; the module follows irradiance and temperature as
PVWatts has it: P = P_stc · G ÷ 1000 · (1 + γ·(T_cell − 25)).
"""

from dataclasses import dataclass

import numpy as np
import pandas as pd
from pvlib import irradiance, pvsystem, temperature
from pvlib.location import Location

from yardtoll.core.errors import ValueOutOfRangeError
from yardtoll.core.trace import Code, FloatArray, Notice

MOUNT = temperature.TEMPERATURE_MODEL_PARAMETERS["sapm"]["open_rack_glass_polymer"]
STEP_S = 60.0
WINDOW_SHARE = 0.5
"""The hours worth testing in: the input above this share of the day's peak."""
_SKY = "haydavies"


@dataclass(frozen=True, kw_only=True)
class SunSite:
    """Where the array stands and how it is turned.

    Attributes:
        latitude, longitude: degrees, north and east positive.
        tilt: degrees from the ground, 0 flat, 90 upright, beyond that face down.
        azimuth: degrees clockwise from north.
        albedo: share of light the ground throws back.

    Raises:
        ValueOutOfRangeError: a figure is outside its range.
    """

    latitude: float
    longitude: float
    tilt: float
    azimuth: float
    altitude_m: float = 0.0
    albedo: float = 0.25

    def __post_init__(self) -> None:
        for name, value, low, high in (
            ("--lat", self.latitude, -90, 90),
            ("--lon", self.longitude, -180, 180),
            ("--tilt", self.tilt, 0, 180),
            ("--azimuth", self.azimuth, -360, 360),
            ("--altitude-m", self.altitude_m, -450, 9000),
            ("--albedo", self.albedo, 0, 1),
        ):
            if not low <= value <= high:
                raise ValueOutOfRangeError(name, value, f"from {low:g} to {high:g}")


@dataclass(frozen=True, kw_only=True)
class SunArray:
    """An array and what stands between it and the station's store.

    Attributes:
        power_stc_w: at 1000 W/m² and 25 °C.
        cap_w: what the station takes at most; None for no cap.
        gamma: change of the power with temperature, 1/K.
        wiring_loss: share lost in the wires.
    """

    power_stc_w: float
    cap_w: float | None = None
    gamma: float = -0.0037
    wiring_loss: float = 0.02
    ambient_c: float = 20.0
    wind_ms: float = 1.0

    def __post_init__(self) -> None:
        for name, value, low, high in (
            ("--array-w", self.power_stc_w, 1e-9, 1e7),
            ("--cap-w", self.cap_w, 1e-9, 1e7),
            ("--gamma", self.gamma, -0.02, 0),
            ("--wiring-loss", self.wiring_loss, 0, 0.9),
            ("--ambient-c", self.ambient_c, -60, 70),
            ("--wind-ms", self.wind_ms, 0, 60),
        ):
            if value is not None and not low <= value <= high:
                raise ValueOutOfRangeError(name, value, f"from {low:g} to {high:g}")


@dataclass(frozen=True, kw_only=True)
class ClearDay:
    """A clear day, minute by minute.

    Attributes:
        times: (n,) aware local times, one a minute from midnight.
        input_w: (n,) W at the station after its cap.
        window: (start, end) of each stretch above half of the day's peak.
    """

    times: pd.DatetimeIndex
    input_w: FloatArray
    expected_wh: float
    peak_w: float
    clipped_wh: float
    window: tuple[tuple[pd.Timestamp, pd.Timestamp], ...]
    notices: tuple[Notice, ...]


def clear_day(site: SunSite, array: SunArray, times: pd.DatetimeIndex) -> ClearDay:
    """What the array gives over one local day under a clear sky.

    Args:
        times: (n,) every minute of the day, aware.
    """
    free_w = array_power_w(plane_irradiance(site, times), array)
    input_w = free_w if array.cap_w is None else np.minimum(free_w, array.cap_w)
    hours = STEP_S / 3600
    peak = float(input_w.max())
    notices = []
    if peak <= 0:
        message = f"the sun does not reach the panels on {times[0]:%Y-%m-%d}"
        notices.append(Notice(code=Code.NO_SUN, message=message))
    if site.tilt > 90:
        message = f"at a tilt of {site.tilt:g}° the panels face the ground"
        notices.append(Notice(code=Code.FACES_DOWN, message=message))
    return ClearDay(
        times=times,
        input_w=input_w,
        expected_wh=float(input_w.sum()) * hours,
        peak_w=peak,
        clipped_wh=float((free_w - input_w).sum()) * hours,
        window=_window(times, input_w, peak),
        notices=tuple(notices),
    )


def plane_irradiance(site: SunSite, times: pd.DatetimeIndex) -> FloatArray:
    """W/m² on the panels under a clear sky; 0 at night."""
    place = Location(site.latitude, site.longitude, tz=times.tz, altitude=site.altitude_m)
    position = place.get_solarposition(times)
    sky = place.get_clearsky(times, model="ineichen", solar_position=position)
    plane = irradiance.get_total_irradiance(
        site.tilt,
        site.azimuth % 360,
        position["apparent_zenith"],
        position["azimuth"],
        sky["dni"],
        sky["ghi"],
        sky["dhi"],
        dni_extra=irradiance.get_extra_radiation(times),
        albedo=site.albedo,
        model=_SKY,
    )
    on_panels = plane["poa_global"].to_numpy(dtype=float)
    return np.asarray(np.nan_to_num(on_panels, nan=0.0)).clip(min=0.0)


def array_power_w(plane_w_m2: FloatArray, array: SunArray) -> FloatArray:
    """(n,) W behind the wires, before any cap, for (n,) W/m² on the panels."""
    cells = temperature.sapm_cell(plane_w_m2, array.ambient_c, array.wind_ms, **MOUNT)
    power = pvsystem.pvwatts_dc(plane_w_m2, cells, array.power_stc_w, array.gamma)
    return np.asarray(power * (1 - array.wiring_loss)).clip(min=0.0)


def _window(
    times: pd.DatetimeIndex, input_w: FloatArray, peak_w: float
) -> tuple[tuple[pd.Timestamp, pd.Timestamp], ...]:
    """Stretches above half of the peak; a minute counts to its end."""
    if peak_w <= 0:
        return ()
    above = np.flatnonzero(input_w > WINDOW_SHARE * peak_w)
    parts = np.split(above, np.flatnonzero(np.diff(above) > 1) + 1)
    step = pd.Timedelta(seconds=STEP_S)
    return tuple((times[int(p[0])], times[int(p[-1])] + step) for p in parts if p.size)
