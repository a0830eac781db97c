"""An array before it is connected, and a clear day: against tables, pvlib, and the almanac."""

from datetime import date
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pvlib import irradiance, pvsystem, temperature
from pvlib.location import Location
from tests.suns import clock

from yardtoll.core.electrical.trace import Code
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.sun.array_check import (
    Connect,
    InputLimits,
    Module,
    check_array,
    volts_at,
)
from yardtoll.core.sun.clear_day import clear_day
from yardtoll.core.sun.panels import SunArray
from yardtoll.core.sun.sky import SunSite, plane_irradiance
from yardtoll.review.sun.minutes import minutes_of

CHICAGO = ZoneInfo("America/Chicago")
SITE = SunSite(latitude=43.1, longitude=-88.4, tilt=30, azimuth=180, altitude_m=260)
PANEL = Module(voc_v=24.2, vmp_v=20.1, isc_a=10.6, imp_a=9.95, beta_voc=-0.0029)


class TestArray:
    # NEC table 690.7(A), from memory: the factor for Voc in each band of 5 K, by its coldest end.
    @pytest.mark.parametrize(
        ("coldest_c", "factor"),
        [(20, 1.02), (15, 1.04), (10, 1.06), (5, 1.08), (0, 1.10), (-5, 1.12), (-10, 1.14),
         (-15, 1.16), (-20, 1.18), (-25, 1.20)],
    )  # fmt: skip
    def test_voc_in_the_cold_against_the_codes_table(self, coldest_c, factor):
        # −0.37 %/K is typical of crystalline silicon (common practice, no source).
        assert volts_at(1.0, -0.0037, coldest_c) == pytest.approx(factor, rel=0.015)

    def test_five_panels_at_99_volts_against_100(self):
        # Common practice, no source: refuse, cold adds volts.
        panel = Module(voc_v=99.1 / 5, vmp_v=16.5, isc_a=6, imp_a=5.5, beta_voc=-0.0029)
        limits = InputLimits(highest_v=100)
        found = check_array(panel, 5, 1, limits, coldest_c=10, hottest_c=35)
        assert found.voc_stc_v == pytest.approx(99.1) and found.connect is Connect.NEVER
        assert found.max_series == 4
        assert [n.code for n in found.notices] == [Code.OVER_VOLTAGE_COLD]

    def test_by_hand(self):
        limits = InputLimits(highest_v=60, lowest_v=11, highest_a=15, highest_w=600)
        found = check_array(PANEL, 2, 1, limits, coldest_c=-20, hottest_c=35)
        assert found.voc_cold_v == pytest.approx(2 * 24.2 * (1 + 0.0029 * 45))
        assert found.vmp_hot_v == pytest.approx(2 * 20.1 * (1 - 0.0029 * 40))
        assert found.power_stc_w == pytest.approx(2 * 20.1 * 9.95)
        assert found.connect is Connect.OK and found.notices == ()
        other = Module(voc_v=24.2, vmp_v=20.1, isc_a=10.6, imp_a=9.95, beta_voc=-0.0029,
                       beta_vmp=-0.004)  # fmt: skip
        again = check_array(other, 2, 1, limits, coldest_c=-20, hottest_c=35)
        assert again.vmp_hot_v == pytest.approx(2 * 20.1 * (1 - 0.004 * 40))

    @pytest.mark.parametrize(
        ("limits", "parallel", "connect", "codes"),
        [
            ({"highest_a": 15}, 2, Connect.OVER_PANELLED, [Code.OVER_CURRENT]),
            ({"highest_w": 300}, 1, Connect.OVER_PANELLED, [Code.OVER_POWER]),
            ({"lowest_v": 40}, 1, Connect.TOO_LOW, []),
            ({"highest_v": 50, "highest_w": 300}, 1, Connect.NEVER,
             [Code.OVER_VOLTAGE_COLD, Code.OVER_POWER]),
        ],
    )  # fmt: skip
    def test_volts_are_never_amps_and_watts_are_clipped(self, limits, parallel, connect, codes):
        made = InputLimits(**{"highest_v": 60, **limits})
        found = check_array(PANEL, 2, parallel, made, coldest_c=-10, hottest_c=40)
        assert found.connect is connect and [n.code for n in found.notices] == codes

    @given(st.integers(1, 30), st.floats(-40, 24), st.floats(20, 200))
    def test_as_many_as_it_says_may_be_in_series_and_not_one_more(self, series, cold_c, limit_v):
        limits = InputLimits(highest_v=limit_v)
        found = check_array(PANEL, series, 1, limits, coldest_c=cold_c, hottest_c=40)
        assert (found.connect is Connect.NEVER) == (series > found.max_series)

    @pytest.mark.parametrize(
        ("facts", "words"),
        [
            ({"voc_v": 19}, "swapped"), ({"isc_a": 9}, "swapped"), ({"voc_v": 0}, "Voc"),
            ({"beta_voc": 0.0029}, "coefficient of Voc"),
            ({"beta_voc": -0.29}, "coefficient of Voc"),
        ],
    )  # fmt: skip
    def test_labels_misread(self, facts, words):
        label = {"voc_v": 24.2, "vmp_v": 20.1, "isc_a": 10.6, "imp_a": 9.95, "beta_voc": -0.0029}
        with pytest.raises(UnusableDataError, match=words):
            Module(**{**label, **facts})

    def test_limits_and_temperatures_the_wrong_way_round(self):
        with pytest.raises(UnusableDataError, match="not below"):
            InputLimits(highest_v=12, lowest_v=60)
        with pytest.raises(UnusableDataError, match="above the highest temperature"):
            check_array(PANEL, 1, 1, InputLimits(highest_v=60), coldest_c=40, hottest_c=10)
        with pytest.raises(ValueOutOfRangeError, match="number in series"):
            check_array(PANEL, 0, 1, InputLimits(highest_v=60), coldest_c=0, hottest_c=10)
        with pytest.raises(ValueOutOfRangeError, match="lowest temperature"):
            check_array(PANEL, 1, 1, InputLimits(highest_v=60), coldest_c=-300, hottest_c=10)


