"""A recording whose yard cannot be written for a while, whose clock is set, whose file is moved."""

import contextlib
import queue
import sqlite3
import time

import numpy as np
import pytest

from yardtoll.bench.samples import SampleBlock
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.running import keeping
from yardtoll.running.keeping import Notes, retried
from yardtoll.running.recording import InstrumentRecording, RecordingEvents
from yardtoll.store import database, yard_file
from yardtoll.store.errors import BusyYardError, FullDiskError
from yardtoll.store.records import Mark, Recording, Run, Station
from yardtoll.store.yard_file import YardFile

POWER = Quantity.POWER


@pytest.fixture
def path(tmp_path):
    return tmp_path / "a.yard"


@pytest.fixture
def yard(path, monkeypatch):
    monkeypatch.setattr(database, "_WAIT_S", 0.05)
    with YardFile.create(path, "Bench") as made:
        station = made.put(Station(name="Clover", rated_wh=1000, rated_w=800))
        run = made.put(
            Run(station_id=station.id, number=1, method="capacity_ac", state="running",
                origin="live", started_at="2026-05-14T10:00:00+00:00")
        )  # fmt: skip
        made.put(Recording(run_id=run.id, role="ac_output", quantities=("power",)))
        yield made


class Instrument:
    """One sample at a time, as fast as it is asked."""

    keeps_time = True
    interval_s = 0.05

    def __init__(self):
        self.count = 0

    def open(self, *, prepare=True):
        return "an instrument"

    def read_new(self):
        self.count += 1
        return SampleBlock(time_s=np.array([float(self.count)]), columns={POWER: np.array([5.0])})

    def break_off(self):
        """Nothing waits."""

    def close(self):
        """Nothing is open."""


class Recorded:
    """A recording with its events, run on this thread."""

    def __init__(self, yard):
        self.posted, self.kept, self.held, self.failed = queue.SimpleQueue(), [], [], []
        self.notes = Notes(yard)
        self.recording = InstrumentRecording(
            yard,
            yard.recordings(1)[0],
            Instrument(),
            RecordingEvents(
                kept=self.kept.append, found=lambda _: None, lost=lambda _: None,
                noted=lambda _: None, held_up=self.held.append, failed=self.failed.append,
            ),
            self.posted.put,
            self.notes,
        )  # fmt: skip

    def until(self, done):
        give_up = time.monotonic() + 60
        while not done():
            assert time.monotonic() < give_up, "it never came"
            with contextlib.suppress(queue.Empty):
                self.posted.get(timeout=0.05)()


@pytest.fixture
def recorded(yard):
    made = Recorded(yard)
    yield made
    made.recording.stop()


def held_by_another(path):
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    return contextlib.closing(other)


def test_samples_and_marks_wait_while_another_program_writes(path, yard, recorded):
    recorded.recording.start()
    recorded.until(lambda: len(recorded.kept) >= 2)
    with held_by_another(path) as other:
        recorded.until(lambda: recorded.held)
        assert "being changed by another program" in recorded.held[0]
        mark = recorded.notes.keep(Mark(run_id=1, time_s=3, word="Fan on"))
        assert mark.id is None and yard.marks(1) == []
        shown = len(recorded.kept)  # nothing is shown that is not on disk
        time.sleep(0.3)
        assert len(recorded.kept) == shown
        other.execute("ROLLBACK")
    recorded.until(lambda: len(recorded.held) == 2)
    assert recorded.held[1] == "" and not recorded.failed
    recorded.until(lambda: len(recorded.kept) > shown + 2)
    assert [mark.word for mark in yard.marks(1)] == ["Fan on"]
    recorded.recording.stop()
    recorded.until(recorded.posted.empty)
    times = yard.trace(1).time_s
    np.testing.assert_array_equal(np.diff(times), 1.0)  # none is missing, none twice
    assert times.size == recorded.recording.instrument.count


def test_a_disk_that_is_full_for_a_moment(yard, recorded, monkeypatch):
    real, full = yard.append_samples, []

    def sometimes(*arguments):
        if len(full) < 3:
            full.append(1)
            raise FullDiskError("a.yard cannot be written: the disk is full")
        real(*arguments)

    monkeypatch.setattr(yard, "append_samples", sometimes)
    recorded.recording.start()
    recorded.until(lambda: len(recorded.kept) >= 5)
    assert recorded.held == ["a.yard cannot be written: the disk is full", ""]
    assert yard.trace(1).time_s[0] == 0 and not recorded.failed


def test_the_end_waits_too(path, yard, recorded):
    recorded.recording.start()
    recorded.until(lambda: recorded.kept)
    ended = []
    with held_by_another(path) as other:
        recorded.recording.stop_soon(lambda: ended.append(True))
        time.sleep(0.5)
        assert not ended
        other.execute("ROLLBACK")
    recorded.until(lambda: ended)
    assert yard.trace(1).time_s.size == recorded.recording.instrument.count


def test_retried_gives_up_in_the_end(monkeypatch):
    monkeypatch.setattr(keeping, "_PAUSE_S", 0.01)

    def busy():
        raise BusyYardError("held")

    with pytest.raises(BusyYardError):
        retried(busy, 0.05)
    assert retried(lambda: 7, 0.0) == 7


class TestHowLongAgo:
    """By the computer's uptime, so that setting its clock moves nothing."""

    @pytest.fixture
    def kept(self, yard):
        yard.append_samples(1, np.arange(3.0), {POWER: np.ones(3)})
        return yard

    @pytest.mark.parametrize("by_s", [3600.0, -3600.0])
    def test_the_clock_was_set(self, kept, monkeypatch, by_s):
        real = time.time
        monkeypatch.setattr(yard_file.time, "time", lambda: real() + by_s)
        assert 0 <= kept.away_s(1) < 60

    def test_the_computer_slept(self, kept, monkeypatch):
        real = yard_file.boot_s
        monkeypatch.setattr(yard_file, "boot_s", lambda: real() + 500)
        assert 500 <= kept.away_s(1) < 560

    def test_it_was_started_anew_and_its_clock_is_behind(self, kept, monkeypatch):
        monkeypatch.setattr(yard_file, "boot_id", lambda: "another")
        assert 0 <= kept.away_s(1) < 60
        real = time.time
        monkeypatch.setattr(yard_file.time, "time", lambda: real() - 3600)
        assert kept.away_s(1) is None  # nobody knows
