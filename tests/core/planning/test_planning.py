"""What to expect of a test, the checks before it, and the watch while it runs."""

import math
from dataclasses import replace

import numpy as np
import pytest

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.live.run_watch import LiveState, alarms, floor_suspected
from yardtoll.core.methods import METHODS
from yardtoll.core.methods.sources import CAR, SUN, USB_C, WALL, WALL_AND_SUN
from yardtoll.core.planning.checks import CheckState, Situation, start_checks
from yardtoll.core.planning.expected import (
    EarlierRun,
    constant_power_hours,
    expected_discharge,
    expected_idle,
    expected_recharge,
    money_for,
)
from yardtoll.core.planning.inputs import same_charge_s, source_w
from yardtoll.core.planning.wiring import Circuit, cord


class TestExpected:
    # Common practice, no source: AC delivers 85–90 % of rated at 0.2 C.
    def test_typical(self):
        found = expected_discharge(2048, 1.0, 410)
        assert 0.85 <= found.energy_wh / 2048 <= 0.90
        assert found.earliest_s < found.duration_s < found.latest_s
        assert found.duration_s == pytest.approx(found.energy_wh / 410 * 3600)
        assert "typical losses" in found.basis

    def test_a_slow_run_delivers_less(self):
        energies = [expected_discharge(2048, 1.0, w).energy_wh for w in (60, 200, 400, 1200)]
        assert energies == sorted(energies)

    def test_earlier_runs_at_the_same_load_give_their_own_figure(self):
        earlier = [EarlierRun(delivered_wh=800, duration_s=4 * 3600)]
        found = expected_discharge(1000, 1.0, 200, earlier)
        assert found.energy_wh == pytest.approx(800)
        assert found.half_width_wh == pytest.approx(16)
        assert found.basis == "1 earlier run of this station"
        assert expected_discharge(1000, 0.5, 200, earlier).energy_wh == pytest.approx(400)
        # At half the load the overhead counts twice as long.
        assert expected_discharge(1000, 1.0, 100, earlier).energy_wh < 800

    def test_the_curve_holds_the_energy(self):
        found = expected_discharge(1000, 1.0, 200)
        (t0, w0), (t1, w1) = found.curve[0], found.curve[-1]
        assert (t0, w0, w1) == (0, 200, 200) and t1 == pytest.approx(found.duration_s)
        assert expected_discharge(1000, 1.0, 200, cold_share=0.1).curve[0][1] == (
            pytest.approx(220)
        )

    def test_a_hold_ends_by_the_clock(self):
        found = expected_discharge(2048, 1.0, 2000, hold_s=1800)
        assert found.duration_s == found.earliest_s == found.latest_s == 1800
        assert found.energy_wh == pytest.approx(1000)
        short = expected_discharge(288, 1.0, 300, hold_s=24 * 3600)
        assert short.duration_s < 3600

    # Common practice, no source: hours = energy ÷ (V·A).
    @pytest.mark.parametrize(
        ("energy_wh", "power_w", "hours"), [(4500, 120, 37.5), (4500, 240, 18.75), (1280, 800, 1.6)]
    )
    def test_constant_power(self, energy_wh, power_w, hours):
        assert constant_power_hours(energy_wh, power_w) == pytest.approx(hours)

    def test_a_recharge_draws_more_than_it_stores_and_tapers(self):
        found = expected_recharge(1000, 1.0, 500)
        assert found.energy_wh == pytest.approx(1000 / 0.88)
        assert found.duration_s / 3600 > found.energy_wh / 500
        # 12 V × 10 A into 4500 Wh: 37.5 h without losses, and no taper at a fortieth of a C.
        trickle = expected_recharge(4500, 1.0, 120)
        assert trickle.duration_s / 3600 == pytest.approx(37.5 / 0.88, abs=0.1)
        assert "less power" not in trickle.basis
        flat = expected_recharge(1000, 0.8, 500, tapers=False)
        assert flat.duration_s / 3600 == pytest.approx(flat.energy_wh / 500)

    def test_idle_and_money(self):
        found = expected_idle(1280, 10 * 3600)
        assert found.energy_wh - found.half_width_wh == pytest.approx(64)  # 0.5 %/h
        assert found.energy_wh + found.half_width_wh == pytest.approx(256)  # 2 %/h
        # Common practice, no source: 0.54 kWh at 0.15 is 0.08.
        assert money_for(540, 0.15) == pytest.approx(0.081)


