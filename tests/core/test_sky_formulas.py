"""Sun, air and sky against pvlib called directly: hot and high places, both hemispheres, nights."""

import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pvlib import atmosphere, irradiance
from pvlib.clearsky import lookup_linke_turbidity
from pvlib.location import Location
from tests.suns import clock

from yardtoll.core.sun.calendar import day_of_year, is_leap_year
from yardtoll.core.sun.light import above_the_air, air_mass, light_on_plane, split_level
from yardtoll.core.sun.position import position_between_minutes, pressure_pa, sun_position
from yardtoll.core.sun.running_median import by_scipy, by_sorted_window
from yardtoll.core.sun.sky import SunSite, clear_sky
from yardtoll.core.sun.turbidity import turbidity

PLACES = [
    (43.1, -88.4, 260.0), (-33.9, 151.2, 10.0), (-16.5, -68.1, 3640.0), (78.2, 15.6, 0.0),
    (0.0, 0.0, 0.0), (31.5, 35.5, -430.0), (90.0, 180.0, 0.0), (-90.0, -180.0, 2800.0),
]  # fmt: skip
TIMES = pd.date_range("2024-01-01 00:30", "2025-12-31 23:30", freq="7h", tz="UTC").append(
    pd.DatetimeIndex(["2024-02-29 12:00", "2024-12-31 23:59:59.5", "2100-03-01 00:00"], tz="UTC")
)
CLOCK_S = clock(TIMES)
EXACT = {"rtol": 1e-9, "atol": 1e-7}


@pytest.mark.parametrize("place", PLACES)
class TestOverAPlace:
    def test_the_suns_place(self, place):
        found = sun_position(*place, CLOCK_S)
        theirs = Location(*place[:2], altitude=place[2]).get_solarposition(TIMES)
        for name in ("zenith", "apparent_zenith", "azimuth"):
            np.testing.assert_allclose(getattr(found, name), theirs[name], **EXACT)

    def test_air_and_haze(self, place):
        found = sun_position(*place, CLOCK_S)
        relative = atmosphere.get_relative_airmass(found.apparent_zenith)
        pressure = atmosphere.alt2pres(place[2])
        assert pressure_pa(place[2]) == pytest.approx(pressure, rel=1e-12)
        theirs = atmosphere.get_absolute_airmass(relative, pressure)
        np.testing.assert_allclose(air_mass(found.apparent_zenith, place[2]), theirs, **EXACT)
        hazy = lookup_linke_turbidity(TIMES, *place[:2])
        np.testing.assert_allclose(turbidity(*place[:2], CLOCK_S), hazy, **EXACT)

    def test_the_clear_sky(self, place):
        site = SunSite(
            latitude=place[0], longitude=place[1], altitude_m=place[2], tilt=30, azimuth=180
        )
        found = clear_sky(site, CLOCK_S)
        theirs = Location(*place[:2], altitude=place[2]).get_clearsky(TIMES, model="ineichen")
        for name, column in (("direct", "dni"), ("diffuse", "dhi"), ("level", "ghi")):
            np.testing.assert_allclose(getattr(found, name), theirs[column].fillna(0), **EXACT)

    def test_a_sensors_light_split_in_two(self, place):
        position = sun_position(*place, CLOCK_S)
        level = np.random.default_rng(3).uniform(-5, 1300, CLOCK_S.size)
        direct, diffuse = split_level(level, position.zenith, above_the_air(CLOCK_S))
        theirs = irradiance.erbs(level, position.zenith, TIMES)
        np.testing.assert_allclose(direct, theirs["dni"], **EXACT)
        np.testing.assert_allclose(diffuse, theirs["dhi"], **EXACT)

    def test_between_minutes_a_straight_line_is_enough(self, place):
        close_s = CLOCK_S[40] + np.arange(0, 900, 0.5)
        exact = sun_position(*place, close_s)
        found = position_between_minutes(*place, close_s)
        # It bends most near straight overhead: by 0.0014° where the sun stands 5° from there.
        np.testing.assert_allclose(found.zenith, exact.zenith, atol=5e-3)
        turned = (found.azimuth - exact.azimuth + 180) % 360 - 180
        # Straight overhead the azimuth turns at once; there it decides nothing.
        assert np.abs(turned * np.sin(np.radians(exact.zenith))).max() < 1e-3


