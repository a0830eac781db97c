"""Solar runs against simulated days of known truth, closed forms, and pvlib called directly."""

import re
from dataclasses import replace

import numpy as np
import pandas as pd
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from tests.suns import clock

from yardtoll.bench.simulated.sunny_day import (
    ShadeOnPanels,
    SolarStation,
    Weather,
    simulate_sun,
)
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Code, Trace
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.sun import worked
from yardtoll.core.sun.allowed import AvailablePower
from yardtoll.core.sun.available import SensorPlane, available_by_sensor, available_power
from yardtoll.core.sun.irradiance import MOST_W_M2, in_watts
from yardtoll.core.sun.limits import LIMITS, Limit
from yardtoll.core.sun.panels import SunArray
from yardtoll.core.sun.passings import slow_tracker_wh, usual_lag
from yardtoll.core.sun.shade import find_drops
from yardtoll.core.sun.sky import SunSite, plane_irradiance
from yardtoll.core.sun.solar_run import analyse_solar, best_mean_w

SITE = SunSite(latitude=41.0, longitude=2.0, tilt=30.0, azimuth=180.0)
ARRAY = SunArray(power_stc_w=400.0)
PARTS = [(SITE, ARRAY)]
NOON_SHADE = ShadeOnPanels(start_s=11 * 3600.0, end_s=11 * 3600.0 + 300.0, left=0.3)


def day(step_s=10.0, date="2026-05-20"):
    return clock(
        pd.date_range(f"{date} 00:00", periods=int(86400 / step_s), freq=f"{step_s:g}s", tz="UTC")
    )


def traced(sunny, *, soc=True):
    columns = {Quantity.POWER: sunny.power_w}
    if soc:
        columns[Quantity.SOC] = sunny.soc
    return Trace(name="day", time_s=sunny.time_s, columns=columns)


def played(station=None, *, sensor=True, soc=True, cap=True, step_s=10.0, **how):
    """A simulated day and what is made of its log."""
    station = station or SolarStation(cap_w=600.0, store_wh=9000.0)
    sunny = simulate_sun(PARTS, station, day(step_s), **how)
    seen = available_power(
        PARTS, sunny.clock_s + sunny.time_s, sunny.irradiance if sensor else None
    )
    cap_w = station.cap_w if cap else None
    return sunny, seen, analyse_solar(traced(sunny, soc=soc), seen, ARRAY.power_stc_w, cap_w)


def right(sunny, seen, run):
    """Share of the samples with the sun up that were sorted as they were."""
    found = np.full(sunny.time_s.size, -1)
    for span in run.spans:
        inside = (sunny.time_s >= span.start_s) & (sunny.time_s < span.end_s)
        found[inside] = LIMITS.index(span.limit)
    return float((found == sunny.truth)[seen.up].mean())


def random_day(seed):
    """Any place, season, array, weather, tracker, battery, and shade at up to three times."""
    random = np.random.default_rng(seed)
    latitude = float(random.uniform(-45, 55))
    site = SunSite(
        latitude=latitude,
        longitude=float(random.uniform(-100, 100)),
        tilt=float(random.uniform(10, 50)),
        azimuth=180.0 if latitude > 0 else 0.0,
    )
    array = SunArray(power_stc_w=float(random.uniform(200, 900)))
    date = pd.Timestamp("2026-01-01") + pd.Timedelta(days=int(random.integers(0, 365)))
    step = float(random.choice([2, 5, 10, 30]))
    start = date.tz_localize("UTC") - pd.Timedelta(hours=site.longitude / 15)
    times = clock(pd.date_range(start, periods=int(86400 / step), freq=f"{step:g}s"))
    skies = (Weather(), Weather(cloud_s=240, gap_s=420), Weather(cloud_s=900, edge_s=60))
    station = SolarStation(
        cap_w=float(array.power_stc_w * random.uniform(0.45, 1.1)),
        lag_s=float(random.choice([0, 3, 20, 90])),
        store_wh=float(array.power_stc_w * random.uniform(2.5, 9)),
    )
    shade = []
    for hour in (9.7, 11.2, 13.5):
        if random.random() < 0.5:
            begin = round((hour * 3600 + random.uniform(0, 1200)) / step) * step
            length = round(random.uniform(120, 900) / step) * step
            left = float(random.uniform(0.1, 0.7))
            shade.append(ShadeOnPanels(start_s=begin, end_s=begin + length, left=left))
    share = float(random.choice([1.0, 1.0, 0.97, 0.8]))
    weather = skies[int(random.integers(0, 3))]
    sunny = simulate_sun(
        [(site, array)], station, times, weather=weather, shade=shade, share=share, seed=seed
    )
    return [(site, array)], station, sunny


