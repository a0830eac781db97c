"""How far an outage's answer may be off: against slopes, against slow walks, against a table."""

import math

import numpy as np
import pytest
from uncertainties import correlated_values

from yardtoll.core.endurance.duty import duty_of
from yardtoll.core.endurance.outage import (
    Feed,
    Outage,
    OutageLoad,
    SunSteps,
    changes_of,
    through_outage,
)
from yardtoll.core.endurance.spread import Unsure, spread_of
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError

HILL = [max(500 * math.sin((h / 4 - 6) / 12 * math.pi), 0.0) if 6 < h / 4 % 24 < 18 else 0.0
        for h in range(96)] * 3  # fmt: skip


def any_outage(random):
    """An outage as there might be one."""
    loads = tuple(
        OutageLoad(
            name=f"load {i}",
            watts=float(random.uniform(10, 400)),
            duty=float(random.uniform(0.1, 1)),
            from_h=float(random.uniform(0, 24)) if random.random() < 0.5 else None,
            to_h=float(random.uniform(0, 24)),
        )
        for i in range(4)
    )
    sun = SunSteps(step_h=0.25, watts=HILL, cap_w=300.0, share=0.7, efficiency=0.9)
    feed = Feed(name="generator", watts=600, from_h=float(random.uniform(0, 24)),
                to_h=float(random.uniform(0, 24)), efficiency=0.9)  # fmt: skip
    return Outage(
        store_wh=float(random.uniform(200, 4000)),
        overhead_w=float(random.uniform(3, 30)),
        conversion=0.06,
        ohmic_per_w=1e-5,
        loads=loads,
        sun=sun if random.random() < 0.6 else None,
        feeds=(feed,) if random.random() < 0.4 else (),
        begins_h=float(random.uniform(0, 24)),
    )


def walked(asked, step_h=0.002):
    """(h it is first empty, Wh that came in, Wh of each kind): small steps, another way of going.

    Written from the words of the model: battery = overhead + out·(1 + conversion) + ohmic·E[out²];
    off when empty, on again when a charger is plugged in.
    """
    left, empty, off, fed_before, served = asked.store_wh, None, False, False, 0.0
    for i in range(int(asked.hours / step_h)):
        h = (i + 0.5) * step_h
        on = [load for load in asked.loads if load.is_on(asked.begins_h + h)]
        out = sum(load.watts * load.duty for load in on)
        second = out**2 + sum(load.watts**2 * load.duty * (1 - load.duty) for load in on)
        inflow = 0.0
        if asked.sun is not None:
            watts = asked.sun.share * asked.sun.watts[min(int(h / 0.25), len(HILL) - 1)]
            inflow += asked.sun.efficiency * min(watts, asked.sun.cap_w)
        fed = [f for f in asked.feeds if f.is_on(asked.begins_h + h)]
        if fed and not fed_before:
            off = False
        fed_before = bool(fed)
        inflow += sum(f.watts * f.efficiency for f in fed)
        drain = 0.0
        if not off:
            drain = asked.overhead_w + out * (1 + asked.conversion) + asked.ohmic_per_w * second
            served += out * step_h
        left = min(left + (inflow - drain) * step_h, asked.store_wh)
        if left < 0:
            left, off = 0.0, True
            empty = h if empty is None else empty
    return empty, left, served


def test_two_ways_of_going_and_all_draws_at_once_agree():
    random = np.random.default_rng(3)
    for _ in range(200):
        asked = any_outage(random)
        found, spread = through_outage(asked), spread_of(asked, Unsure(), draws=8)
        if found.hours is None:
            assert spread.lasts_share == 1 and spread.low_h is None is spread.high_h
        else:
            assert spread.low_h == pytest.approx(found.hours, abs=1e-6) == spread.high_h
            assert spread.lasts_share == 0
        course = {point.hour: point.wh for point in found.course}
        for point in spread.band:
            assert point.low_wh == pytest.approx(course[point.hour], abs=1e-6)
        gave = found.sun_wh + found.fed_wh + asked.store_wh
        lost = sum(found.taken_wh.values())
        assert gave > lost and sum(end - begin for begin, end in found.off) <= asked.hours


def test_against_small_steps():
    random = np.random.default_rng(4)
    for _ in range(12):
        asked = any_outage(random)
        found = through_outage(asked)
        empty_h, left_wh, served_wh = walked(asked)
        assert (found.hours is None) is (empty_h is None)
        if empty_h is not None:
            assert found.hours == pytest.approx(empty_h, abs=0.02)
        assert sum(found.taken_wh.values()) == pytest.approx(served_wh, abs=4)
        assert found.course[-1].wh == pytest.approx(left_wh, abs=4)


def test_the_slope_of_a_plain_outage():
    # hours = E ÷ (p0 + P·(1 + p1) + p2·P²), by the uncertainties package, terms correlated.
    centre = [1000.0, 12.0, 0.05, 2e-5]
    root = np.array([[15, 0, 0, 0], [0.8, 0.9, 0, 0], [0, 0, 0.008, 0], [1e-6, 0, 0, 2e-6]])
    covariance = root @ root.T
    e0, p0, p1, p2 = correlated_values(centre, covariance)
    hours = e0 / (p0 + 60 * (1 + p1) + p2 * 60**2)
    asked = Outage(
        store_wh=1000, overhead_w=12, conversion=0.05, ohmic_per_w=2e-5,
        loads=(OutageLoad(name="lamp", watts=60),),
    )  # fmt: skip
    spread = spread_of(asked, Unsure(covariance=covariance), draws=4000)
    assert through_outage(asked).hours == pytest.approx(hours.n)
    assert (spread.high_h - spread.low_h) / 4 == pytest.approx(hours.s, rel=0.04)
    alone = spread_of(asked, Unsure(covariance=np.diag(np.diag(covariance))), draws=4000)
    assert alone.high_h - alone.low_h != pytest.approx(spread.high_h - spread.low_h, rel=0.05)


