"""A typical year's weather, the one pvlib ships, through sky, panels and the sorting of limits."""

from pathlib import Path

import numpy as np
import pandas as pd
import pvlib
import pytest
from pvlib import irradiance, pvsystem, temperature
from tests.suns import clock

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.sun.available import SensorPlane, available_power
from yardtoll.core.sun.limits import Limit
from yardtoll.core.sun.panels import CLOSE_TO_GROUND, SunArray, array_power_w
from yardtoll.core.sun.sky import SunSite, measured_sky, on_plane
from yardtoll.core.sun.solar_run import analyse_solar

FILE = Path(pvlib.__file__).parent / "data" / "723170TYA.CSV"
BROKEN = "2005-08-11"
"""The day of that year whose light varies most against the clear sky's."""


@pytest.fixture(scope="module")
def year():
    """Hourly light in the middle of its hour, and the place."""
    data, place = pvlib.iotools.read_tmy3(FILE, map_variables=True, coerce_year=2005)
    data.index = data.index - pd.Timedelta(minutes=30)
    site = SunSite(
        latitude=place["latitude"],
        longitude=place["longitude"],
        tilt=30,
        azimuth=180,
        altitude_m=place["altitude"],
    )
    return data, site


def pvlib_plane(data, site):
    """W/m² on the panels from the year's own beam and diffuse light, by pvlib alone."""
    position = pvlib.solarposition.get_solarposition(
        data.index, site.latitude, site.longitude, site.altitude_m
    )
    plane = irradiance.get_total_irradiance(
        site.tilt, site.azimuth, position["apparent_zenith"], position["azimuth"],
        data["dni"], data["ghi"], data["dhi"],
        dni_extra=irradiance.get_extra_radiation(data.index), model="haydavies", albedo=0.25,
    )  # fmt: skip
    return plane["poa_global"].fillna(0).clip(lower=0).to_numpy()


def test_a_level_sensor_over_a_year_against_pvlib_alone(year):
    data, site = year
    expected = pvlib_plane(data, site)
    sky = measured_sky(site, clock(data.index), data["ghi"].to_numpy(dtype=float))
    found = on_plane(sky, site.tilt, site.azimuth, site.albedo)
    # The year's beam is measured or modelled otherwise; Erbs' split is good to a few per cent.
    assert found.sum() == pytest.approx(expected.sum(), rel=0.03)
    bright = expected > 300
    assert np.sqrt(np.mean((found[bright] / expected[bright] - 1) ** 2)) < 0.08


def test_panels_through_the_year_against_pvlib_alone(year):
    data, site = year
    light = pvlib_plane(data, site)
    array = SunArray(power_stc_w=400, ambient_c=12, wind_ms=2, mount=CLOSE_TO_GROUND)
    parameters = temperature.TEMPERATURE_MODEL_PARAMETERS["sapm"]["insulated_back_glass_polymer"]
    cells = temperature.sapm_cell(light, 12, 2, **parameters)
    expected = pvsystem.pvwatts_dc(light, cells, 400, -0.0037) * 0.98
    np.testing.assert_allclose(array_power_w(light, array), expected, rtol=1e-12)


@pytest.mark.parametrize("sensor", [True, False])
def test_scattered_clouds_and_a_400_watt_cap(year, sensor):
    """The year's most broken day on 600 W of panels: cap and sun, and nothing else."""
    data, site = year
    hours = data.loc[BROKEN]
    times = pd.date_range(hours.index[0], hours.index[-1], freq="30s")
    at = (times - hours.index[0]).total_seconds()
    light = np.interp(at, (hours.index - hours.index[0]).total_seconds(), pvlib_plane(hours, site))
    array = SunArray(power_stc_w=600)
    free = array_power_w(light, array)
    power = np.minimum(free, 400)
    trace = Trace(name=BROKEN, time_s=np.asarray(at), columns={Quantity.POWER: power})
    seen = available_power(
        [(site, array)], clock(times), light if sensor else None, SensorPlane.PANELS
    )
    run = analyse_solar(trace, seen, 600, 400)
    truth = float(np.mean((free >= 400)[seen.up]))
    assert run.limited_by[Limit.CAP] == pytest.approx(truth, abs=0.02) and truth > 0.1
    assert run.limited_by[Limit.CAP] + run.limited_by[Limit.SUN] > (0.99 if sensor else 0.95)
    assert sum(run.limited_by.values()) == pytest.approx(1)
    assert not run.recoveries and run.cap_w == 400
    if sensor:
        assert run.performance == pytest.approx(1, abs=0.001)
