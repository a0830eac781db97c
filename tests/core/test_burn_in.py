"""Burn-ins: the drift against a library's own line, and against truth over many draws."""

import numpy as np
import pytest
from scipy.stats import linregress, t

from yardtoll.core.endurance.burn_in import burn_in_of
from yardtoll.core.errors import UnusableDataError


def cycles(values, **more):
    return [{"cycle": float(i + 1), "delivered_wh": float(v), **more} for i, v in enumerate(values)]


def test_the_drift_is_that_of_a_library():
    random = np.random.default_rng(3)
    values = 1850 - 0.9 * np.arange(30) + random.normal(0, 4, 30)
    found = burn_in_of(cycles(values, drawn_wh=2100.0))
    before = np.concatenate([[0], np.cumsum(values)[:-1]]) / 1000
    line = linregress(before, values)
    assert found.drift.over_kwh == pytest.approx(before[-1])
    assert found.drift.share == pytest.approx(line.slope * before[-1] / line.intercept)
    expanded = t.ppf(0.97725, 28) * line.stderr * before[-1] / line.intercept
    assert found.drift.expanded == pytest.approx(expanded, rel=1e-4)
    assert found.delivered_kwh == pytest.approx(values.sum() / 1000)
    assert found.round_trip == pytest.approx(values.mean() / 2100)


def test_the_truth_is_within_its_u():
    random, held = np.random.default_rng(4), 0
    for _ in range(400):
        true_share = random.uniform(-0.03, 0.01)
        count = int(random.integers(5, 40))
        gain = 1 + random.uniform(-0.01, 0.01)  # the meter's, alike in all cycles
        values = gain * (1000 * (1 + true_share * np.linspace(0, 1, count)))
        values = values + random.normal(0, 5, count)
        found = burn_in_of(cycles(values)).drift
        held += abs(found.share - true_share) <= found.expanded
    assert held >= 365


def test_a_failed_cycle_is_told_and_not_on_the_line():
    lines = cycles([500, 499, 501, 500, 498, 500])
    lines[2] |= {"failed": "shut off at 40 %", "delivered_wh": 300.0}
    lines.append({"cycle": 7.0, "delivered_wh": 2.0})
    found = burn_in_of(lines)
    assert [c.cycle for c in found.failures] == [3.0] and found.drift.cycles == 5
    assert abs(found.drift.share) < 0.01
    assert burn_in_of(cycles([500, 499, 501])).drift is None
    assert burn_in_of(cycles([0, 0, 0, 0])).drift is None


def test_no_cycle_is_no_burn_in():
    with pytest.raises(UnusableDataError):
        burn_in_of([{"cycle": 1.0}])
