"""Any part of a trace, drawn from few points: no peak is lost, and nothing else is drawn."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yardtoll.core.electrical.pyramid import Pyramid


def noisy(count, seed=1):
    random = np.random.default_rng(seed)
    time_s = np.cumsum(random.uniform(0.05, 0.15, count))
    return time_s, random.normal(400, 5, count)


@settings(max_examples=60, deadline=None)
@given(st.integers(1, 40_000), st.integers(1, 700), st.floats(0, 1), st.floats(0, 1))
def test_lowest_and_highest_of_the_part_are_in_it(count, columns, one, other):
    time_s, values = noisy(count)
    low_s, high_s = sorted((one * time_s[-1], other * time_s[-1]))
    at, drawn = Pyramid(time_s, values).between(low_s, high_s, columns)
    inside = values[(time_s >= low_s) & (time_s <= high_s)]
    assert np.all(np.diff(at) >= 0) and at.size <= 2 * columns + 8
    assert set(drawn) <= set(values)  # only what was measured
    if inside.size:
        assert drawn.min() <= inside.min() and drawn.max() >= inside.max()


@pytest.mark.parametrize("part", [(0, 1e9, 300), (5, 700, 100), (100, 100.5, 40), (3e3, 4e3, 777)])
def test_one_that_grew_is_the_same_as_one_made_at_once(part):
    time_s, values = noisy(60_000)
    grown = Pyramid(time_s[:10], values[:10])
    for count in range(10, time_s.size + 1, 1717):
        grown.extend(time_s[:count], values[:count])
    grown.extend(time_s, values)
    whole = Pyramid(time_s, values)
    for mine, other in zip(grown.between(*part), whole.between(*part), strict=True):
        np.testing.assert_array_equal(mine, other)
    assert grown.highest == whole.highest == values.max()


def test_few_samples_are_drawn_as_they_are():
    time_s, values = noisy(500)
    at, drawn = Pyramid(time_s, values).between(0, 1e9, 400)
    np.testing.assert_array_equal(at, time_s)
    np.testing.assert_array_equal(drawn, values)


def test_a_long_gap_stays_one_and_a_single_peak_is_seen():
    time_s, values = noisy(50_000)
    values[20_000:30_000] = np.nan
    values[12_345] = 9000.0
    at, drawn = Pyramid(time_s, values).between(0, 1e9, 100)
    assert np.nanmax(drawn) == 9000.0
    gap = (at > time_s[21_000]) & (at < time_s[29_000])
    assert gap.any() and np.isnan(drawn[gap]).all()


def test_nothing_is_nothing():
    nothing = Pyramid(np.empty(0), np.empty(0))
    at, drawn = nothing.between(0, 100, 50)
    assert at.size == drawn.size == 0 and nothing.highest == 0
