"""Logs longer than the parts they are worked out in, against the plain sums over all samples."""

import numpy as np
import pytest

from yardtoll.core.charge.analysis import _drawn_at
from yardtoll.core.discharge.meter_log import analyse_log
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.run_energy import _between_samples_u_wh, _has_few_levels
from yardtoll.core.electrical.timebase import thinned_above, usual_step_s
from yardtoll.core.electrical.trace import Trace

SIZES = (3, 1000, 32_768, 32_769, 32_770, 70_000, 98_306)


def times(count, seed=1):
    return np.cumsum(np.random.default_rng(seed).uniform(0.05, 0.15, count))


def switched(count, every, seed=2):
    """A load of two levels and noise that switches now and then, backwards for a while."""
    random = np.random.default_rng(seed)
    watts = np.where(np.arange(count) // every % 2, 400.0, 180.0) + random.normal(0, 1, count)
    watts[count // 2 : count // 2 + 5] = -3.0
    return watts


def plainly_between(time_s, watts):
    """JCGM 100, 4.3.7: |ΔP|·dt ÷ √12 each, ÷ √2 where a move follows or leads to another."""
    steps, changes = np.diff(time_s), np.abs(np.diff(watts))
    changes[steps > max(5 * np.median(steps), 10.0)] = 0
    moved = changes > 0.02 * np.maximum(np.abs(watts[1:]), np.abs(watts[:-1]))
    total = 0.0
    for i, (change, step) in enumerate(zip(changes, steps, strict=True)):
        beside = (i > 0 and moved[i - 1]) or (i + 1 < moved.size and moved[i + 1])
        total += (change * step) ** 2 / (2 if moved[i] and beside else 12)
    return np.sqrt(total) / 3600


@pytest.mark.parametrize("count", SIZES)
@pytest.mark.parametrize("every", [1, 7, 5000])
def test_what_happened_between_samples(count, every):
    time_s, watts = times(count), switched(count, every)
    time_s[count // 3 :] += 60.0  # a gap
    found = _between_samples_u_wh(time_s, watts)
    assert found == pytest.approx(plainly_between(time_s, watts), rel=1e-9)


@pytest.mark.parametrize("count", SIZES)
@pytest.mark.parametrize("stride", [1, 7, 32_768, 200_000])
def test_energy_drawn_up_to_some_samples(count, stride):
    time_s, watts = times(count), switched(count, 50)
    at = np.unique(np.append(np.arange(0, count, stride), count - 1))
    plain = [np.trapezoid(watts[: i + 1], time_s[: i + 1]) / 3600 for i in at[-3:]]
    found = _drawn_at(at, time_s, watts)
    assert found.size == at.size and found[0] == 0
    assert found[-3:].tolist() == pytest.approx(plain)


@pytest.mark.parametrize("paused", [False, True])
def test_volts_under_load_by_time(paused):
    count = 100_000
    time_s = times(count)
    volts = 120 + np.random.default_rng(5).normal(0, 0.3, count)
    watts = np.full(count, 300.0)
    watts[:500] = watts[-500:] = 0.0
    volts[200] = 90.0  # no load then
    if paused:
        watts[40_000:40_900] = 0.0
        volts[40_500] = 80.0
    columns = {Quantity.POWER: watts, Quantity.VOLTS: volts}
    found = analyse_log(Trace(name="t", time_s=time_s - time_s[0], columns=columns))
    loaded = watts > 15
    both = loaded[1:] & loaded[:-1]
    weights = np.diff(time_s) * both
    mean = np.sum(weights * (volts[1:] + volts[:-1]) / 2) / weights.sum()
    assert found.volts_mean_v == pytest.approx(mean, rel=1e-9)
    assert found.volts_min_v == volts[loaded].min() > 100
    assert found.loaded_s == pytest.approx(weights.sum(), rel=1e-9)
    assert found.no_load_v == pytest.approx(120, abs=0.1)


def test_few_levels_are_seen_however_long_they_last():
    steps = np.repeat([200.0, 400.0], 60_000)
    assert _has_few_levels(steps) and not _has_few_levels(times(5000))
    # Digits that show late, and seldom.
    rising = np.append(np.full(90_000, 200.0), np.arange(200.0, 240.0).repeat(300))
    assert not _has_few_levels(rising)


def test_thinned_values_stand_for_all_of_them():
    random = np.random.default_rng(3)
    values = np.append(np.zeros(700_000), random.normal(100, 5, 300_000))
    seen = thinned_above(values, 2.0)
    assert 50_000 <= seen.size <= 75_000 and seen.min() > 2
    assert np.percentile(seen, 99) == pytest.approx(np.percentile(values[values > 2], 99), rel=0.01)
    assert thinned_above(values[:100], 2.0).size == 0
    assert usual_step_s(times(500_000)) == pytest.approx(0.1, rel=0.02)
    assert usual_step_s(np.array([5.0])) == 0.0 == usual_step_s(np.empty(0))
