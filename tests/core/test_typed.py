"""Runs read by eye: lines that read and do not, stretches with their ±, what is bounded."""

import pytest

from yardtoll.core.electrical.typed_readings import TypedReading, stretches

READINGS = [TypedReading(s=0, energy_wh=0), TypedReading(s=3600, energy_wh=400),
            TypedReading(s=16_200, energy_wh=1800)]  # fmt: skip


class TestStretches:
    def test_mean_power_between_readings(self):
        found = stretches(READINGS)
        assert [s.mean_w for s in found] == [pytest.approx(400), pytest.approx(400)]
        # By hand: read to 1 Wh gives ±√2·½/√3 in an hour, stamps ±√2·2/√3 s of 400 W.
        step, stamp = 2**0.5 * 0.5 / 3**0.5, 2**0.5 * 2 / 3**0.5 / 3600 * 400
        assert found[0].mean_w_u == pytest.approx((step**2 + stamp**2) ** 0.5, rel=1e-6)
        assert found[1].mean_w_u < found[0].mean_w_u

    def test_two_readings_of_one_moment_are_no_stretch(self):
        assert stretches([READINGS[0], READINGS[0]]) == []
