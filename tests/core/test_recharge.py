"""Recharges: energy, phases of many shapes, times to a state of charge, efficiencies."""

import math
from dataclasses import replace

import numpy as np
import pytest

from yardtoll.core.charge.analysis import (
    ChargeWindow,
    analyse_recharge,
    recharge_from_energy,
)
from yardtoll.core.charge.phases import PhaseName, find_phases, full_power_w
from yardtoll.core.charge.soc_times import SocReading, time_between
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Code, Trace
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError

STEP_S = 5.0
RAMP, FULL, TAPER, TOP, PAUSE = (
    PhaseName.RAMP_IN,
    PhaseName.FULL_POWER,
    PhaseName.TAPER,
    PhaseName.TOP_OFF,
    PhaseName.PAUSED,
)


def power_of(*parts, noise_w=2.0):
    """(minutes, W at start, W at end) one after another; half a minute of nothing before."""
    power = np.concatenate([np.linspace(a, b, int(m * 60 / STEP_S)) for m, a, b in parts])
    random = np.random.default_rng(7)
    noisy = np.where(power > 0, power + random.normal(0, noise_w, power.size), 0.0)
    return np.concatenate([np.zeros(6), np.maximum(noisy, 0.0), np.zeros(30)])


def trace(*parts, volts=None, noise_w=2.0, **columns):
    power = power_of(*parts, noise_w=noise_w)
    found = {Quantity.POWER: power}
    if volts is not None:
        found[Quantity.VOLTS] = volts(power)
    found |= {Quantity(name): values for name, values in columns.items()}
    return Trace(name="wall.csv", time_s=STEP_S * np.arange(power.size), columns=found)


SHAPES = {
    "no taper": ([(60, 500, 500)], [(FULL, 60)]),
    "taper": ([(60, 500, 500), (30, 500, 60)], [(FULL, 60), (TAPER, 30)]),
    "ramp-in": (
        [(8, 100, 500), (60, 500, 500), (30, 500, 60)],
        [(RAMP, 8), (FULL, 60), (TAPER, 30)],
    ),
    "held back at first": ([(10, 80, 80), (60, 500, 500)], [(RAMP, 10), (FULL, 60)]),
    "top-off": (
        [(60, 500, 500), (30, 500, 60), (20, 45, 45)],
        [(FULL, 60), (TAPER, 30), (TOP, 20)],
    ),
    "pause for heat": (
        [(40, 500, 500), (15, 5, 5), (30, 500, 500), (20, 500, 50)],
        [(FULL, 40), (PAUSE, 15), (FULL, 30), (TAPER, 20)],
    ),
    "two pauses": (
        [(30, 800, 800), (10, 6, 6), (20, 800, 800), (10, 6, 6), (20, 800, 800)],
        [(FULL, 30), (PAUSE, 10), (FULL, 20), (PAUSE, 10), (FULL, 20)],
    ),
    "three steps down": (
        [(30, 1400, 1400), (20, 1000, 1000), (20, 600, 600), (15, 600, 50)],
        [(FULL, 30), (FULL, 20), (FULL, 20), (TAPER, 15)],
    ),
    "steps without taper": ([(30, 1400, 1400), (20, 700, 700)], [(FULL, 30), (FULL, 20)]),
    "input lost and back": (
        [(30, 500, 500), (10, 0, 0), (30, 500, 500), (20, 500, 60)],
        [(FULL, 30), (PAUSE, 10), (FULL, 30), (TAPER, 20)],
    ),
    "slow taper": ([(60, 300, 300), (120, 300, 30)], [(FULL, 60), (TAPER, 120)]),
}