ALL = frozenset({"charged", "unplugged", "zeroed", "cooled", "cautions"})
SETTINGS = {"floor": "0", "charge_mode": "standard", "voltage_lowering": "off",
            "auto_off": "off", "ups": "not there"}  # fmt: skip
READY = Situation(
    method=METHODS["capacity_ac"], rated_w=2000, soc=(100, 0), power_w=410, hours=4.4,
    meter_name="M", meter_w=1800, meter_a=15, confirmed=ALL, settings=SETTINGS, temperature_c=20,
)  # fmt: skip


def stopping(**changes):
    return [check for check in start_checks(replace(READY, **changes)) if check.stops]


class TestGates:
    def test_all_open(self):
        assert stopping() == []

    def test_every_tick_is_asked_for(self):
        keys = [g.key for g in stopping(confirmed=frozenset(), rested_s=600)]
        assert keys == ["charged", "unplugged", "zeroed", "cooled", "cautions"]

    @pytest.mark.parametrize(
        ("changes", "said"),
        [
            ({"soc": (10, 90)}, "must fall"),
            ({"method": METHODS["recharge_wall"], "soc": (90, 10)}, "must rise"),
            ({"power_w": None}, "No power to plan with"),
            ({"power_w": 2400, "meter_w": 5000, "meter_a": 30}, "it would trip"),
            ({"power_w": 1900}, "meters have burnt this way"),
            ({"power_w": 1900, "meter_w": None}, "15.8 A is above what M may carry"),
            ({"power_w": 1700, "meter_minutes": 30}, "may carry so much for 30 min"),
            ({"meter_reads": (0.0, 12.3)}, "counter shows 12.30 Wh: zero it"),
            ({"meter_reads": (35.0, 0.0)}, "something is on"),
            ({"settings": {**SETTINGS, "floor": ""}}, "Not noted yet: discharge floor"),
            ({"settings": {**SETTINGS, "floor": "ten"}}, "must be a figure"),
            ({"settings": {**SETTINGS, "floor": "10 %"}}, "so the station ends there"),
            ({"circuit": Circuit(breaker_a=4, volts=120)}, "80 % for 3 h or more: 384 W"),
            ({"cord": cord(5, "18 AWG", 3)}, "above what the cord may carry"),
            ({"temperature_c": -3}, "outside 0–40 °C"),
            ({"method": METHODS["recharge_sun"], "soc": (0, 100),
              "missing": ("Solar adapter", "Bag")}, "needed for this: Solar adapter."),
            ({"troubles": ("Another run is going; one at a time.",)}, "one at a time"),
        ],
    )  # fmt: skip
    def test_what_stops_a_start(self, changes, said):
        found = stopping(**changes)
        assert any(said in check.text for check in found), [g.text for g in found]

    def test_only_what_makes_no_run_is_hard(self):
        assert [g.hard for g in stopping(power_w=None)] == [True]
        assert [g.hard for g in stopping(temperature_c=50)] == [False]

    def test_notes_do_not_stop(self):
        notes = [g for g in start_checks(replace(READY, power_w=1700, simulated=True,
                                          cord=cord(30, "18 AWG", 20)))
                 if g.state is CheckState.NOTE]  # fmt: skip
        assert [g.key for g in notes] == ["meter", "cord", "simulated"]
        assert "feel whether it gets hot" in notes[0].text and "more than 5 %" in notes[1].text
        assert stopping(power_w=1700) == []

    def test_a_floor_that_is_planned_to_is_no_trouble(self):
        assert stopping(settings={**SETTINGS, "floor": "10"}, soc=(100, 10)) == []

    def test_a_meter_that_was_asked_needs_no_tick(self):
        assert stopping(confirmed=ALL - {"zeroed"}, meter_reads=(0.1, 0.0)) == []

    def test_a_meter_that_tells_only_part_is_not_taken_as_zeroed(self):
        silent = {"confirmed": ALL - {"zeroed"}, "meter_reads": (0.1, math.nan)}
        (asks,) = stopping(**silent)
        assert asks.by_hand and "no counter to be read: zeroed?" in asks.text
        assert stopping(**{**silent, "confirmed": ALL}) == []
        assert stopping(confirmed=ALL - {"zeroed"}, meter_reads=(math.nan, 0.0)) == []

    def test_an_overload_is_meant(self):
        assert stopping(method=METHODS["overload"], power_w=2200, meter_w=None, meter_a=None) == []