class TestWhatLimited:
    @pytest.mark.study
    def test_fifty_random_days_with_a_sensor(self):
        told, untold = [], []
        for seed in range(50):
            parts, station, sunny = random_day(seed)
            seen = available_power(parts, sunny.clock_s + sunny.time_s, sunny.irradiance)
            watts = parts[0][1].power_stc_w
            run = analyse_solar(traced(sunny), seen, watts, station.cap_w)
            told.append(right(sunny, seen, run))
            # Neither the cap nor the state of charge known: both must show in the power.
            run = analyse_solar(traced(sunny, soc=False), seen, watts)
            untold.append(right(sunny, seen, run))
        assert np.mean(told) >= 0.95 and min(told) >= 0.85
        assert np.mean(untold) >= 0.95

    @pytest.mark.parametrize("sensor", [True, False])
    def test_a_clear_day_is_the_suns(self, sensor):
        sunny, seen, run = played(sensor=sensor)
        assert right(sunny, seen, run) > 0.99
        assert run.limited_by[Limit.SUN] > 0.99 and run.performance == pytest.approx(1, abs=0.01)
        assert not run.recoveries and not run.clouds and run.cap_w == 600.0

    @pytest.mark.parametrize("sensor", [True, False])
    def test_a_weak_array_is_told_from_the_sun(self, sensor):
        _, _, run = played(sensor=sensor, share=0.78)
        assert run.limited_by[Limit.ARRAY] > 0.9 and run.usual_share == pytest.approx(
            0.78, abs=0.01
        )

    @pytest.mark.parametrize("cap", [True, False])
    def test_a_cap_is_seen_whether_told_or_not(self, cap):
        station = SolarStation(cap_w=200.0, store_wh=9000.0)
        sunny, seen, run = played(station, cap=cap)
        assert run.cap_w == pytest.approx(200, rel=0.005)
        assert right(sunny, seen, run) > 0.97 and run.limited_by[Limit.CAP] > 0.3
        assert run.expected_wh < 0.9 * np.trapezoid(seen.free_w, sunny.time_s) / 3600

    def test_a_station_that_takes_less_than_it_claims(self):
        station = SolarStation(cap_w=200.0, store_wh=9000.0)
        sunny = simulate_sun(PARTS, station, day())
        seen = available_power(PARTS, sunny.clock_s + sunny.time_s, sunny.irradiance)
        run = analyse_solar(traced(sunny), seen, 400.0, cap_w=230.0)
        assert run.cap_w == pytest.approx(200, rel=0.005) and run.limited_by[Limit.CAP] > 0.3

    def test_the_share_of_the_nameplate(self):
        _, seen, run = played(share=0.9)
        good = seen.plane_w_m2 > 700
        # By hand: the model's own watts at that light, times the share.
        modelled = np.median(seen.free_w[good] / (0.4 * seen.plane_w_m2[good]))
        assert run.nameplate_share == pytest.approx(0.9 * modelled, rel=0.02)

    @pytest.mark.parametrize("soc", [True, False])
    def test_a_battery_that_fills_is_told(self, soc):
        station = SolarStation(cap_w=600.0, store_wh=1200.0, start_share=0.3)
        sunny, seen, run = played(station, soc=soc)
        assert right(sunny, seen, run) > 0.95 and run.limited_by[Limit.FULL] > 0.2

    def test_broken_cloud_is_no_shade_with_a_sensor_and_not_called_so_without(self):
        weather = Weather(cloud_s=240, gap_s=400)
        sunny, seen, run = played(weather=weather)
        assert right(sunny, seen, run) > 0.97 and run.limited_by[Limit.SHADE] < 0.01
        assert run.limited_by[Limit.SUN] > 0.95 and len(run.clouds) > 10
        _, _, blind = played(weather=weather, sensor=False)
        assert blind.limited_by[Limit.SHADE] < 0.005 and blind.limited_by[Limit.SUN] > 0.95

    def test_a_lagging_tracker_is_not_blamed_on_the_clouds(self):
        weather = Weather(cloud_s=240, gap_s=400)
        station = SolarStation(cap_w=600.0, store_wh=9000.0, lag_s=90.0)
        sunny, seen, run = played(station, weather=weather)
        # It follows the sun, late: only panels that are steadily under it are weak.
        assert run.limited_by[Limit.ARRAY] < 0.02 and right(sunny, seen, run) > 0.95
        assert run.clouds and usual_lag(run.clouds, run.recoveries) > 30

    @pytest.mark.parametrize("soc", [True, False])
    def test_a_battery_that_stops_all_at_once_when_full_is_no_shade(self, soc):
        sunny, seen, _ = played()
        stopped = sunny.time_s > 12.5 * 3600
        state = np.clip(sunny.time_s / (12.5 * 3600), 0, 1) * 100
        cut = replace(sunny, power_w=np.where(stopped, 0.0, sunny.power_w), soc=np.round(state))
        run = analyse_solar(traced(cut, soc=soc), seen, ARRAY.power_stc_w, 600.0)
        after = float((stopped & seen.up).sum() / seen.up.sum())
        assert run.limited_by[Limit.FULL] == pytest.approx(after, abs=0.05)
        assert run.limited_by[Limit.SHADE] < 0.02 and run.limited_by[Limit.ARRAY] < 0.02

    def test_a_tree_that_shades_the_panels_and_not_the_sensor_is_no_weak_array(self):
        sunny, seen, _ = played()
        tree = np.interp(sunny.time_s / 3600, [13, 13.4, 15, 15.4], [1.0, 0.35, 0.35, 1.0])
        under = replace(sunny, power_w=sunny.power_w * tree)
        run = analyse_solar(traced(under), seen, ARRAY.power_stc_w, 600.0)
        shaded = float(((tree < 0.9) & seen.up).sum() / seen.up.sum())
        assert run.limited_by[Limit.SHADE] == pytest.approx(shaded, abs=0.04)
        assert run.limited_by[Limit.ARRAY] < 0.02

    def test_a_cap_that_falls_with_the_heat_is_still_the_stations(self):
        station = SolarStation(cap_w=250.0, store_wh=9000.0)
        sunny, seen, _ = played(station)
        hot = np.where(sunny.time_s > 12 * 3600, 180.0, 250.0)
        derated = replace(sunny, power_w=np.minimum(sunny.power_w, hot))
        run = analyse_solar(traced(derated), seen, ARRAY.power_stc_w, 250.0)
        capped = float(((derated.power_w > 0.985 * hot) & seen.up).sum() / seen.up.sum())
        assert run.limited_by[Limit.CAP] == pytest.approx(capped, abs=0.05)
        assert run.limited_by[Limit.ARRAY] < 0.03

    def test_haze_is_not_called_the_panels_fault_without_a_sensor(self):
        _, _, run = played(sensor=False, share=0.87)
        assert run.limited_by[Limit.ARRAY] < 0.01 and run.limited_by[Limit.SUN] > 0.95
        _, _, told = played(sensor=True, share=0.87)  # a sensor tells: the light was there
        assert told.limited_by[Limit.ARRAY] > 0.9

    def test_a_clock_that_is_hours_off_gives_no_share(self):
        """Hours about noon, dated to the early morning."""
        sunny, _, _ = played()
        noon = (sunny.time_s > 10 * 3600) & (sunny.time_s < 14 * 3600)
        part = replace(
            sunny, time_s=sunny.time_s[noon] - 36_000, power_w=sunny.power_w[noon],
            soc=sunny.soc[noon],
        )  # fmt: skip
        for begins_h, wrong in ((10, False), (5, True)):
            seen = available_power(PARTS, sunny.clock_s + begins_h * 3600 + part.time_s, None)
            run = analyse_solar(traced(part), seen, ARRAY.power_stc_w, 600.0)
            assert (run.performance is None) == wrong
            codes = {notice.code for notice in run.notices}
            assert (Code.CLOCK_OR_AIM_WRONG in codes) == wrong

    def test_the_night_counts_for_nothing(self):
        sunny, seen, _ = played()
        night = sunny.time_s < 3 * 3600
        trace = Trace(
            name="night",
            time_s=sunny.time_s[night],
            columns={Quantity.POWER: sunny.power_w[night]},
        )
        part = AvailablePower(
            free_w=seen.free_w[night],
            clear_w=seen.clear_w[night],
            up=seen.up[night],
            plane_w_m2=seen.plane_w_m2[night],
            measured=False,
        )
        run = analyse_solar(trace, part, 400.0)
        assert run.limited_by is None and run.notices[-1].code is Code.NO_SUN

    @example(seed=9634, size=2, sensor=False)  # two samples within one second
    @settings(max_examples=60, deadline=None)
    @given(seed=st.integers(0, 2**32 - 1), size=st.integers(2, 300), sensor=st.booleans())
    def test_any_power_gives_shares_that_add_to_one(self, seed, size, sensor):
        random = np.random.default_rng(seed)
        time_s = np.cumsum(random.uniform(0.5, 90, size))
        power = random.uniform(-5, 800, size) * random.integers(0, 2, size)
        free = random.uniform(0, 900, size)
        up = np.ones(size, dtype=bool)
        seen = AvailablePower(free_w=free, clear_w=free, up=up, plane_w_m2=free, measured=sensor)
        trace = Trace(name="x", time_s=time_s, columns={Quantity.POWER: power})
        run = analyse_solar(trace, seen, 800.0)
        assert sum(run.limited_by.values()) == pytest.approx(1.0)
        assert sum(s.end_s - s.start_s for s in run.spans) == pytest.approx(run.duration_s)