class TestPhases:
    @pytest.mark.parametrize("name", SHAPES)
    def test_every_shape_is_told(self, name):
        parts, expected = SHAPES[name]
        result = analyse_recharge(trace(*parts), ChargeWindow(rated_wh=1000))
        assert [phase.name for phase in result.phases] == [phase for phase, _ in expected]
        for phase, (_, minutes) in zip(result.phases, expected, strict=True):
            assert (phase.end_s - phase.start_s) / 60 == pytest.approx(minutes, abs=1.0)

    def test_they_follow_on_each_other_from_start_to_end(self):
        result = analyse_recharge(trace(*SHAPES["pause for heat"][0]), ChargeWindow(rated_wh=1000))
        ends = [p.end_s for p in result.phases]
        assert [p.start_s for p in result.phases] == [result.start_s, *ends[:-1]]
        assert ends[-1] == pytest.approx(result.start_s + result.duration_s)

    def test_an_exponential_taper_is_one(self):
        t = np.arange(0, 105 * 60, STEP_S)
        power = np.where(t < 3600, 500, 20 + 480 * np.exp(-(t - 3600) / 720))
        names = [p.name for p in find_phases(t, power, 0, float(t[-1]))]
        assert names == [FULL, TAPER]

    def test_full_power_is_what_is_held_not_a_spike(self):
        assert full_power_w(power_of((60, 500, 500), (1, 900, 900))) == pytest.approx(505, abs=5)
        assert full_power_w(np.zeros(5)) == 0

    def test_a_stretch_too_short_to_tell_is_no_phase(self):
        t = np.array([0.0, 5.0])
        assert find_phases(t, np.array([400.0, 400.0]), 0, 5) == ()


class TestEnergy:
    def test_drawn_duration_mean_and_peak(self):
        result = analyse_recharge(trace((60, 500, 500), (30, 500, 60)), ChargeWindow(rated_wh=600))
        # By hand: 500 Wh at full power and half an hour at 280 W on the mean.
        assert result.drawn_wh == pytest.approx(640, rel=0.005)
        assert result.duration_s == pytest.approx(90 * 60, abs=10)
        assert result.mean_w == pytest.approx(result.drawn_wh / result.duration_s * 3600)
        assert 500 < result.peak_w < 510 and result.start_s == 27.5
        assert result.full_power_w == pytest.approx(500, abs=3)
        assert result.notices == ()

    def test_a_counter_alone_gives_energy_and_phases(self):
        power = power_of((60, 500, 500), noise_w=0.0)
        counter = np.round(np.cumsum(power) * STEP_S / 3600, 1)
        t = STEP_S * np.arange(power.size)
        only = Trace(name="c", time_s=t, columns={Quantity.ENERGY: counter})
        result = analyse_recharge(only, ChargeWindow(rated_wh=600))
        assert result.drawn_wh == pytest.approx(500, abs=1)
        assert [p.name for p in result.phases] == [FULL]
        assert result.full_power_w == pytest.approx(500, abs=2) and result.peak_w is None

    def test_what_is_wrong_with_the_log_is_told(self):
        power = power_of((60, 500, 500))[6:600]
        t = STEP_S * np.arange(power.size)
        cut = Trace(name="cut.csv", time_s=t, columns={Quantity.POWER: power})
        result = analyse_recharge(cut, ChargeWindow(rated_wh=600))
        codes = {n.code for n in result.notices}
        assert codes == {Code.STARTS_LOADED, Code.NO_END, Code.DRAWN_TOO_LITTLE}

    def test_a_lost_input_and_a_pause_are_told_apart(self):
        lost = analyse_recharge(trace(*SHAPES["input lost and back"][0]), ChargeWindow(rated_wh=1))
        hot = analyse_recharge(trace(*SHAPES["pause for heat"][0]), ChargeWindow(rated_wh=1))
        assert lost.has(Code.INPUT_LOST) and not hot.has(Code.INPUT_LOST)
        assert "for 9.9 min" in lost.notices[0].message

        def live_wall(power):
            return np.full(power.size, 121.0)

        seen = analyse_recharge(
            trace(*SHAPES["input lost and back"][0], volts=live_wall), ChargeWindow(rated_wh=1)
        )
        assert not seen.has(Code.INPUT_LOST)  # the wall was there all the time

    def test_nothing_drawn(self):
        t = np.arange(100.0)
        nothing = Trace(name="n", time_s=t, columns={Quantity.POWER: np.zeros(100)})
        with pytest.raises(UnusableDataError, match="never rises above 2 W"):
            analyse_recharge(nothing, ChargeWindow(rated_wh=1))
        bare = Trace(name="v", time_s=t, columns={Quantity.VOLTS: np.ones(100)})
        with pytest.raises(UnusableDataError, match="neither two power samples"):
            analyse_recharge(bare, ChargeWindow(rated_wh=1))


