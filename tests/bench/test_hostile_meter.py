"""What a recorder makes of an instrument that misbehaves: nothing wrong, nothing silent."""

import threading
import time
import tomllib

import numpy as np
import pytest
from tests.hardness.hostile_meter import BUFFERED, POLLED, HostileMeter

from yardtoll.bench import recorder as recorder_module
from yardtoll.bench.drivers import wire as wire_module
from yardtoll.bench.drivers.scpi import ScpiMeter, ScpiProfile
from yardtoll.bench.errors import UnreachableError
from yardtoll.bench.meter_time import MeterTime
from yardtoll.bench.recorder import Recorder, RecorderEvents
from yardtoll.bench.samples import SampleBlock, usable
from yardtoll.core.electrical.quantities import Quantity

POWER = Quantity.POWER

PATIENT = POLLED.replace("timeout_ms = 300", "timeout_ms = 1500")
"""A good answer is not taken for a late one where the machine itself stands still for a moment."""


def profile(text):
    stored = tomllib.loads(text)
    del stored["name"]
    return ScpiProfile.model_validate(stored)


class Recorded:
    """A recorder with what it brought."""

    def __init__(self, meter, text=POLLED):
        self.blocks, self.lost, self.found, self.noted, self.failed = [], [], [], [], []
        self.driver = ScpiMeter(meter.address, profile(text))
        events = RecorderEvents(
            lost=self.lost.append,
            found=self.found.append,
            noted=self.noted.append,
            failed=self.failed.append,
        )
        self.recorder = Recorder(
            self.driver, self.blocks.append, events, poll_s=0.01, hand_on_s=0.0
        )

    def __enter__(self):
        self.recorder.start()
        return self

    def __exit__(self, *_):
        self.recorder.stop()

    @property
    def power_w(self):
        return np.concatenate([b.columns[POWER] for b in self.blocks] or [np.empty(0)])

    @property
    def time_s(self):
        return np.concatenate([b.time_s for b in self.blocks] or [np.empty(0)])


def wait_for(condition, timeout_s=60.0):
    deadline = time.monotonic() + timeout_s
    while not condition():
        assert time.monotonic() < deadline, "waited too long"
        time.sleep(0.005)


@pytest.fixture(autouse=True)
def _quick(monkeypatch):
    monkeypatch.setattr(recorder_module, "RETRY_S", 0.02)
    monkeypatch.setattr(recorder_module, "SILENT_S", 0.2)


@pytest.mark.parametrize(
    "mode",
    ["hang", "late", "cut", "garbage", "binary", "long line", "flood", "stray line", "close"],
)
def test_each_bad_way_is_told_once_and_ends_well(mode, monkeypatch):
    monkeypatch.setattr(wire_module, "LONGEST_ANSWER_BYTES", 8_000_000)
    with HostileMeter() as meter, Recorded(meter, PATIENT) as got:
        wait_for(lambda: len(got.blocks) > 3)
        meter.mode, meter.late_s = mode, 2.5
        wait_for(lambda: got.lost)
        time.sleep(0.3)  # many retries, one report
        assert len(got.lost) == 1 and len(got.found) == 1
        meter.mode = "good"
        before = len(got.blocks)
        wait_for(lambda: len(got.blocks) > before + 3)
        assert len(got.found) == 2 and not got.failed
    assert set(got.power_w) == {100.0}  # never the hertz, never a half


def test_after_one_unreadable_answer_a_real_loss_is_told_too():
    with HostileMeter() as meter, Recorded(meter) as got:
        for mode in ("garbage", "hang"):
            meter.mode = mode
            wait_for(lambda mode=mode: len(got.lost) == 1 + (mode == "hang"))
            meter.mode = "good"
            before = len(got.found)
            wait_for(lambda before=before: len(got.found) > before)
    assert len(got.lost) == 2


@pytest.mark.parametrize(("mode", "text"), [("nan", BUFFERED), ("overload", POLLED)])
def test_what_is_no_reading_is_not_kept_as_one(mode, text):
    with HostileMeter() as meter, Recorded(meter, text) as got:
        wait_for(lambda: len(got.blocks) > 3)
        meter.mode = mode
        wait_for(lambda: got.noted)
        time.sleep(0.05)
        meter.mode = "good"
        before = len(got.blocks)
        wait_for(lambda: len(got.blocks) > before + 3)
    assert np.isfinite(got.time_s).all() and np.nanmax(got.power_w) == 100.0
    assert got.noted == ["Meter gave no reading: overload, or no signal"]


