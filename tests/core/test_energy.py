"""Trapezoid, counters and their steps, and energy as it must always behave."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardtoll.core.electrical.energy import (
    counter_step_wh,
    disagreement,
    gaps_between,
    join_counter,
    slice_between,
    trapezoid_wh,
)
from yardtoll.core.electrical.timebase import sampling_of


class TestTrapezoid:
    def test_an_hour_at_one_watt_is_one_watt_hour(self):
        assert trapezoid_wh(np.array([0.0, 3600]), np.array([1.0, 1])) == 1

    def test_a_parabola_errs_by_the_known_term(self):
        # ∫0^1 x² dx = 1/3; the trapezoid with n steps adds 1/(6n²), from the Euler–Maclaurin sum.
        n = 50
        x = np.linspace(0, 1, n + 1)
        assert trapezoid_wh(3600 * x, x**2) == pytest.approx(1 / 3 + 1 / (6 * n**2), rel=1e-12)

    def test_one_sample_holds_no_energy(self):
        assert trapezoid_wh(np.array([5.0]), np.array([400.0])) == 0

    @given(
        st.lists(st.floats(0, 3000), min_size=2, max_size=40),
        st.lists(st.floats(0, 1), min_size=0, max_size=40),
    )
    def test_resampling_between_samples_changes_nothing(self, power, extra):
        t = np.arange(len(power)) * 10.0
        finer = np.unique(np.concatenate([t, np.array(extra) * t[-1]]))
        before = trapezoid_wh(t, np.array(power))
        after = trapezoid_wh(finer, np.interp(finer, t, power))
        assert after == pytest.approx(before, rel=1e-9, abs=1e-9)

    @given(st.lists(st.floats(0, 3000), min_size=3, max_size=40), st.integers(1, 38))
    def test_parts_add_up_to_the_whole(self, power, cut):
        cut = min(cut, len(power) - 2)
        t, p = np.arange(len(power)) * 7.0, np.array(power)
        parts = trapezoid_wh(t[: cut + 1], p[: cut + 1]) + trapezoid_wh(t[cut:], p[cut:])
        assert parts == pytest.approx(trapezoid_wh(t, p), rel=1e-9, abs=1e-12)


@pytest.mark.parametrize(
    ("readings", "step"),
    [
        ([0, 1.1, 2.3, 7.8], 0.1),
        ([0, 10, 30, 1870], 10),
        ([512.55, 512.6, 513.05], 0.05),
        ([0, 0.001, 0.013], 0.001),
        ([7, 7, 7], 0),
        ([0, 500, 1500], 500),
    ],
)
def test_a_counters_step_is_the_largest_round_one_that_fits(readings, step):
    assert counter_step_wh(np.array(readings, dtype=float)) == pytest.approx(step)


class TestJoinedCounter:
    T = np.arange(7.0) * 60

    def test_offset_is_removed_and_falls_of_jitter_ignored(self):
        counter = join_counter(self.T, np.array([100, 101, 102, 101.99, 103, 104, 105.0]), None)
        assert counter.energy_wh[-1] == pytest.approx(5.01)
        assert counter.reset_times_s == ()

    def test_a_restart_lies_between_the_new_reading_and_the_rate_before(self):
        counter = join_counter(self.T, np.array([90, 95, 100, 3, 8, 13, 18.0]), None)
        # Between 3 Wh and the 5 Wh an interval that went before: 4 ± 1.
        np.testing.assert_allclose(counter.energy_wh, [0, 5, 10, 14, 19, 24, 29])
        assert counter.reset_times_s == (180,) and counter.lost_wh == (1.0,)

    def test_power_fills_what_a_restart_forgot(self):
        power = (self.T, np.full(7, 300.0))
        counter = join_counter(self.T, np.array([90, 95, 100, 3, 8, 13, 18.0]), power)
        np.testing.assert_allclose(counter.energy_wh, [0, 5, 10, 15, 20, 25, 30])

    def test_two_restarts(self):
        counter = join_counter(self.T, np.array([5, 10, 0, 5, 10, 0, 5.0]), None)
        # 5 + 2.5 + 5 + 5 + 2.5 + 5: half of what the rate before would have given, twice.
        assert counter.energy_wh[-1] == 25 and counter.lost_wh == (2.5, 2.5)
        assert counter.reset_times_s == (120, 300)


class TestDisagreement:
    T = np.arange(0, 3601.0, 10)

    def check(self, share, step=0.0):
        energy = 400 * (1 + share) * self.T / 3600
        if step:
            energy = np.floor(energy / step) * step
        counter = join_counter(self.T, energy, None)
        return disagreement(
            sampling_of(self.T), self.T, np.full(self.T.size, 400.0), counter, 0, 3600
        )

    def test_sign_and_size(self):
        assert self.check(0.02) == pytest.approx(0.02 / 1.02)
        assert self.check(-0.02) == pytest.approx(-0.02)

    def test_a_coarse_step_does_not_accuse(self):
        assert self.check(0.02, step=20) is None

    def test_gaps_are_left_out_on_both_sides(self):
        keep = (self.T < 1000) | (self.T > 2000)
        power = np.where(self.T < 1500, 400.0, 100.0)
        energy = np.concatenate([[0], np.cumsum((power[1:] + power[:-1]) / 2 * 10 / 3600)])
        counter = join_counter(self.T[keep], energy[keep], None)
        apart = disagreement(sampling_of(self.T[keep]), self.T[keep], power[keep], counter, 0, 3600)
        assert apart is None or abs(apart) < 1e-9

    def test_nothing_counted_tells_nothing(self):
        counter = join_counter(self.T, np.zeros(self.T.size), None)
        assert (
            disagreement(sampling_of(self.T), self.T, np.zeros(self.T.size), counter, 0, 3600)
            is None
        )


def test_slices_take_both_ends():
    t = np.arange(10.0)
    assert t[slice_between(t, 2, 5)].tolist() == [2, 3, 4, 5]
    assert t[slice_between(t, 2.5, 4.5)].tolist() == [3, 4]


def test_what_a_gap_could_hide_is_bounded_by_the_highest_power():
    t = np.array([0.0, 10, 20, 30, 1000, 1010])
    p = np.array([400.0, 400, 400, 400, 100, 100])
    (gap,) = gaps_between(sampling_of(t), t, p, None, 0, 1010)
    hours = 970 / 3600
    assert gap.energy_wh == pytest.approx(250 * hours)
    # Anything from nothing to 400 W all the time: nothing is the further off.
    assert gap.could_hide_wh == pytest.approx(250 * hours)
