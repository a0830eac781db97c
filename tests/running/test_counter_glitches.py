"""An energy counter that is wrong once, or jumps: by hand, at 100 W, a sample a minute."""

import numpy as np
import pytest

from yardtoll.core.discharge.meter_log import analyse_log
from yardtoll.core.electrical.energy import join_counter
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Code, Trace

TIME_S = np.arange(0.0, 3601.0, 60.0)
POWER = (TIME_S, np.full(TIME_S.size, 100.0))
SOUND_WH = 100 * TIME_S / 3600  # 100 Wh in the hour


@pytest.mark.parametrize("power", [POWER, None])
@pytest.mark.parametrize("wrong", [10_000.0, 0.0, -5.0])
def test_one_wrong_reading_is_left_out(power, wrong):
    reading = 40 + SOUND_WH
    reading[30] = wrong
    joined = join_counter(TIME_S, reading, power)
    assert joined.energy_wh[-1] == pytest.approx(100.0)
    assert joined.reset_times_s == ()


def test_a_jump_that_no_power_explains_counts_as_a_restart():
    reading = 40 + SOUND_WH + np.where(TIME_S >= 1800, 10_000.0, 0.0)
    joined = join_counter(TIME_S, reading, POWER)
    assert joined.energy_wh[-1] == pytest.approx(100.0)
    assert joined.reset_times_s == (1800.0,)


def test_a_jump_is_bridged_also_where_power_is_on_other_lines():
    reading = 40 + SOUND_WH + np.where(TIME_S >= 1800, 10_000.0, 0.0)
    power = (np.arange(7.0, 3600.0, 20.0), np.full(180, 100.0))
    joined = join_counter(TIME_S, reading, power)
    assert joined.energy_wh[-1] == pytest.approx(100.0)
    assert joined.lost_wh == (0.0,)


def test_a_run_whose_counter_jumps_and_restarts_is_worked_out():
    watts = np.where((TIME_S < 120) | (TIME_S > 3400), 0.0, 100.0)
    counted = np.append(0.0, np.cumsum((watts[1:] + watts[:-1]) / 2 * 60 / 3600))
    reading = 40 + counted + np.where(TIME_S >= 1800, 10_000.0, 0.0)
    reading[40:] = counted[40:] - counted[39]
    columns = {Quantity.POWER: watts, Quantity.ENERGY: reading}
    log = analyse_log(Trace(name="log", time_s=TIME_S, columns=columns))
    assert log.source == "counter"
    assert log.delivered_wh == pytest.approx(counted[-1], abs=0.1)
    (said,) = [n.message for n in log.notices if n.code is Code.COUNTER_RESET]
    assert "1800 s" in said and "2400 s" in said


def test_a_true_restart_stays_one():
    reading = np.where(TIME_S >= 1800, SOUND_WH - 50, SOUND_WH + 40)
    joined = join_counter(TIME_S, reading, POWER)
    assert joined.energy_wh[-1] == pytest.approx(100.0)
    assert joined.reset_times_s == (1800.0,)


def test_a_coarse_counter_may_step():
    """Whole 10 Wh: a step within a second means 36 kW and is none."""
    time_s = np.arange(0.0, 3601.0, 1.0)
    counter = 10 * np.floor(100 * time_s / 36_000)
    joined = join_counter(time_s, counter, (time_s, np.full(time_s.size, 100.0)))
    assert joined.energy_wh[-1] == 100 and joined.reset_times_s == ()


def test_live_a_block_at_a_time_nothing_is_counted_twice():
    """A block has a sample or two: the false reading and the way back come in separate ones."""
    from yardtoll.bench.samples import SampleBlock
    from yardtoll.running.live_samples import LiveSamples

    samples = LiveSamples()
    for second in range(3601):
        wh = 500 + 100 * second / 3600 + (10_000 if second == 1800 else 0)
        columns = {Quantity.POWER: np.array([100.0]), Quantity.ENERGY: np.array([wh])}
        samples.add(SampleBlock(time_s=np.array([float(second)]), columns=columns))
    assert samples.total_wh == pytest.approx(100.0, abs=0.1)