@given(
    tilt=st.floats(0, 180), azimuth=st.floats(0, 360), zenith=st.floats(0, 110),
    sun=st.floats(0, 360), direct=st.floats(0, 1000), diffuse=st.floats(0, 500),
    albedo=st.floats(0, 1),
)  # fmt: skip
@settings(max_examples=300, deadline=None)
def test_any_plane_under_any_sky(tilt, azimuth, zenith, sun, direct, diffuse, albedo):
    level = diffuse + direct * max(np.cos(np.radians(zenith)), 0)
    one = [np.array([value]) for value in (zenith, sun, direct, diffuse, level)]
    found = light_on_plane(
        tilt, azimuth, (one[0], one[1]), (one[2], one[3], one[4]), np.array([1360.0]), albedo
    )
    theirs = irradiance.get_total_irradiance(
        tilt, azimuth, zenith, sun, direct, level, diffuse, dni_extra=1360.0, albedo=albedo,
        model="haydavies",
    )["poa_global"]  # fmt: skip
    # They go by way of the angle, whose cosine keeps some eight digits near 0 and 180°.
    assert found[0] == pytest.approx(theirs, rel=1e-9, abs=1e-4)


def test_on_the_edge_between_two_cells_of_haze_as_pvlib_has_it():
    """Whole degrees are such edges, and the places people give."""
    random = np.random.default_rng(8)
    day = TIMES[200:201]
    places = [
        (78.0, 15.0),
        *zip(random.integers(-60, 80, 150), random.integers(-180, 181, 150), strict=True),
    ]
    places += [(lat + 0.25, lon - 0.5) for lat, lon in places[:50]]
    for lat, lon in places:
        theirs = float(lookup_linke_turbidity(day, float(lat), float(lon)).iloc[0])
        assert float(turbidity(float(lat), float(lon), clock(day))[0]) == pytest.approx(theirs)


def test_outside_the_air_and_days_of_the_year():
    theirs = irradiance.get_extra_radiation(TIMES)
    np.testing.assert_allclose(above_the_air(CLOCK_S), theirs, **EXACT)
    assert day_of_year(CLOCK_S).tolist() == TIMES.dayofyear.tolist()
    assert is_leap_year(CLOCK_S).tolist() == TIMES.is_leap_year.tolist()
    # 1900 and 2100 have no 29th of February.
    assert not is_leap_year(clock(pd.DatetimeIndex(["1900-06-01", "2100-06-01"], tz="UTC"))).any()


def test_the_algorithms_own_example():
    # Reda and Andreas, NREL/TP-560-34302, table A5.1 (from memory): 2003-10-17 12:30:30 at UTC−7,
    # zenith 50.11162°, azimuth 194.34024°, at 820 mbar and 11 °C.
    at_s = clock(pd.DatetimeIndex(["2003-10-17 12:30:30-07:00"]))
    found = sun_position(39.742476, -105.1786, 1830.14, at_s)
    assert found.apparent_zenith[0] == pytest.approx(50.11162, abs=1e-3)
    assert found.azimuth[0] == pytest.approx(194.34024, abs=1e-3)


@given(
    values=st.lists(
        st.sampled_from([0.0, 0.1, 0.25, 0.5, 1.0, -1.0, 7.5]), min_size=1, max_size=60
    ),
    half=st.integers(0, 40),
)
@settings(max_examples=200, deadline=None)
def test_both_running_medians_agree(values, half):
    both = [median(np.array(values), 2 * half + 1) for median in (by_scipy, by_sorted_window)]
    assert both[0].tolist() == both[1].tolist()
