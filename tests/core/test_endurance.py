"""Outages against closed forms and a slow walk in small steps; prices against the check values."""

import math

import numpy as np
import pytest

from yardtoll.core.cost.price import Bought, price_of
from yardtoll.core.endurance.display import hours_more
from yardtoll.core.endurance.heat import Heating
from yardtoll.core.endurance.outage import Outage, OutageLoad, SunSteps, through_outage
from yardtoll.core.errors import ValueOutOfRangeError


def fridge(duty=0.4):
    return OutageLoad(name="fridge", watts=90.0, duty=duty)


class TestClosedForms:
    def test_the_overhead_counts_all_night(self):
        # A 90 W fridge at 40 % duty takes 36 W, and 15 W of the inverter's own come on top.
        found = through_outage(Outage(store_wh=1000, overhead_w=15, loads=(fridge(),)))
        assert found.hours == pytest.approx(1000 / 51) and found.total_w == pytest.approx(51)
        assert found.overhead_share == pytest.approx(15 / 51)
        assert [at.wh for at in found.left[:3]] == pytest.approx([1000, 949, 898])
        assert found.left[-1].wh == 0 and found.left[-1].hour == 20

    def test_conversion_is_lost_on_the_way_to_the_outlet(self):
        asked = Outage(store_wh=1000, overhead_w=10, conversion=0.25, loads=(fridge(1.0),))
        assert through_outage(asked).hours == pytest.approx(1000 / (90 * 1.25 + 10))

    def test_hours_of_the_clock_over_midnight(self):
        lamp = OutageLoad(name="lamp", watts=100, from_h=22, to_h=6)
        asked = Outage(store_wh=1e4, overhead_w=0, loads=(lamp,), begins_h=18.5, hours=24)
        found = through_outage(asked)
        assert found.lasts and found.taken_wh["lamp"] == pytest.approx(800)
        assert found.left_wh == pytest.approx(9200)
        # From half past six in the evening it is three and a half hours until it is switched on.
        (at_3, at_4) = (next(x.wh for x in found.left if x.hour == h) for h in (3, 4))
        assert at_3 == 1e4 and at_4 == pytest.approx(1e4 - 50)

    def test_what_is_short_and_what_would_close_it(self):
        asked = Outage(store_wh=1000, overhead_w=15, loads=(fridge(),), hours=24)
        found = through_outage(asked)
        assert found.short_wh == pytest.approx(36 * (24 - 1000 / 51))
        assert found.more_wh == pytest.approx(24 * 51 - 1000) == found.more_sun_wh
        enough = Outage(store_wh=1000 + found.more_wh + 1e-6, overhead_w=15, loads=(fridge(),),
                        hours=24)  # fmt: skip
        assert through_outage(enough).lasts

    def test_a_kettle_at_the_beginning(self):
        heat = Heating(litres=1, from_c=20, to_c=100, efficiency=0.85)
        # 4186 J/(kg·K): 93.0 Wh into the water (handed down; CIPM).
        assert heat.into_water_wh == pytest.approx(93.0, abs=0.05)
        assert heat.from_outlet_wh == pytest.approx(109.4, abs=0.1)
        asked = Outage(store_wh=500, overhead_w=10, heat_wh=heat.from_outlet_wh)
        assert through_outage(asked).hours == pytest.approx((500 - heat.from_outlet_wh) / 10)
        too_much = through_outage(Outage(store_wh=50, overhead_w=10, heat_wh=109.4))
        assert too_much.hours == 0 and too_much.short_wh == pytest.approx(59.4)

    def test_sun_that_finds_it_full_is_spilled(self):
        sun = SunSteps(step_h=1.0, watts=(0, 0, 300, 300, 0))
        found = through_outage(Outage(store_wh=400, overhead_w=50, hours=6, sun=sun))
        # 100 Wh are used, 250 Wh an hour come in: 400 Wh are spilled of the 500.
        assert found.spilled_wh == pytest.approx(400) and found.lasts
        assert found.left_wh == pytest.approx(300)

    def test_an_outlet_that_went_off_stays_off(self):
        sun = SunSteps(step_h=1.0, watts=(0, 0, 0, 500, 500))
        asked = Outage(store_wh=100, overhead_w=0, hours=5, sun=sun, loads=(fridge(1.0),))
        found = through_outage(asked)
        assert found.hours == pytest.approx(100 / 90)
        assert found.short_wh == pytest.approx(90 * (5 - 100 / 90)) and found.left_wh == 0
        # 170 Wh are missing until the sun comes, whether in the store or from the sun.
        assert found.more_sun_wh == pytest.approx(170) == pytest.approx(found.more_wh)

    @pytest.mark.parametrize(
        "wrong",
        [
            {"store_wh": 0}, {"overhead_w": -1}, {"conversion": math.nan}, {"hours": 0},
            {"hours": 1e6}, {"heat_wh": math.inf},
        ],
    )  # fmt: skip
    def test_what_cannot_be_is_refused(self, wrong):
        with pytest.raises(ValueOutOfRangeError):
            Outage(**{"store_wh": 100, "overhead_w": 1, **wrong})
        for load in ({"watts": -1}, {"watts": 1, "duty": 2}, {"watts": 1, "from_h": 30}):
            with pytest.raises(ValueOutOfRangeError):
                OutageLoad(name="x", **load)


