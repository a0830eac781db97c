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