class TestClearDay:
    def test_the_suns_place_against_the_algorithms_own_example(self):
        # Reda and Andreas, Solar Position Algorithm, NREL/TP-560-34302, table A5.1 (from memory):
        # zenith 50.11162°, azimuth 194.34024°.
        place = Location(39.742476, -105.1786, altitude=1830.14)
        at = pd.DatetimeIndex(["2003-10-17 12:30:30-07:00"])
        found = place.get_solarposition(at, pressure=82_000, temperature=11)
        assert found["apparent_zenith"].iloc[0] == pytest.approx(50.11162, abs=1e-3)
        assert found["azimuth"].iloc[0] == pytest.approx(194.34024, abs=1e-3)

    def test_each_step_against_pvlib_called_directly(self):
        day = date(2026, 6, 21)
        times = pd.date_range("2026-06-21", periods=1440, freq="1min", tz="America/Chicago")
        place = Location(43.1, -88.4, altitude=260)
        position = place.get_solarposition(times)
        sky = place.get_clearsky(times, model="ineichen")
        plane = irradiance.get_total_irradiance(
            30, 180, position["apparent_zenith"], position["azimuth"], sky["dni"], sky["ghi"],
            sky["dhi"], dni_extra=irradiance.get_extra_radiation(times), model="haydavies",
            albedo=0.25,
        )["poa_global"].fillna(0)  # fmt: skip
        cells = temperature.sapm_cell(plane, 20, 1, a=-3.56, b=-0.075, deltaT=3)
        expected = pvsystem.pvwatts_dc(plane, cells, 400, -0.0037) * 0.98
        found = clear_day(SITE, SunArray(power_stc_w=400), minutes_of(day, CHICAGO))
        assert np.allclose(plane_irradiance(SITE, clock(times)), plane, atol=1e-6)
        assert found.expected_wh == pytest.approx(expected.sum() / 60, rel=1e-9)
        assert found.peak_w == pytest.approx(expected.max(), rel=1e-9)
        assert found.clipped_wh == 0

    def test_a_cap_clips_and_the_window_is_above_half_of_the_peak(self):
        day = date(2026, 6, 21)
        free = clear_day(SITE, SunArray(power_stc_w=400), minutes_of(day, CHICAGO))
        capped = clear_day(SITE, SunArray(power_stc_w=400, cap_w=250), minutes_of(day, CHICAGO))
        assert capped.peak_w == 250
        assert capped.expected_wh + capped.clipped_wh == pytest.approx(free.expected_wh)
        ((start_s, end_s),) = capped.window_s
        inside = (capped.clock_s >= start_s) & (capped.clock_s < end_s)
        assert capped.input_w[inside].min() > 125 >= capped.input_w[~inside].max()

    def test_polar_night_and_panels_that_face_the_ground(self):
        polar = SunSite(latitude=78, longitude=15, tilt=30, azimuth=180)
        dark = clear_day(
            polar, SunArray(power_stc_w=400), minutes_of(date(2026, 12, 21), ZoneInfo("UTC"))
        )
        assert (dark.expected_wh, dark.peak_w, dark.window_s) == (0, 0, ())
        assert [n.code for n in dark.notices] == [Code.NO_SUN]
        down = SunSite(latitude=43, longitude=-88, tilt=180, azimuth=0)
        found = clear_day(down, SunArray(power_stc_w=400), minutes_of(date(2026, 6, 21), CHICAGO))
        assert 0 < found.peak_w < 150 and found.notices[0].code is Code.FACES_DOWN

    @pytest.mark.parametrize(
        ("day", "hours"), [((2026, 3, 8), 23), ((2026, 11, 1), 25), ((2026, 6, 21), 24)]
    )
    def test_a_day_of_a_clock_change_is_as_long_as_it_is(self, day, hours):
        assert len(minutes_of(date(*day), CHICAGO)) == 60 * hours

    @pytest.mark.parametrize(
        "facts", [{"latitude": 91}, {"longitude": -181}, {"tilt": -1}, {"albedo": 2}]
    )
    def test_places_that_cannot_be(self, facts):
        with pytest.raises(ValueOutOfRangeError):
            SunSite(**{"latitude": 1, "longitude": 1, "tilt": 1, "azimuth": 1, **facts})

    @pytest.mark.parametrize("facts", [{"power_stc_w": 0}, {"cap_w": -1}, {"gamma": 0.1}])
    def test_arrays_that_cannot_be(self, facts):
        with pytest.raises(ValueOutOfRangeError):
            SunArray(**{"power_stc_w": 400, **facts})
