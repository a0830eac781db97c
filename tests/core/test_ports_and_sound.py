"""Ports alone and together; sound by distance, background, weighting."""

import math

import numpy as np
import pytest

from yardtoll.core.electrical.trace import Code
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.output.ports import analyse_ports
from yardtoll.core.sound.levels import (
    Recording,
    a_weighting_db,
    analyse_level,
    analyse_recording,
    at_distance,
    without_background,
)

# IEC 61672-1:2013, table 3 (from memory): nominal third-octaves, A-weighting in dB, and the
# acceptance limits of class 1 around it.
TABLE = """
10 -70.4 3.0 inf|12.5 -63.4 2.5 inf|16 -56.7 2.0 4.0|20 -50.5 2.0 2.0|25 -44.7 2.0 1.5
31.5 -39.4 1.5 1.5|40 -34.6 1.0 1.0|50 -30.2 1.0 1.0|63 -26.2 1.0 1.0|80 -22.5 1.0 1.0
100 -19.1 1.0 1.0|125 -16.1 1.0 1.0|160 -13.4 1.0 1.0|200 -10.9 1.0 1.0|250 -8.6 1.0 1.0
315 -6.6 1.0 1.0|400 -4.8 1.0 1.0|500 -3.2 1.0 1.0|630 -1.9 1.0 1.0|800 -0.8 1.0 1.0
1000 0.0 0.7 0.7|1250 0.6 1.0 1.0|1600 1.0 1.0 1.0|2000 1.2 1.0 1.0|2500 1.3 1.0 1.0
3150 1.2 1.0 1.0|4000 1.0 1.0 1.0|5000 0.5 1.5 1.5|6300 -0.1 1.5 2.0|8000 -1.1 1.5 2.5
10000 -2.5 2.0 3.0|12500 -4.3 2.0 5.0|16000 -6.6 2.5 16.0|20000 -9.3 3.0 inf
"""
ROWS = [tuple(map(float, row.split())) for row in TABLE.strip().replace("\n", "|").split("|")]


class TestPorts:
    def test_who_gives_way_and_by_how_much(self):
        found = analyse_ports(
            {"usb_c1": 18.0, "usb_a1": 17.0}, [{"usb_c1": 17.8, "usb_a1": 14.0, "car": 36.0}],
            {"usb_c1": 18.0, "usb_c2": 30.0}, {"usb": 60.0},
        )  # fmt: skip
        assert found.total_w == pytest.approx(67.8)
        assert [(y.port, round(y.share, 3)) for y in found.yields] == [("usb_a1", 0.824)]
        assert [(c.port, c.measured_w) for c in found.claims] == [
            ("usb_c1", 18.0), ("usb", pytest.approx(31.8)),
        ]  # fmt: skip
        assert found.not_measured == ("usb_c2",)

    def test_the_worst_set_tells(self):
        found = analyse_ports({"a": 60.0}, [{"a": 45.0, "b": 45.0}, {"a": 30.0, "b": 30.0}])
        assert found.yields[0].share == 0.5 and found.total_w == 90

    @pytest.mark.parametrize("watts", [-1.0, math.nan, math.inf])
    def test_odd_readings(self, watts):
        with pytest.raises(ValueOutOfRangeError):
            analyse_ports({"a": watts})
        with pytest.raises(ValueOutOfRangeError):
            analyse_ports({"a": 1.0}, limits={"a": watts})


class TestLevels:
    def test_background_and_distance(self):
        # 52 and 41 dB: 10·log10(10^5.2 − 10^4.1) = 51.64; halving the distance is 6.02 dB.
        found = analyse_level(52, 0.5, 41)
        assert found.without_background_db == pytest.approx(51.64, abs=0.005)
        assert found.at_1m_db == pytest.approx(51.64 - 6.02, abs=0.01)
        assert without_background(43.01, 40) == pytest.approx(40, abs=0.01)
        assert at_distance(60, 1, 10) == pytest.approx(40)

    def test_a_background_too_close(self):
        found = analyse_level(43, background_db=41)
        assert found.without_background_db is None
        assert [n.code for n in found.notices] == [Code.BACKGROUND_TOO_CLOSE]

    @pytest.mark.parametrize(("level", "distance"), [(math.nan, 1), (300, 1), (50, 0), (50, -1)])
    def test_odd_levels(self, level, distance):
        with pytest.raises(ValueOutOfRangeError):
            analyse_level(level, distance)


class TestRecordings:
    @pytest.mark.parametrize(("hertz", "weighting", "above", "below"), ROWS, ids=lambda v: f"{v:g}")
    def test_a_weighting_at_every_third_octave(self, hertz, weighting, above, below):
        exact = 1000 * 10 ** (round(10 * math.log10(hertz / 1000)) / 10)
        (found,) = a_weighting_db(np.array([exact]))
        assert found == pytest.approx(weighting, abs=0.06)
        if not 40 <= hertz <= 18_000:
            return
        rate = 48_000
        tone = 0.1 * np.sin(2 * np.pi * exact * np.arange(2 * rate) / rate)
        level = analyse_recording(
            Recording(name="t.wav", rate_hz=rate, samples=tone),
            calibration=(94.0, 0.1 / math.sqrt(2)),
        ).level_db
        assert -below <= level - 94 - weighting <= above

    def test_the_highest_is_above_the_mean_of_a_burst(self):
        rate = 48_000
        t = np.arange(4 * rate) / rate
        tone = np.where((t > 2) & (t < 2.5), 0.1, 0.01) * np.sin(2 * np.pi * 1000 * t)
        found = analyse_recording(
            Recording(name="t", rate_hz=rate, samples=tone), calibration=(94, 0.1 / math.sqrt(2))
        )
        assert found.l_max_db == pytest.approx(94, abs=0.15)
        assert found.l_eq_db == pytest.approx(94 + 10 * math.log10(0.125 + 0.875 / 100), abs=0.1)

    def test_hum_stands_out_of_noise_and_there_is_none_in_noise(self):
        rate = 48_000
        rng = np.random.default_rng(3)
        noise = 0.01 * rng.normal(0, 1, 5 * rate)
        t = np.arange(noise.size) / rate
        quiet = Recording(name="q", rate_hz=rate, samples=noise)
        assert analyse_recording(quiet).hum == ()
        hums = 0.01 * np.sin(2 * np.pi * 120 * t) + 0.004 * np.sin(2 * np.pi * 240 * t)
        found = analyse_recording(Recording(name="h", rate_hz=rate, samples=noise + hums))
        assert {h.hertz for h in found.hum} == {120, 240} and found.relative
        assert (found.level_db, found.l_eq_db, found.at_1m_db) == (None, None, None)
        at_50 = analyse_recording(
            Recording(name="h", rate_hz=rate, samples=noise + hums), mains_hz=50
        )
        assert at_50.hum == ()

    def test_too_short_and_silent(self):
        with pytest.raises(UnusableDataError, match="shorter"):
            analyse_recording(Recording(name="s", rate_hz=48_000, samples=np.ones(100)))
        with pytest.raises(UnusableDataError, match="silent"):
            analyse_recording(Recording(name="s", rate_hz=48_000, samples=np.zeros(48_000)))