def test_a_meter_that_brings_nothing_new_is_lost():
    with HostileMeter() as meter, Recorded(meter, BUFFERED) as got:
        wait_for(lambda: got.blocks)
        meter.mode = "empty"
        wait_for(lambda: got.lost)
        assert got.lost == ["the meter answers, but brings no new samples"]
        meter.mode = "good"
        wait_for(lambda: len(got.found) == 2)


def test_another_instrument_at_the_same_address_is_told():
    with HostileMeter() as meter, Recorded(meter) as got:
        wait_for(lambda: got.blocks)
        meter.mode = "close"
        wait_for(lambda: got.lost)
        meter.identity, meter.mode = "Somebody else's", "good"
        wait_for(lambda: len(got.found) == 2)
    assert got.noted == ["Another meter answers: Somebody else's"]


def test_a_meter_that_restarts_leaves_a_gap_of_the_true_length():
    with HostileMeter() as meter, Recorded(meter, BUFFERED) as got:
        wait_for(lambda: got.time_s.size > 3)
        meter.mode = "close"
        wait_for(lambda: got.lost)
        began, last_s = time.monotonic(), got.time_s[-1]
        time.sleep(0.7)
        meter.reboot()
        meter.mode = "good"
        before = got.time_s.size
        wait_for(lambda: got.time_s.size > before + 3)
        away_s = time.monotonic() - began
        gap_s = got.time_s[before] - last_s
    assert np.all(np.diff(got.time_s) >= 0)
    assert 0.7 <= gap_s <= away_s + 1
    assert any(word.startswith("Meter restarted") for word in got.noted)


def test_stopping_does_not_wait_for_a_meter_that_hangs():
    slow = POLLED.replace("timeout_ms = 300", "timeout_ms = 60000")
    with HostileMeter() as meter:
        got = Recorded(meter, slow)
        got.recorder.start()
        wait_for(lambda: got.blocks)
        meter.mode = "hang"
        time.sleep(0.1)
        got.recorder.stop()
        assert not any(t.name == "recorder" and t.is_alive() for t in threading.enumerate())


class TestMeterTime:
    """By hand: a meter at 1 s, taken in when s is 100 on a clock of its own."""

    def test_it_goes_on_where_it_restarts(self):
        placed = MeterTime()
        assert placed.place(np.array([1.0, 2.0]), 100.0)[1] == 0
        times, away_s = placed.place(np.array([0.0, 1.0]), 132.0)
        # Newest: 2 s + 32 s later; one second before it the other; away since 2 s.
        np.testing.assert_allclose(times, [33.0, 34.0])
        assert away_s == pytest.approx(31.0)
        np.testing.assert_allclose(placed.place(np.array([2.0]), 133.0)[0], [35.0])

    def test_a_restart_inside_one_answer(self):
        placed = MeterTime()
        placed.place(np.array([10.0]), 0.0)
        times, away_s = placed.place(np.array([11.0, 12.0, 0.0, 1.0]), 30.0)
        np.testing.assert_allclose(times, [11.0, 12.0, 39.0, 40.0])
        assert away_s == pytest.approx(27.0)

    def test_a_recording_taken_up_again_by_another_program(self):
        placed = MeterTime(last_s=500.0, at_s=40.0)
        np.testing.assert_allclose(placed.place(np.array([3.0]), 100.0)[0], [560.0])
        on = MeterTime(last_s=500.0, at_s=40.0)
        np.testing.assert_allclose(on.place(np.array([560.5]), 100.0)[0], [560.5])


def test_usable_by_hand():
    block = SampleBlock(
        time_s=np.array([0.0, np.nan, 2.0, 9.91e37]),
        columns={POWER: np.array([1.0, 2.0, np.inf, 4.0]), Quantity.VOLTS: np.full(4, -9.9e37)},
    )
    sound, odd = usable(block)
    np.testing.assert_array_equal(sound.time_s, [0.0, 2.0])
    np.testing.assert_array_equal(sound.columns[POWER], [1.0, np.nan])
    assert odd == 4 and np.isnan(sound.columns[Quantity.VOLTS]).all()


def test_an_address_where_nobody_listens_and_one_that_is_none():
    for address in ("TCPIP::127.0.0.1::1::SOCKET", "TCPIP::127.0.0.1::99999::SOCKET", "x" * 500):
        with pytest.raises(UnreachableError, match="no meter answers at") as refused:
            ScpiMeter(address, profile(POLLED)).open()
        assert len(str(refused.value)) < 200
