"""The coming days' sun by the computer's clock, whatever its zone; two arrays; the dark."""

from dataclasses import replace
from datetime import date, datetime, timedelta, timezone
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from yardtoll.core.sun.clear_day import clear_day
from yardtoll.review.kinds.solar.sunlight import parts_of, sun_array
from yardtoll.review.sun.days import DAYS, outlook
from yardtoll.review.sun.minutes import minutes_of
from yardtoll.store.records import Site, SolarArray

CHICAGO = ZoneInfo("America/Chicago")
SITE = Site(latitude=43.0, longitude=-88.0, altitude_m=200, horizon_deg=3, temperature_c=15)
SOUTH = SolarArray(
    id=1, name="South", series=2, module_w=200, voc_v=24, vmp_v=20, isc_a=10.5, imp_a=10,
    tilt_deg=35, azimuth_deg=180,
)  # fmt: skip
EAST = replace(SOUTH, id=2, name="East", azimuth_deg=90)
JUNE = date(2026, 6, 10)


def at(day, hour, zone=CHICAGO):
    return datetime(day.year, day.month, day.day, hour, tzinfo=zone)


def test_a_week_is_what_seven_clear_days_are():
    found = outlook(parts_of(SITE, [SOUTH]), at(JUNE, 10), JUNE)
    assert [d.day for d in found.days] == [JUNE + timedelta(days=i) for i in range(DAYS)]
    ((site, array),) = parts_of(SITE, [SOUTH])
    alone = clear_day(site, array, minutes_of(JUNE, CHICAGO))
    assert found.days[0].clear.expected_wh == pytest.approx(alone.expected_wh)
    (window,) = found.days[0].window
    assert 7 < window[0].hour < 11 and 15 < window[1].hour < 19
    # Solar noon there is a little before one by the summer clock.
    assert found.turn_hours == (10, 13, 16)
    assert found.turned.gain_wh > 0.03 * found.turned.fixed_wh


def test_a_clock_with_a_bare_offset_gives_the_same_sun():
    named = outlook(parts_of(SITE, [SOUTH]), at(JUNE, 10), JUNE)
    bare = timezone(timedelta(hours=-5))
    offset = outlook(parts_of(SITE, [SOUTH]), at(JUNE, 10, bare), JUNE)
    assert offset.turn_hours == named.turn_hours
    for one, other in zip(named.days, offset.days, strict=True):
        assert one.clear.expected_wh == pytest.approx(other.clear.expected_wh)


def test_the_day_the_clocks_change_has_an_hour_less():
    spring = date(2026, 3, 8)
    found = outlook(parts_of(SITE, [SOUTH]), at(spring, 12), spring, (2, 9, 12))
    assert len(found.days[0].times) == 23 * 60
    # Two o'clock does not happen that day, and nobody would turn panels in the dark.
    assert [found.days[0].times[i].hour for i, _ in found.turned.aims] == [9, 12]


def test_two_arrays_share_the_claimed_cap():
    both = outlook(parts_of(SITE, [SOUTH, EAST], 500.0), at(JUNE, 10), JUNE)
    alone = outlook(parts_of(SITE, [SOUTH], 500.0), at(JUNE, 10), JUNE)
    first, second = both.days[0].clear, alone.days[0].clear
    assert first.peak_w == 500 and first.clipped_wh > 0 and second.clipped_wh == 0
    assert first.expected_wh > 1.3 * second.expected_wh
    # The eastern one brings the morning: the day begins earlier.
    assert first.window_s[0][0] < second.window_s[0][0]


def test_turning_now_and_in_the_night():
    found = outlook(parts_of(SITE, [SOUTH]), at(JUNE, 8), JUNE)
    assert found.best.power_w > found.as_they_are.power_w and 60 < found.best.azimuth < 110
    night = outlook(parts_of(SITE, [SOUTH]), at(JUNE, 1), JUNE)
    assert night.best is None and night.as_they_are is None


def test_where_the_sun_never_comes():
    polar = replace(SITE, latitude=78.0)
    found = outlook(parts_of(polar, [SOUTH]), at(date(2026, 12, 20), 12), date(2026, 12, 20))
    assert all(day.clear.expected_wh == 0 and not day.window for day in found.days)
    assert found.turn_hours == () and found.turned.gain_wh == 0


def test_parts_carry_the_site_and_how_the_panels_lie():
    house = replace(SITE, obstacle_from_deg=45, obstacle_to_deg=135, obstacle_height_deg=40)
    ((site, array),) = parts_of(house, [replace(SOUTH, on_ground=True)], 300.0)
    assert site.horizon_deg == 3 and site.obstacles[0].height_deg == 40
    assert array.cap_w == 300 and array.ambient_c == 15 and array.power_stc_w == 400
    assert "insulated" in array.mount
    assert sun_array(SOUTH, replace(SITE, temperature_c=None)).ambient_c == 20
    assert parts_of(replace(SITE, latitude=None), [SOUTH]) == []
    before = outlook(parts_of(SITE, [SOUTH]), at(JUNE, 10), JUNE).days[0].clear.input_w
    behind = outlook(parts_of(house, [SOUTH]), at(JUNE, 10), JUNE).days[0].clear.input_w
    assert behind.sum() < before.sum() and np.array_equal(behind[14 * 60 :], before[14 * 60 :])