def test_200_random_outages_against_a_walk_in_small_steps():
    """Seconds are stepped through one after another, by nothing of the program's."""
    random = np.random.default_rng(4)
    for _ in range(200):
        store, overhead = random.uniform(200, 3000), random.uniform(0, 30)
        conversion, begins, hours = random.uniform(0, 0.2), random.uniform(0, 24), 36.0
        rows = [
            (random.uniform(5, 300), random.uniform(0.1, 1), *random.uniform(0, 24, 2))
            for _ in range(3)
        ]
        sun = random.uniform(0, 200, 36) * (random.uniform(0, 1, 36) < 0.3)
        loads = tuple(
            OutageLoad(name=str(i), watts=w, duty=d, from_h=a, to_h=b)
            for i, (w, d, a, b) in enumerate(rows)
        )
        found = through_outage(
            Outage(store_wh=store, overhead_w=overhead, conversion=conversion, loads=loads,
                   begins_h=begins, hours=hours, sun=SunSteps(step_h=1.0, watts=tuple(sun)))
        )  # fmt: skip
        step_h = 10 / 3600
        left, spilled, empty = store, 0.0, None
        for i in range(int(hours / step_h)):
            now = (i + 0.5) * step_h
            clock = (begins + now) % 24
            out = sum(
                w * d for w, d, a, b in rows
                if (a <= clock < b if a <= b else clock >= a or clock < b)
            )  # fmt: skip
            left += (sun[min(int(now), 35)] - out * (1 + conversion) - overhead) * step_h
            spilled += max(left - store, 0.0)
            left = min(left, store)
            if left <= 0:
                empty = now
                break
        assert (found.hours is None) == (empty is None)
        if empty is None:
            assert found.left_wh == pytest.approx(left, abs=2.0)
            assert found.spilled_wh == pytest.approx(spilled, abs=3.0)
        else:
            assert found.hours == pytest.approx(empty, abs=0.05)


class TestDisplay:
    def test_35_percent_after_15_hours(self):
        found = hours_more(35, 15 * 3600)
        assert found.hours == pytest.approx(35 / 65 * 15)
        # Both ends of the display anywhere within their half point, drawn.
        random = np.random.default_rng(1)
        first, last = (x + random.uniform(-0.5, 0.5, 200_000) for x in (100, 35))
        assert found.expanded_h == pytest.approx(2 * np.std(last / (first - last) * 15), rel=0.01)

    @pytest.mark.parametrize(("shown", "after"), [(100, 60), (-1, 60), (50, 0), (50, math.nan)])
    def test_a_display_that_did_not_fall_says_nothing(self, shown, after):
        with pytest.raises(ValueOutOfRangeError):
            hours_more(shown, after)


class TestPrice:
    def test_the_check_values(self):
        # Common practice, no source: 1299 for 1512 Wh, 2000 W, 800 W of solar gives 1.04.
        found = price_of(1299, Bought(rated_wh=1512, inverter_w=2000, solar_w=800))
        assert found.three_way == pytest.approx(1.04, abs=0.005)
        assert price_of(1100, Bought(rated_wh=1280)).per_rated_wh == pytest.approx(0.86, abs=0.005)
        charge = price_of(1, Bought(rated_wh=540, tariff=0.15)).per_charge
        assert charge == pytest.approx(0.08, abs=0.005)
        with_losses = price_of(1, Bought(rated_wh=540, tariff=0.15, round_trip=0.8)).per_charge
        assert with_losses == pytest.approx(0.15 * 0.54 / 0.8)

    def test_over_a_lifetime(self):
        found = price_of(1000, Bought(rated_wh=1000, usable_wh=850, cycles=3000))
        assert found.per_lifetime_kwh == pytest.approx(1000 / (3000 * 0.85))
        rated = price_of(1000, Bought(rated_wh=1000, cycles=3000))
        assert rated.per_lifetime_kwh == pytest.approx(1000 / 3000)

    def test_two_units_cost_the_same_per_wh_and_twice_a_charge(self):
        one = Bought(rated_wh=1000, tariff=0.2)
        both = price_of(2000, one.times(2))
        assert both.per_rated_wh == 1.0 and both.per_charge == pytest.approx(0.4)

    @pytest.mark.parametrize("wrong", [{"rated_wh": 0}, {"usable_wh": -1}, {"round_trip": 1.2}])
    def test_what_cannot_be_is_refused(self, wrong):
        with pytest.raises(ValueOutOfRangeError):
            Bought(**{"rated_wh": 1000, **wrong})
        with pytest.raises(ValueOutOfRangeError):
            price_of(0, Bought(rated_wh=1000))