class TestStateOfCharge:
    READINGS = (SocReading(s=0, soc=0), SocReading(s=1800, soc=60), SocReading(s=3600, soc=100))

    def test_readings_and_what_lies_between(self):
        result = recharge_from_energy(640, ChargeWindow(rated_wh=600), readings=self.READINGS)
        # 80 % is between readings 40 points apart, and no power log says when.
        assert [(at.soc, at.s) for at in result.to_soc] == [(0, 0), (60, 1800), (100, 3600)]
        assert result.has(Code.NOT_BRACKETED)
        # By hand: 60 points in 1800 s, half a point is 15 s; 40 points, the slower side: 22.5 s.
        assert [at.plus_minus_s for at in result.to_soc] == [15, 22.5, 22.5]

    def test_between_close_readings_any_moment_is_possible(self):
        close = (SocReading(s=3000, soc=75), SocReading(s=3300, soc=85))
        result = recharge_from_energy(640, ChargeWindow(rated_wh=600), readings=close)
        at_80 = next(at for at in result.to_soc if at.soc == 80)
        assert (at_80.s, at_80.plus_minus_s) == (3150, 150)

    def test_a_power_log_places_the_time_by_energy(self):
        # 500 W for an hour, then 100 W for an hour: 80 % of the energy is there after 57.6 min.
        log = trace((60, 500, 500), (60, 100, 100), noise_w=0.0)
        ends = (SocReading(s=0, soc=0), SocReading(s=7200, soc=100))
        result = analyse_recharge(log, ChargeWindow(rated_wh=550), ends)
        at_80 = next(at for at in result.to_soc if at.soc == 80)
        assert at_80.s == pytest.approx(0.96 * 3600, abs=30)
        # Half a point and a tenth of the 20 points to the nearest reading: 2.5 of 6 Wh each, the
        # last 15 Wh of them at 500 W.
        assert at_80.plus_minus_s >= 15 / 500 * 3600 * 0.9

    def test_a_logs_own_state_of_charge_is_read(self):
        log = trace((60, 500, 500), noise_w=0.0)
        soc = np.clip(np.floor((log.time_s - 30) / 36), 0, 100)
        whole = replace(log, columns={**log.columns, Quantity.SOC: soc})
        result = analyse_recharge(whole, ChargeWindow(rated_wh=480))
        at_80 = next(at for at in result.to_soc if at.soc == 80)
        assert at_80.s == pytest.approx(2880, abs=40) and result.soc == (0, 100)

    def test_100_is_not_told_unless_it_was_seen(self):
        result = recharge_from_energy(1, ChargeWindow(rated_wh=1), readings=self.READINGS[:2])
        assert [at.soc for at in result.to_soc] == [0, 60]

    def test_falling_readings_are_left_out_and_told(self):
        bad = (*self.READINGS[:2], SocReading(s=2000, soc=55), self.READINGS[2])
        result = recharge_from_energy(1, ChargeWindow(rated_wh=1), readings=bad)
        assert 55 not in [at.soc for at in result.to_soc]
        assert result.notices[0].code is Code.READINGS_NOT_RISING
        assert "55 % at 0:33:20" in result.notices[0].message

    def test_a_display_that_stands_still_has_no_slope(self):
        still = (SocReading(s=0, soc=99), SocReading(s=600, soc=99))
        result = recharge_from_energy(1, ChargeWindow(rated_wh=1), readings=still)
        assert [(at.soc, at.s, at.plus_minus_s) for at in result.to_soc] == [(99, 0, None)]

    def test_the_window_is_as_read_where_it_is_not_stated(self):
        result = recharge_from_energy(
            500, ChargeWindow(rated_wh=600), duration_s=3600, readings=self.READINGS[1:]
        )
        assert result.soc == (0, 100)
        begun = (SocReading(s=10, soc=20), SocReading(s=3590, soc=90))
        result = recharge_from_energy(
            500, ChargeWindow(rated_wh=600), duration_s=3600, readings=begun
        )
        assert result.soc == (20, 90)
        assert result.charge_efficiency == pytest.approx(0.7 * 600 / 500)

    def test_a_stated_window_that_the_display_denies(self):
        window = ChargeWindow(rated_wh=600, soc_from=10, soc_to=100)
        result = recharge_from_energy(500, window, duration_s=3600, readings=self.READINGS)
        assert result.notices[0].code is Code.WINDOWS_DIFFER
        assert "begins at 0 %, not at 10 %" in result.notices[0].message

    def test_ending_below_the_start_is_a_warning_and_no_figure(self):
        result = recharge_from_energy(500, ChargeWindow(rated_wh=600, soc_from=90, soc_to=10))
        assert result.has(Code.ENDS_BELOW_START) and result.charge_efficiency is None

    @pytest.mark.parametrize("reading", [SocReading(s=0, soc=101), SocReading(s=-1, soc=5)])
    def test_readings_that_cannot_be_meant(self, reading):
        with pytest.raises(ValueOutOfRangeError, match="reading of the display"):
            recharge_from_energy(1, ChargeWindow(rated_wh=1), readings=[reading])


