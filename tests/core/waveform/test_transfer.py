"""Switch-overs drawn with a known gap: found, timed, and none where there is none."""

import math

import numpy as np
import pytest
from tests.core.waveform.curves import capture, modified

from yardtoll.core.conformance.verdict import Outcome
from yardtoll.core.electrical.trace import Code
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.waveform.transfer import (
    Curve,
    analyse_transfer,
    gap_of_frames,
    judge_gap,
)


def wave(kind, turn):
    if kind == "modified":
        return modified(1.0, 0.7)((turn / (2 * np.pi)) % 1.0) / math.sqrt(0.7)
    rough = 0.05 * np.sin(3 * turn + 0.3) + 0.03 * np.sin(5 * turn) if kind == "rough" else 0.0
    return math.sqrt(2) * (np.sin(turn) + rough)


def switched(seed, clean=False, rate=None):
    """Half a second with one gap of 2 to 50 ms, or none; and its truth."""
    rng = np.random.default_rng(seed)
    nominal, volts = float(rng.choice([50.0, 60.0])), float(rng.choice([120.0, 230.0]))
    rate = rate or float(rng.choice([10e3, 20e3, 48e3]))
    t = np.arange(int(0.5 * rate)) / rate
    before, after = nominal * (1 + rng.uniform(-0.003, 0.003, 2))
    begin = rng.uniform(0, 2 * np.pi)
    noise = rng.uniform(0, 0.01) * volts * rng.normal(0, 1, t.size)
    if clean:
        kind = str(rng.choice(["sine", "rough", "modified"]))
        level = volts * rng.uniform(0.93, 1.05)
        return (
            capture(level * wave(kind, 2 * np.pi * after * t + begin) + noise, rate),
            volts,
            (nominal),
        )
    at_s, gap_s = rng.uniform(0.1, 0.25), rng.uniform(0.002, 0.05)
    jump = rng.uniform(-170, 170) if rng.random() < 0.5 else 0.0
    first = volts * wave(str(rng.choice(["sine", "rough"])), 2 * np.pi * before * t + begin)
    turn = 2 * np.pi * before * (at_s + gap_s) + begin - math.radians(jump)
    turn = turn + 2 * np.pi * after * (t - at_s - gap_s)
    second = volts * rng.uniform(0.95, 1.03) * wave(str(rng.choice(["sine", "rough"])), turn)
    made = np.where(t < at_s, first, np.where(t < at_s + gap_s, 0.0, second))
    return capture(made + noise, rate), volts, nominal, at_s, 1000 * gap_s, jump


def assert_timed(seed):
    made, volts, nominal, at_s, gap_ms, jump = switched(seed)
    found = analyse_transfer(made, volts, nominal)
    assert len(found.events) == 1, seed
    (event,) = found.events
    assert event.gap_ms == pytest.approx(gap_ms, abs=1.0), seed
    assert event.start_s == pytest.approx(at_s, abs=0.001), seed
    assert abs((event.phase_jump_deg - jump + 180) % 360 - 180) < 4, seed
    assert event.curve is (Curve.INSIDE if event.gap_ms <= 20 else Curve.OUTSIDE), seed
    assert abs(event.gap_ms - gap_ms) <= 2 * found.worst_gap_expanded_ms, seed


def assert_quiet(seed):
    made, volts, nominal = switched(seed, clean=True)
    found = analyse_transfer(made, volts, nominal)
    assert found.events == () and [n.code for n in found.notices] == [Code.NO_EVENT], seed


@pytest.mark.parametrize("seed", range(8))
def test_a_gap_is_found_and_timed(seed):
    assert_timed(seed)


@pytest.mark.parametrize("seed", range(4))
def test_a_clean_capture_has_no_event(seed):
    assert_quiet(seed)


@pytest.mark.study
@pytest.mark.parametrize("first", range(100, 300, 50))
def test_gaps_of_2_to_50_ms_at_any_phase(first):
    for seed in range(first, first + 50):
        assert_timed(seed)


