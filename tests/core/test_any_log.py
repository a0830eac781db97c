"""Logs of any shape, and with anything wrong in them, are worked out or refused: never an error."""

import numpy as np
import pytest

from yardtoll.core.charge.analysis import ChargeWindow, analyse_recharge
from yardtoll.core.discharge.meter_log import analyse_log
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.errors import UnusableDataError


def made_up(seed: int) -> Trace:
    """Steady, switched or fading power with what meters do: gaps, spikes, counters gone wrong."""
    random = np.random.default_rng(seed)
    count = int(random.choice([2, 5, 30, 400, 3000]))
    time_s = np.cumsum(random.uniform(0.9, 1.1, count) * random.choice([0.1, 1, 60]))
    if random.random() < 0.3:
        time_s[count // 3 :] += random.choice([20, 4000])
    watts = random.choice([30, 800]) + random.normal(0, 1, count)
    shape = random.integers(0, 4)
    if shape == 0:
        watts *= np.arange(count) // max(count // 9, 1) % 2
    elif shape == 1:
        watts *= np.exp(-4 * np.arange(count) / count)
    elif shape == 2:
        watts[count // 4 : count // 2] = watts[count // 4]
    watts[: random.integers(0, count // 10 + 1)] = 0
    watts[count - random.integers(0, count // 10 + 1) :] = 0
    flowed = np.append(0.0, np.cumsum((watts[1:] + watts[:-1]) / 2 * np.diff(time_s))) / 3600
    columns = {Quantity.POWER: watts, Quantity.VOLTS: 120 + random.normal(0, 0.3, count)}
    if random.random() < 0.2:
        watts[random.integers(0, count, 3)] = random.choice([9e4, -50])
    if random.random() < 0.7:
        columns[Quantity.ENERGY] = wrong(flowed, random)
    for quantity, values in list(columns.items()):
        if random.random() < 0.3:
            columns[quantity] = np.where(random.random(count) < 0.3, np.nan, values)
    if random.random() < 0.1:
        del columns[Quantity.POWER]
    return Trace(name=f"log {seed}", time_s=time_s - time_s[0], columns=columns)


def wrong(flowed: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """A counter that shows something else now and then, restarts, jumps, or stands still."""
    digit = random.choice([1e-6, 0.01, 1.0])
    reading = np.floor((flowed + random.choice([0, 417])) / digit) * digit
    for at in random.integers(1, reading.size, random.integers(0, 3)):
        match random.integers(0, 4):
            case 0:
                reading[at] = random.choice([0, 1e4, -5])
            case 1:
                reading[at:] -= reading[at]
            case 2:
                reading[at:] += 1e4
            case _:
                reading[at:] = reading[at]
    return reading


def figures(seed: int) -> list[float]:
    """Of a log as a discharge and as a recharge, or none where it is refused."""
    found = []
    try:
        out = analyse_log(made_up(seed))
        found += [out.delivered_wh, out.span.hours, *out.span.edges_s, out.limits.resolution_wh]
        found += [out.limits.lost_wh, out.limits.sampling_u_wh, out.loaded_s]
    except UnusableDataError as refused:
        assert str(refused)
    try:
        into = analyse_recharge(made_up(seed), ChargeWindow(rated_wh=500))
        found += [into.drawn_wh, into.duration_s]
    except UnusableDataError as refused:
        assert str(refused)
    return found


@pytest.mark.parametrize("tens", range(30))
def test_any_log_is_worked_out_or_refused(tens):
    for seed in range(10 * tens, 10 * tens + 10):
        found = figures(seed)
        assert np.isfinite(found).all() and min(found, default=0) >= 0, seed