class TestRecovery:
    @pytest.mark.parametrize("sensor", [True, False])
    @pytest.mark.parametrize("lag_s", [0.0, 10.0, 60.0])
    @pytest.mark.parametrize("step_s", [1.0, 5.0, 10.0])
    def test_within_one_sample(self, lag_s, step_s, sensor):
        station = SolarStation(cap_w=600.0, store_wh=9000.0, lag_s=lag_s)
        sunny, _, run = played(
            station, shade=[NOON_SHADE], step_s=step_s, sensor=sensor, noise=0.0002
        )
        (found,) = run.recoveries
        assert found.recover_s == pytest.approx(sunny.back_s[0], abs=step_s)
        assert found.start_s == NOON_SHADE.start_s
        level = np.interp(NOON_SHADE.start_s - step_s, sunny.time_s, sunny.power_w)
        assert found.drop_w == pytest.approx(0.7 * level, rel=0.03)
        lost = 0.7 * level * 300 / 3600 + 0.7 * level * lag_s / 3600
        assert found.lost_wh == pytest.approx(lost, rel=0.1)

    def test_ten_samples_a_second_are_looked_at_by_seconds(self):
        times = clock(pd.date_range("2026-05-20 10:30", periods=36_000, freq="100ms", tz="UTC"))
        shade = ShadeOnPanels(start_s=1200.0, end_s=1500.0, left=0.3)
        station = SolarStation(store_wh=9000.0, lag_s=20.0)
        sunny = simulate_sun(PARTS, station, times, shade=[shade])
        seen = available_power(PARTS, sunny.clock_s + sunny.time_s, sunny.irradiance)
        run = analyse_solar(traced(sunny), seen, 400.0)
        (found,) = run.recoveries
        assert found.recover_s == pytest.approx(sunny.back_s[0], abs=2.0)
        assert found.start_s == pytest.approx(1200.0, abs=1.0) and run.time_s.size == 3600
        assert run.duration_s == pytest.approx(float(sunny.time_s[-1]))
        whole = np.trapezoid(sunny.power_w, sunny.time_s) / 3600
        assert run.harvest_wh == pytest.approx(whole) and run.peak_w == sunny.power_w.max()

    def test_shade_that_is_never_taken_away_has_no_recovery(self):
        sunny = simulate_sun(PARTS, SolarStation(store_wh=9000.0), day(), shade=[NOON_SHADE])
        kept = sunny.time_s < NOON_SHADE.end_s - 60
        trace = Trace(
            name="x", time_s=sunny.time_s[kept], columns={Quantity.POWER: sunny.power_w[kept]}
        )
        clock = sunny.clock_s + sunny.time_s[kept]
        run = analyse_solar(trace, available_power(PARTS, clock, sunny.irradiance[kept]), 400.0)
        (found,) = run.recoveries
        assert found.recover_s is None and found.end_s == sunny.time_s[kept][-1]

    def test_a_passing_cloud_tells_the_trackers_lag_and_what_it_cost(self):
        weather = Weather(cloud_s=300, gap_s=1500, least=0.3, most=0.3, edge_s=5)
        station = SolarStation(cap_w=600.0, store_wh=9000.0, lag_s=40.0)
        _, _, run = played(station, weather=weather, step_s=2.0)
        lags = [cloud.lag_s for cloud in run.clouds if cloud.lag_s is not None]
        assert len(lags) > 5
        # From 30 to 95 % of an exponential: −ln(0.05 ÷ 0.7) time constants, less the cloud's edge.
        assert np.median(lags) == pytest.approx(40 * -np.log(0.05 / 0.7), rel=0.15)
        clear = played(step_s=2.0)[2]
        assert sum(c.lost_wh for c in run.clouds) == pytest.approx(
            clear.harvest_wh - run.harvest_wh, rel=0.2
        )
        assert usual_lag(run.clouds, run.recoveries) == pytest.approx(np.median(lags))

    def test_what_a_slow_tracker_costs(self):
        # By hand: the lost area of an exponential of 200 W and 20 s is 4000 Ws.
        assert slow_tracker_wh(20 * -np.log(0.05), 200.0, 9) == pytest.approx(9 * 4000 / 3600)

    @settings(max_examples=200, deadline=None)
    @given(st.integers(0, 2**32 - 1), st.integers(5, 400), st.floats(0, 0.2), st.booleans())
    def test_drops_in_any_share_are_in_order(self, seed, size, noise, rough):
        """Steps of any height under noise of any size: never a drop that ends before it began."""
        random = np.random.default_rng(seed)
        levels = random.uniform(0.0, 1.2, size)[np.cumsum(random.random(size) < 0.1) % size]
        share = np.clip(levels + noise * random.standard_normal(size), 0, 2)
        time_s = np.cumsum(random.uniform(0.5, 60, size))
        ends = -1
        for drop in find_drops(time_s, share, share * 300, rough=rough):
            assert ends <= drop.first <= drop.last < size
            assert drop.back is None or drop.back >= drop.last
            assert drop.floor < drop.before
            ends = drop.last


