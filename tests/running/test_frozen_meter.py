"""A meter that shows its last value for ever is an alarm."""

import numpy as np

from yardtoll.bench.samples import SampleBlock
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.live.run_watch import LiveState, alarms
from yardtoll.running.live_samples import LiveSamples


def block(times, power):
    return SampleBlock(time_s=np.asarray(times, float), columns={Quantity.POWER: np.asarray(power)})


def test_how_long_nothing_has_changed():
    samples = LiveSamples()
    assert samples.unchanged_s() == 0
    samples.add(block(range(100), np.where(np.arange(100) < 20, 398.0, 400.0)))
    assert samples.unchanged_s() == 79
    samples.add(block([100], [400.1]))
    assert samples.unchanged_s() == 0


def test_it_is_the_same_however_the_samples_come():
    chance = np.random.default_rng(3)
    power = np.where(chance.random(900) < 0.02, np.nan, 5.0 * chance.integers(0, 2, 900))
    power[-40:] = np.nan
    whole = LiveSamples()
    whole.add(block(range(900), power))
    by_ones = LiveSamples()
    for at, watts in enumerate(power):
        by_ones.add(block([at], [watts]))
    last = np.flatnonzero(np.isfinite(power))[-1]
    assert whole.unchanged_s() == by_ones.unchanged_s() == 899 - (last + 1)


def test_it_looks_back_over_ten_minutes_and_begins_anew_with_the_samples():
    samples = LiveSamples()
    samples.add(block(range(2000), np.full(2000, 400.0)))
    assert samples.unchanged_s() == 600
    samples.clear()
    samples.add(block([0, 1, 2], [1.0, 2.0, 2.0]))
    assert samples.unchanged_s() == 1


def test_it_is_said_under_load_alone():
    def said(unchanged_s, power_w):
        state = LiveState(
            answering=True, power_w=power_w, volts=None, elapsed_s=100, delivered_wh=10,
            target_w=None, rated_w=1000, unchanged_s=unchanged_s,
        )  # fmt: skip
        return [alarm.text for alarm in alarms(state)]

    assert said(75, 400.0) == ["Nothing the meter reads has changed for 75 s: does it hang?"]
    assert said(59, 400.0) == []
    assert not any("changed" in text for text in said(500, 0.0))