QUIET = LiveState(
    answering=True, power_w=410.0, volts=119.0, elapsed_s=600, delivered_wh=60, target_w=412,
    rated_w=2000, nominal_v=120, meter_w=1800,
)  # fmt: skip


class TestWatch:
    def test_all_quiet(self):
        assert alarms(QUIET) == []

    @pytest.mark.parametrize(
        ("changes", "said", "bad"),
        [
            ({"answering": False}, "does not answer", True),
            ({"power_w": None}, "Waiting for the first sample", False),
            ({"power_w": 1700.0, "target_w": None}, "at the meter's limit", True),
            ({"power_w": 2100.0, "meter_w": None, "target_w": None}, "it may trip", True),
            ({"input_w": 120.0}, "120 W coming in", True),
            ({"soc": (80, 82)}, "rose from 80 to 82 %", True),
            ({"power_w": 0.5}, "No load seen", True),
            ({"power_w": 0.5, "delivered_wh": 0}, "No load seen", False),
            ({"volts": 104.0}, "13% below the nominal 120 V", True),
            ({"power_w": 440.0}, "off the target of 412 W", True),
        ],
    )
    def test_what_is_wrong_in_words(self, changes, said, bad):
        (found,) = alarms(replace(QUIET, **changes))
        assert said in found.text and found.bad is bad

    def test_a_warming_load_is_let_be(self):
        assert alarms(replace(QUIET, power_w=450.0, elapsed_s=60)) == []

    def test_a_floor_that_nobody_noted(self):
        assert floor_suspected(10, 0) == (
            "it shut off with about 10 % on the display, and a floor of 0 % was noted"
        )
        assert floor_suspected(10, 10) == floor_suspected(2, 0) == floor_suspected(None, 0) == ""


class TestInputs:
    def test_a_car_socket_by_volts_and_amps_and_the_weaker_of_array_and_claim(self):
        claims = [Claim(kind="solar_w", value=400), Claim(kind="car_in_a", value=10)]
        found = [
            source_w(s, claims, 1000, array_w=300) for s in (WALL, CAR, USB_C, WALL_AND_SUN, SUN)
        ]
        assert found == [500, 120, 60, 800, 300]
        assert source_w(SUN, [], 1000) is None

    def test_hours_are_energy_over_volts_times_amps(self):
        # Common practice, no source: 4500 Wh at 12 V × 10 A take 37.5 h.
        t = np.array([0.0, 4 * 3600])
        assert same_charge_s(t, np.full(2, 1125.0), 120) == pytest.approx(37.5 * 3600)

    def test_the_taper_takes_its_own_time_and_pauses_none(self):
        t = np.arange(0, 3 * 3600 + 1, 60.0)
        power = np.select([t <= 3600, t <= 7200], [600.0, 0.0], 100.0)
        # An hour at 600 W takes two at 300; the last hour at 100 W stays one.
        assert same_charge_s(t, power, 300) == pytest.approx(3 * 3600, rel=0.01)