class TestEfficiency:
    # Common practice, no source: 1560 Wh delivered, 1947 Wh from the wall, 10 → 100 %.
    def test_round_trip_and_charge_efficiency_are_never_mixed(self):
        window = ChargeWindow(rated_wh=2048, soc_from=10, soc_to=100, delivered_wh=1560)
        result = recharge_from_energy(1947, window)
        assert result.round_trip == pytest.approx(0.801, abs=0.0005)
        assert result.charge_efficiency == pytest.approx(0.9 * 2048 / 1947)
        assert result.efficiency_basis == "rated"
        fitted = recharge_from_energy(1947, ChargeWindow(rated_wh=2048, stored_wh=1700))
        assert fitted.charge_efficiency == pytest.approx(1700 / 1947)
        assert fitted.efficiency_basis == "fitted_store" and fitted.round_trip is None

    def test_more_out_than_in_is_told(self):
        result = recharge_from_energy(500, ChargeWindow(rated_wh=600, delivered_wh=510))
        # An efficiency above one is no figure.
        assert result.round_trip is None and result.charge_efficiency is None
        assert {n.code for n in result.notices} == {
            Code.DELIVERED_ABOVE_DRAWN, Code.DRAWN_TOO_LITTLE,
        }  # fmt: skip

    def test_values_out_of_range(self):
        for window in ({"rated_wh": 0}, {"rated_wh": 1, "soc_from": -1},
                       {"rated_wh": 1, "delivered_wh": -1}):  # fmt: skip
            with pytest.raises(ValueOutOfRangeError):
                ChargeWindow(**window)
        for bad in ({"drawn_wh": -1}, {"drawn_wh": 1, "duration_s": 0}):
            with pytest.raises(ValueOutOfRangeError):
                recharge_from_energy(window=ChargeWindow(rated_wh=1), **bad)


class TestTimeBetween:
    READINGS = (SocReading(s=0, soc=0), SocReading(s=1800, soc=60), SocReading(s=3600, soc=100))

    def test_by_straight_line_with_both_ends_steps(self):
        found = time_between(self.READINGS, 0, 60)
        assert found.s == pytest.approx(1800)
        # Half a point is 15 s at 2 points a minute and 22.5 s at 4 points in three minutes.
        assert found.plus_minus_s == pytest.approx(math.hypot(15, 22.5))
        with pytest.raises(UnusableDataError, match="over 25 points apart"):
            time_between(self.READINGS, 30, 80)

    @pytest.mark.parametrize(
        ("low", "high", "words"),
        [
            (80, 80, "80 % is not above 80 %"),
            (0, 101, "the display was read from 0 to 100 % only"),
        ],
    )
    def test_what_cannot_be_told(self, low, high, words):
        with pytest.raises(UnusableDataError, match=words):
            time_between(self.READINGS, low, high)

    def test_one_reading_is_not_enough(self):
        with pytest.raises(UnusableDataError, match="less than twice"):
            time_between(self.READINGS[:1], 0, 1)