class TestFigures:
    def test_the_best_five_minutes_by_hand(self):
        time_s = np.arange(0.0, 1201.0, 60.0)
        power = np.where((time_s >= 300) & (time_s <= 600), 400.0, 100.0)
        assert best_mean_w(time_s, power, 300.0) == pytest.approx(400.0)
        # A ramp of 1 W/s for 20 min: its last five minutes have their mean at 1050 s.
        assert best_mean_w(time_s, time_s, 300.0) == pytest.approx(1050.0)
        assert best_mean_w(time_s[:5], power[:5], 300.0) is None

    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.floats(0, 1000), min_size=8, max_size=60), st.integers(0, 1000))
    def test_no_window_on_a_fine_grid_is_better(self, watts, seed):
        random = np.random.default_rng(seed)
        time_s = np.cumsum(random.uniform(20, 200, len(watts)))
        power = np.array(watts)
        best = best_mean_w(time_s, power, 300.0)
        fine = np.arange(time_s[0], time_s[-1], 0.5)
        straight = np.interp(fine, time_s, power)
        summed = np.concatenate([[0.0], np.cumsum((straight[1:] + straight[:-1]) / 2 * 0.5)])
        means = (summed[600:] - summed[:-600]) / 300
        if best is None:
            assert means.size <= 1
        else:
            assert best >= means.max() - 0.05
            assert best <= power.max() + 1e-9

    def test_a_counter_gives_the_harvest(self):
        time_s = np.arange(0.0, 3601.0, 10.0)
        columns = {
            Quantity.POWER: np.full(time_s.size, 300.0),
            Quantity.ENERGY: time_s / 3600 * 306.0,
        }
        run = analyse_solar(Trace(name="x", time_s=time_s, columns=columns), None, 400.0)
        assert run.harvest_wh == pytest.approx(306.0)
        assert any(notice.code is Code.COUNTER_DISAGREES for notice in run.notices)
        assert run.expected_wh is None and run.limited_by is None and run.peak_w == 300.0

    def test_a_log_without_power_is_refused(self):
        trace = Trace(
            name="x", time_s=np.arange(3.0), columns={Quantity.ENERGY: np.array([0.0, 1, 2])}
        )
        with pytest.raises(UnusableDataError, match="no two samples of power"):
            analyse_solar(trace, None, 400.0)