@pytest.mark.study
@pytest.mark.parametrize("first", range(0, 500, 50))
def test_no_event_in_500_clean_captures(first):
    for seed in range(first, first + 50):
        assert_quiet(seed)


def half_second(change, rate=20_000.0):
    t = np.arange(int(0.5 * rate)) / rate
    volts = 120 * math.sqrt(2) * np.sin(2 * np.pi * 60 * t)
    return capture(change(t, volts), rate)


def test_a_sag_is_no_gap():
    found = analyse_transfer(
        half_second(lambda t, v: np.where((t > 0.2) & (t < 0.3), 0.82 * v, v)), 120, 60
    )
    (event,) = found.events
    assert (event.gap_ms, event.curve) == (0.0, Curve.INSIDE)
    assert event.lowest_ratio == pytest.approx(0.82, abs=0.01)
    assert event.start_s == pytest.approx(0.2, abs=0.01)


@pytest.mark.parametrize(
    ("ratio", "length_s", "curve"),
    [(0.5, 0.1, Curve.OUTSIDE), (0.72, 0.1, Curve.INSIDE), (0.6, 0.012, Curve.INSIDE)],
)
def test_a_deep_sag_is_none_either(ratio, length_s, curve):
    found = analyse_transfer(
        half_second(lambda t, v: np.where((t > 0.2) & (t < 0.2 + length_s), ratio * v, v)), 120, 60
    )
    (event,) = found.events
    assert (event.gap_ms, event.curve) == (0.0, curve)
    if length_s > 0.05:
        assert event.lowest_ratio == pytest.approx(ratio, abs=0.01)


def test_volts_that_never_come_back_are_dark_still():
    found = analyse_transfer(half_second(lambda t, v: np.where(t < 0.3, v, 0.0)), 120, 60)
    assert [n.code for n in found.notices] == [Code.STILL_DARK]
    assert found.worst_gap_ms == pytest.approx(200, abs=1) and not found.events[0].ended


def test_two_tries_in_one_capture():
    def twice(t, volts):
        return np.where(((t > 0.1) & (t < 0.108)) | ((t > 0.3) & (t < 0.315)), 0.0, volts)

    found = analyse_transfer(half_second(twice), 120, 60)
    assert [e.gap_ms for e in found.events] == [pytest.approx(8, abs=0.5), pytest.approx(15, abs=1)]
    assert found.worst_gap_ms == found.events[1].gap_ms


def test_an_outlet_that_is_low_throughout_is_no_event():
    assert analyse_transfer(half_second(lambda t, v: 0.8 * v), 120, 60).events == ()


def test_no_volts_and_too_few():
    with pytest.raises(UnusableDataError, match="no volts"):
        analyse_transfer(capture(np.zeros(5000), 20_000.0), 120, 60)
    with pytest.raises(UnusableDataError, match="too_short"):
        analyse_transfer(capture(np.ones(300), 20_000.0), 120, 60)


class TestFrames:
    def test_dark_frames_bound_a_gap(self):
        found = gap_of_frames(2, 240)
        assert found.gap_ms == pytest.approx(8.33, abs=0.01)
        assert (found.gap_ms_low, found.gap_ms_high) == (
            pytest.approx(4.17, abs=0.01), pytest.approx(12.5),
        )  # fmt: skip
        assert gap_of_frames(0, 30).gap_ms_low == 0

    def test_a_video_of_30_frames_proves_no_10_ms(self):
        found = gap_of_frames(0, 30)
        assert judge_gap(found.gap_ms_low, found.gap_ms_high, 10) is Outcome.TOO_CLOSE
        assert judge_gap(0, 9, 10) is Outcome.MEETS
        assert judge_gap(11, 30, 10) is Outcome.FALLS_SHORT

    @pytest.mark.parametrize(("dark", "fps"), [(-1, 30), (1, 0), (1, math.inf)])
    def test_odd_counts(self, dark, fps):
        with pytest.raises(ValueOutOfRangeError):
            gap_of_frames(dark, fps)
