"""Counters of long logs, and meters that stand still, against their definitions step by step."""

import numpy as np
import pytest

from yardtoll.core.discharge.meter_log import analyse_log
from yardtoll.core.electrical.energy import Counter, counter_step_wh, join_counter
from yardtoll.core.electrical.load_span import _edge
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Code, Trace

COUNT = 70_000
"""More than two of the parts that long logs are worked out in."""


def counter_of(seed: int, digit_wh: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Times, watts and readings of a counter that is wrong at some places, also between parts."""
    random = np.random.default_rng(seed)
    time_s = np.cumsum(random.uniform(0.5, 1.5, COUNT))
    watts = 300 + random.normal(0, 5, COUNT)
    true_wh = np.append(0.0, np.cumsum((watts[1:] + watts[:-1]) / 2 * np.diff(time_s))) / 3600
    reading = np.floor(true_wh / digit_wh) * digit_wh
    places = [32_767, 32_768, 65_536, *random.integers(1, COUNT - 1, 3)]
    for at in random.permutation(places)[: random.integers(0, 4)]:
        wrong = random.integers(0, 4)
        if wrong == 0:
            reading[at] = random.choice([0.0, 1e5, -5.0])
        elif wrong == 1:
            reading[at:] -= reading[at]
        elif wrong == 2:
            reading[at:] += 1e4
        else:
            reading[at] -= 0.4 * digit_wh
    return time_s, watts, reading


def plainly_joined(time_s, watts, reading):
    """(Wh in all, restarts) a step at a time, as the rules are written."""
    reading, digit = reading.tolist(), counter_step_wh(reading)
    mended = list(reading)
    for i in range(1, COUNT - 1):
        before, single, after = reading[i - 1 : i + 2]
        off = max(single - after, before - single)
        if after >= before and off > 10 * max(after - before, digit):
            mended[i] = before
    if mended != reading:
        digit = counter_step_wh(np.array(mended))
    total, restarts, highest_w = 0.0, [], watts.max()
    for i in range(COUNT - 1):
        step, seconds = mended[i + 1] - mended[i], time_s[i + 1] - time_s[i]
        flowed = (watts[i] + watts[i + 1]) / 2 * seconds / 3600
        fell = step < -1e-9 and step < -0.01 * abs(mended[i])
        if fell:
            least, most = max(mended[i + 1], 0.0), 5 * highest_w * seconds / 3600
            step = flowed if most < least > 10 * digit else max(least, flowed)
        elif step > 10 * digit and step * 3600 > 5 * highest_w * seconds:
            fell, step = True, flowed
        if fell:
            restarts.append(time_s[i + 1])
        total += max(step, 0.0)
    return total, tuple(restarts)


@pytest.mark.parametrize("digit_wh", [0.001, 0.1, 1.0])
@pytest.mark.parametrize("seed", range(6))
def test_each_wrong_reading_is_found_wherever_it_is(seed, digit_wh):
    time_s, watts, reading = counter_of(seed, digit_wh)
    joined = join_counter(time_s, reading, (time_s, watts))
    total, restarts = plainly_joined(time_s, watts, reading)
    assert joined.energy_wh[-1] == pytest.approx(total, rel=1e-9)
    assert joined.reset_times_s == restarts
    assert np.diff(joined.energy_wh).min() >= 0


@pytest.mark.parametrize("seed", range(20))
def test_the_steps_beside_an_edge_are_the_nearest(seed):
    """Of a counter that stands still for some samples at a time, at 90 W."""
    random = np.random.default_rng(seed)
    time_s = np.cumsum(random.uniform(0.9, 1.1, 400))
    energy = np.floor(np.clip(time_s - 100, 0, 200) * 90 / 3600 / 0.1) * 0.1
    counter = Counter(time_s=time_s, energy_wh=energy, step_wh=0.1, reset_times_s=())
    near_s = float(random.choice([random.uniform(0, 400), random.choice(time_s)]))
    rises = [i for i in range(399) if energy[i + 1] > energy[i]]
    after = [i for i in rises if time_s[i + 1] >= near_s]
    before = [i for i in rises if i < np.searchsorted(time_s, near_s, side="right")]
    for found, steps, forwards in (
        (_edge(counter, near_s, forwards=True), after, True),
        (_edge(counter, near_s, forwards=False), before, False),
    ):
        assert (found is None) == (len(steps) < 2)
        if found is not None:
            # Half a step's time at 90 W, 2 s, from the sample that shows it.
            tick_s = time_s[(steps[0] if forwards else steps[-1]) + 1]
            assert abs(abs(found[0] - tick_s) - 2.0) < 1.0  # the next step is 4 s away
            assert (found[0] < tick_s) == forwards


@pytest.mark.parametrize("standing", [Quantity.POWER, Quantity.ENERGY])
@pytest.mark.parametrize(("seconds", "is_frozen"), [(590, False), (606, True), (2000, True)])
@pytest.mark.parametrize("begins", [3000, 3131, 3267])
def test_a_meter_that_stands_still_is_found_at_any_moment(standing, seconds, is_frozen, begins):
    time_s = np.arange(20_000.0)
    watts = 200 + np.random.default_rng(7).normal(0, 1, time_s.size)
    watts[-2000:] = 0.0  # the counter stands still there as well: nothing flows
    columns = {Quantity.POWER: watts, Quantity.ENERGY: np.cumsum(watts) / 3600}
    if standing is Quantity.POWER:
        del columns[Quantity.ENERGY]
    values = columns[standing]
    values[begins : begins + seconds + 1] = values[begins]
    log = analyse_log(Trace(name="t", time_s=time_s, columns=columns))
    assert any(n.code is Code.FROZEN for n in log.notices) == is_frozen


def test_volts_of_a_log_of_changes_have_no_gaps():
    """Held between its lines, an hour without one is no gap; also where the first line has none."""
    random = np.random.default_rng(3)
    time_s = np.append(0.0, np.cumsum(random.choice([1.0, 2.0, 40.0, 1500.0], 400)))
    watts = 300 + random.normal(0, 3, time_s.size)
    volts = 120 + random.normal(0, 0.3, time_s.size)
    for missing in (0, 1):
        volts[:missing] = np.nan
        columns = {Quantity.POWER: watts, Quantity.VOLTS: volts}
        log = analyse_log(Trace(name="t", time_s=time_s, columns=columns), on_change=True)
        assert log.loaded_s == pytest.approx(time_s[-1] - time_s[missing], abs=1.0)