class TestSensor:
    def test_a_level_sensor_under_a_clear_sky_gives_the_clear_skys_watts(self):
        clock_s = day(60.0)
        level = plane_irradiance(
            SunSite(latitude=41.0, longitude=2.0, tilt=0, azimuth=180), clock_s
        )
        seen = available_power(PARTS, clock_s, level, SensorPlane.LEVEL)
        bright = seen.clear_w > 100
        # Erbs' split of global light is a statistical one: a few per cent off on a clear day.
        np.testing.assert_allclose(seen.free_w[bright], seen.clear_w[bright], rtol=0.08)
        total = seen.free_w.sum() / seen.clear_w.sum()
        assert total == pytest.approx(1, abs=0.03)

    def test_a_sensor_on_the_panels_reads_the_clear_sky_back(self):
        clock_s = day(60.0)
        seen = available_power(PARTS, clock_s, plane_irradiance(SITE, clock_s))
        np.testing.assert_allclose(seen.free_w, seen.clear_w, atol=1e-6)

    def test_a_second_array_follows_the_first_ones_sensor(self):
        east = SunSite(latitude=41.0, longitude=2.0, tilt=30.0, azimuth=90.0)
        parts = [*PARTS, (east, ARRAY)]
        clock_s = day(60.0)
        half = available_power(parts, clock_s, 0.5 * plane_irradiance(SITE, clock_s))
        assert half.free_w.sum() == pytest.approx(0.51 * half.clear_w.sum(), rel=0.04)
        assert half.clear_w.sum() > 1.7 * available_power(PARTS, clock_s).clear_w.sum()

    def test_kilowatts_are_recognised_and_nonsense_is_refused(self):
        watts, kilo = in_watts(np.array([np.nan, -0.002, 0.85]), "G")
        assert kilo and watts[2] == pytest.approx(850) and watts[1] == 0 and np.isnan(watts[0])
        assert in_watts(np.array([0.0, 850.0]), "G")[1] is False
        with pytest.raises(UnusableDataError, match=f'"G" reaches 40000 .* {MOST_W_M2:g}'):
            in_watts(np.array([0.0, 40000.0]), "G")

    def test_without_a_site_the_sensor_says_when_the_sun_is_up(self):
        light = np.array([0.0, 3.0, 500.0, np.nan, 700.0])
        seen = available_by_sensor(ARRAY, np.arange(5.0), light)
        assert seen.up.tolist() == [False, False, True, True, True] and seen.clear_w is None
        assert seen.free_w[3] == pytest.approx((seen.free_w[2] + seen.free_w[4]) / 2, rel=0.02)


def test_how_a_solar_run_was_worked_out_is_told_in_its_own_numbers():
    _, _, run = played()
    told = worked.performance(run).put_in
    harvest, expected, percent = (float(n) for n in re.findall(r"(\d+\.\d+) (?:Wh|%)", told))
    assert percent == pytest.approx(100 * harvest / expected, abs=0.1)
    assert f"{run.harvest_wh:.1f} Wh" in worked.harvested(run).put_in
    assert f"{100 * run.nameplate_share:.1f} %" in worked.of_nameplate(run).put_in
    assert worked.performance(replace(run, expected_wh=None, performance=None)) is None
