"""Turning panels by hand, horizons and obstacles, two arrays on one input."""

import numpy as np
import pandas as pd
import pytest
from tests.suns import clock

from yardtoll.core.sun.aiming import aim_at, aimed_by_hand
from yardtoll.core.sun.clear_day import clear_day, free_power_w
from yardtoll.core.sun.panels import CLOSE_TO_GROUND, SunArray, array_power_w
from yardtoll.core.sun.sky import Obstacle, SunSite, clear_sky, plane_irradiance

SITE = SunSite(latitude=41.0, longitude=0.0, tilt=30.0, azimuth=180.0)
ARRAY = SunArray(power_stc_w=400.0)
DAY = clock(pd.date_range("2026-06-21", periods=1440, freq="1min", tz="UTC"))


def place(**facts):
    return SunSite(latitude=41.0, longitude=0.0, tilt=30.0, azimuth=180.0, **facts)


class TestAiming:
    def test_towards_the_sun_is_best(self):
        now, best = aim_at(SITE, ARRAY, DAY[960:961])
        sky = clear_sky(SITE, DAY[960:961])
        assert best.azimuth == pytest.approx(float(sky.azimuth[0]))
        # The beam alone would have the panel face the sun; the sky's own light flattens it.
        assert best.tilt == pytest.approx(float(sky.zenith[0]), abs=8)
        assert best.power_w > now.power_w and (now.tilt, now.azimuth) == (30, 180)

    def test_the_more_often_the_more(self):
        sunrise = int(np.argmax(clear_sky(SITE, DAY).up))
        gains = [
            aimed_by_hand(SITE, ARRAY, DAY, [sunrise, *range(8 * 60, 18 * 60, every)]).gain_wh
            for every in (600, 240, 60)
        ]
        assert 0 < gains[0] < gains[1] < gains[2]
        day = aimed_by_hand(SITE, ARRAY, DAY, [600, 840])
        assert day.fixed_wh == pytest.approx(clear_day(SITE, ARRAY, DAY).expected_wh)
        assert day.aimed_wh == pytest.approx(day.aimed_w.sum() / 60)
        assert [index for index, _ in day.aims] == [600, 840]
        np.testing.assert_array_equal(day.aimed_w[:600], day.fixed_w[:600])

    def test_no_turning_gains_nothing(self):
        assert aimed_by_hand(SITE, ARRAY, DAY, []).gain_wh == pytest.approx(0)

    def test_a_cap_takes_the_gain_away(self):
        low = SunArray(power_stc_w=400.0, cap_w=60.0)
        free = aimed_by_hand(SITE, ARRAY, DAY, [480, 720, 960]).gain_wh
        assert aimed_by_hand(SITE, low, DAY, [480, 720, 960]).gain_wh < 0.4 * free


class TestHorizon:
    def test_a_horizon_takes_the_low_beam(self):
        winter = clock(pd.date_range("2026-12-21", periods=1440, freq="1min", tz="UTC"))
        low, high = (plane_irradiance(place(horizon_deg=h), winter) for h in (0.0, 15.0))
        zenith = clear_sky(SITE, winter).zenith
        np.testing.assert_array_equal(low[zenith < 75], high[zenith < 75])
        hidden = (zenith > 75) & (zenith < 85)
        assert np.all(high[hidden] < 0.7 * low[hidden]) and np.all(high[hidden] > 0)

    def test_an_obstacle_in_the_east_takes_the_morning(self):
        house = Obstacle(from_deg=45, to_deg=135, height_deg=40)
        before, after = (
            plane_irradiance(SITE, DAY),
            plane_irradiance(place(obstacles=(house,)), DAY),
        )
        assert after[:720].sum() < before[:720].sum()
        np.testing.assert_array_equal(after[720:], before[720:])

    def test_an_obstacle_may_go_through_north(self):
        tree = Obstacle(from_deg=350, to_deg=10, height_deg=20)
        azimuth, elevation = np.array([355.0, 5.0, 15.0, 345.0, 0.0]), np.array([10.0] * 4 + [25.0])
        assert tree.hides(azimuth, elevation).tolist() == [True, True, False, False, False]


class TestParts:
    def test_two_arrays_add_and_share_one_cap(self):
        east = SunSite(latitude=41.0, longitude=0.0, tilt=30.0, azimuth=90.0)
        alone = free_power_w([(SITE, ARRAY)], DAY)
        both = free_power_w([(SITE, ARRAY), (east, ARRAY)], DAY)
        np.testing.assert_allclose(both - alone, free_power_w([(east, ARRAY)], DAY))
        capped = clear_day(SITE, SunArray(power_stc_w=400.0, cap_w=300.0), DAY, [(east, ARRAY)])
        assert capped.peak_w == 300.0
        assert capped.expected_wh + capped.clipped_wh == pytest.approx(both.sum() / 60)

    def test_panels_on_the_ground_are_hotter_and_give_less(self):
        light = np.array([0.0, 500.0, 1000.0])
        rack = array_power_w(light, ARRAY)
        ground = array_power_w(light, SunArray(power_stc_w=400.0, mount=CLOSE_TO_GROUND))
        assert ground[0] == rack[0] == 0 and np.all(ground[1:] < rack[1:])
        # Folding panels give 75 to 80 % of nameplate in good sun (common practice, no source).
        assert 0.75 < ground[2] / 400 < 0.82