def test_appliances_and_weather_between_their_ends():
    lamp = OutageLoad(name="lamp", watts=50)
    asked = Outage(store_wh=1000, overhead_w=0, loads=(lamp,))
    spread = spread_of(asked, Unsure(loads=((0.8, 1.2),)), draws=2000)
    # 95 % of all that lies evenly between 40 and 60 W.
    assert spread.low_h == pytest.approx(1000 / 59.55, rel=0.01)
    assert spread.high_h == pytest.approx(1000 / 40.45, rel=0.01)
    sunny = Outage(store_wh=1000, overhead_w=0, loads=(lamp,), hours=30,
                   sun=SunSteps(step_h=1.0, watts=[20.0] * 30, share=0.5))  # fmt: skip
    by_weather = spread_of(sunny, Unsure(sun=(0.0, 1.0)), draws=2000)
    assert by_weather.low_h == pytest.approx(1000 / (50 - 20 * 0.02275), rel=0.01)
    assert by_weather.high_h is None and 0 < by_weather.lasts_share < 1
    with pytest.raises(ValueOutOfRangeError):
        Unsure(loads=((1.2, 0.8),))
    with pytest.raises(ValueOutOfRangeError):
        Unsure(covariance=np.zeros((3, 3)))


def test_a_generator_switches_the_outlet_on_again():
    lamp = OutageLoad(name="lamp", watts=100)
    evening = Feed(name="generator", watts=500, from_h=20, to_h=22, efficiency=0.8)
    asked = Outage(store_wh=500, overhead_w=0, loads=(lamp,), feeds=(evening,), hours=24)
    found = through_outage(asked)
    assert found.hours == pytest.approx(5) and found.off == ((5.0, 20.0),)
    # 800 Wh in less 200 Wh of the lamp would be 600: the store is full with 500.
    assert found.fed_wh == pytest.approx(700) and found.spilled_wh == 0
    assert found.course[-1].wh == pytest.approx(500 - 200)
    assert found.short_wh == pytest.approx(1500) and not found.lasts


def test_a_cap_keeps_out_what_a_full_store_spills():
    sun = SunSteps(step_h=1.0, watts=[400.0] * 10, cap_w=300.0, efficiency=0.5)
    asked = Outage(store_wh=1000, overhead_w=50, sun=sun, hours=10)
    found = through_outage(asked)
    assert found.over_cap_wh == pytest.approx(1000)
    assert found.sun_wh == pytest.approx(500) and found.spilled_wh == pytest.approx(1000)
    assert changes_of(asked)[-1] == 10


class TestDuty:
    def log(self, period_s=1800.0, duty=0.4, on_w=90.0, off_w=1.5, start_w=420.0, hours=12):
        time_s = np.arange(0, hours * 3600.0, 1.0)
        phase = (time_s + 700) % period_s
        power = np.where(phase < duty * period_s, on_w, off_w)
        power[phase < 1.0] = start_w
        return time_s, power

    def test_a_fridge_by_hand(self):
        found = duty_of(*self.log())
        mean_w = 0.4 * 90 + 0.6 * 1.5 + (420 - 90) / 1800
        assert found.duty == pytest.approx(0.4, abs=0.002)
        assert found.mean_w == pytest.approx(mean_w, rel=0.01)
        assert found.watts * found.duty == pytest.approx(found.mean_w)
        assert found.start_w == 420 and found.cycles == 23
        assert found.daily_wh == pytest.approx(24 * mean_w, rel=0.01)
        assert found.expanded_w < 0.2

    def test_cycles_that_differ_are_less_sure(self):
        random = np.random.default_rng(5)
        parts = []
        for _ in range(10):
            on, off = int(random.uniform(500, 900)), int(random.uniform(800, 1500))
            parts += [np.full(on, 90.0), np.full(off, 1.0)]
        power = np.concatenate(parts)
        found = duty_of(np.arange(power.size, dtype=float), power)
        assert 0.05 * found.mean_w < found.expanded_w < 0.4 * found.mean_w

    def test_what_never_switches_has_no_cycles(self):
        time_s = np.arange(0, 3600.0)
        found = duty_of(time_s, 60 + np.sin(time_s / 60))
        assert (found.duty, found.cycles, found.expanded_w) == (1.0, 0, None)
        assert found.watts == pytest.approx(60, rel=0.01)
        few = duty_of(*self.log(hours=1.0))
        assert few.cycles < 3 and few.expanded_w is None

    def test_nothing_is_no_appliance(self):
        with pytest.raises(UnusableDataError, match="drew nothing"):
            duty_of(np.arange(100.0), np.zeros(100))
        with pytest.raises(UnusableDataError, match="too few"):
            duty_of(np.arange(3.0), np.ones(3))
