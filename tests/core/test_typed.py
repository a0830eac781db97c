"""Runs read by eye: lines that read and do not, stretches with their ±, what is bounded."""

import pytest

from yardtoll.core.electrical.typed_readings import TypedReading, parse_typed_lines, stretches
from yardtoll.core.errors import UnusableDataError

READINGS = [TypedReading(s=0, energy_wh=0), TypedReading(s=3600, energy_wh=400),
            TypedReading(s=16_200, energy_wh=1800)]  # fmt: skip


class TestLines:
    def test_clock_times_units_and_the_display(self):
        found = parse_typed_lines("10:32 0 Wh\n# tea\n\n11:32:30 205,5\n12:00, 0.41 kWh, 80 %")
        assert [(r.s, r.energy_wh, r.soc) for r in found] == [
            (0, 0, None), (3630, 205.5, None), (5280, 410, 80),
        ]  # fmt: skip

    def test_past_midnight_and_from_zero(self):
        assert [r.s for r in parse_typed_lines("23:50 0\n0:20 100\n8:00 900")] == [0, 1800, 29_400]
        assert [r.s for r in parse_typed_lines("0:00 5\n26:15 900")] == [0, 94_500]

    @pytest.mark.parametrize(
        ("text", "said"),
        [
            ("10:32 0\nlunch", 'line 2: "lunch" should look like'),
            ("10:75 0\n11:00 5", "line 1"),
            ("10:32 0", "at least two readings"),
            ("", "at least two readings"),
            ("10:32 5 W\n10:40 6", "line 1"),
        ],
    )
    def test_what_does_not_read_is_named(self, text, said):
        with pytest.raises(UnusableDataError, match=said):
            parse_typed_lines(text)


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
