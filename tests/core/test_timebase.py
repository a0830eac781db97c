"""Raw timestamps become a rising axis; gaps are found."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from yardtoll.core.electrical.timebase import clean_time, sampling_of, unwrap_midnight


def times(*values):
    return np.array(values, dtype=float)


class TestCleanTime:
    def test_rising_times_are_left_alone(self):
        clean = clean_time(times(100, 101, 103))
        np.testing.assert_array_equal(clean.time_s, [0, 1, 3])
        assert not clean.repaired

    def test_the_later_of_equal_times_is_kept(self):
        clean = clean_time(times(0, 10, 10, 10, 20, 30, 40))
        np.testing.assert_array_equal(clean.keep, [0, 3, 4, 5, 6])
        assert clean.duplicates == 2

    def test_ten_lines_a_second_are_spread_over_it(self):
        clean = clean_time(np.repeat(np.arange(5.0), 10))
        np.testing.assert_allclose(clean.time_s, np.arange(50) / 10)
        assert (clean.spread, clean.duplicates) == (50, 0)

    def test_four_lines_a_minute_are_spread_over_it(self):
        clean = clean_time(np.repeat(60 * np.arange(5.0), 4))
        np.testing.assert_allclose(clean.time_s, 15 * np.arange(20))

    def test_a_first_second_that_is_not_full_is_spread_as_well(self):
        clean = clean_time(times(0, 1, 1, 1, 1, 2, 2, 2, 2))
        np.testing.assert_allclose(clean.time_s, [0, 1, 1.25, 1.5, 1.75, 2, 2.25, 2.5, 2.75])

    def test_fractions_of_seconds_are_no_coarse_stamps(self):
        clean = clean_time(times(0.5, 0.5, 1.5, 1.5, 2.5, 2.5))
        assert (clean.spread, clean.duplicates) == (0, 3)

    def test_a_step_back_follows_on_at_the_median_interval(self):
        clean = clean_time(times(0, 2, 4, 1, 3, 5))
        np.testing.assert_array_equal(clean.time_s, [0, 2, 4, 6, 8, 10])
        assert clean.steps_back == 1

    def test_times_that_only_fall_are_one_second_apart(self):
        np.testing.assert_array_equal(clean_time(times(3.5, 2.5, 1.5)).time_s, [0, 1, 2])

    @given(
        arrays(float, st.integers(1, 60), elements=st.floats(-1e9, 1e9).map(lambda x: round(x, 1)))
    )
    def test_whatever_comes_in_rises_strictly(self, raw):
        clean = clean_time(raw)
        assert clean.time_s[0] == 0
        assert clean.time_s.size == (raw.size if clean.keep is None else clean.keep.size)
        assert np.all(np.diff(clean.time_s) > 0)


def test_midnight_adds_a_day_each_time():
    clock = times(86_390, 5, 40_000, 86_000, 10)
    np.testing.assert_array_equal(
        unwrap_midnight(clock), [86_390, 86_405, 126_400, 172_400, 172_810]
    )


@pytest.mark.parametrize(
    ("interval_s", "limit_s"),
    [(1, 10), (2, 10), (10, 50), (60, 300)],  # max(5 × median, 10 s): the contract's own rule
)
def test_a_gap_is_longer_than_five_intervals_and_ten_seconds(interval_s, limit_s):
    base = interval_s * np.arange(100.0)
    assert sampling_of(base).interval_s == interval_s
    at_limit = np.append(base, base[-1] + limit_s)
    beyond = np.append(base, base[-1] + limit_s + 0.001)
    assert sampling_of(at_limit).gap_starts.size == 0
    assert sampling_of(beyond).gap_starts.tolist() == [99]
