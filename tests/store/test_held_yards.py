"""A yard that is open twice, moved, deleted, or held by another program."""

import contextlib
import os
import shutil
import sqlite3
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from conftest_helpers import one_setting
from tests.files import open_elsewhere
from tests.records import recording

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.store import database
from yardtoll.store.errors import (
    BusyYardError,
    ReadOnlyYardError,
    YardError,
)
from yardtoll.store.yard_file import YardFile

POWER, VOLTS = Quantity.POWER, Quantity.VOLTS


def test_a_second_window_may_look_but_not_change(path, yard, run):
    stations = yard.stations()
    yard.close()
    with open_elsewhere(path), YardFile.open(path) as second:
        assert second.read_only
        assert second.stations() == stations
        with pytest.raises(ReadOnlyYardError, match="open in another window"):
            second.put(one_setting("x", 1))
    with YardFile.open(path) as third:
        assert not third.read_only


LOOK = """
import sqlite3, sys
other = sqlite3.connect(sys.argv[1])
other.execute("SELECT * FROM load").fetchall()
other.close()
"""


class TestOpenOnce:
    def test_the_same_file_is_the_same_yard_whatever_its_path(self, path, yard, tmp_path):
        (tmp_path / "linked.yard").symlink_to(path)
        os.link(path, tmp_path / "hard.yard")
        for name in ("bench.yard", "linked.yard", "hard.yard"):
            with YardFile.open(tmp_path / name) as again:
                assert again is yard
        yard.put(one_setting("still open", 1))

    def test_no_lock_is_dropped_by_a_second_open(self, path, yard):
        """Another program's close must not take the log that is in use with it."""
        YardFile.open(path).close()
        yard.put(one_setting("Lamp", 1))
        subprocess.run([sys.executable, "-c", LOOK, str(path)], check=True)
        assert path.with_name("bench.yard-wal").stat().st_size > 0
        with sqlite3.connect(f"file:{path}?mode=ro", uri=True) as raw:
            assert raw.execute("SELECT name FROM load").fetchall() == [("Lamp",)]
        raw.close()


class TestMoved:
    def test_renamed_under_a_recording(self, path, yard, run):
        main = recording(yard, run, POWER)
        yard.append_samples(main, np.arange(5.0), {POWER: np.ones(5)})
        elsewhere = path.rename(path.with_name("renamed.yard"))
        assert yard.is_moved
        yard.stay_whole()
        yard.append_samples(main, np.arange(5.0, 9), {POWER: np.ones(4)})
        assert yard.trace(run.id).time_s.size == 9 and not path.exists()
        kept = shutil.copy(elsewhere, path.with_name("copy.yard"))  # the file alone, log or not
        with YardFile.open(Path(kept)) as copy:
            assert copy.trace(run.id).time_s.size == 9

    def test_kept_here_again(self, path, yard, run):
        path.unlink()
        assert yard.is_moved
        yard.keep_here()
        assert not yard.is_moved
        yard.put(one_setting("after", 1))
        yard.close()
        with YardFile.open(path) as again:
            assert [load.name for load in again.loads()] == ["after"]
            assert again.runs()

    def test_its_whole_folder_is_gone(self, tmp_path):
        path = tmp_path / "bench" / "a.yard"
        path.parent.mkdir()
        with YardFile.create(path, "Bench") as yard:
            yard.put(one_setting("before", 1))
            shutil.rmtree(path.parent)
            yard.put(one_setting("after", 1))
            yard.keep_here()
            yard.put(one_setting("on", 1))
        with YardFile.open(path) as again:
            assert [load.name for load in again.loads()] == ["before", "after", "on"]

    def test_another_file_in_its_place_is_not_replaced(self, path, yard):
        path.rename(path.with_name("ours.yard"))
        path.write_bytes(b"somebody else's")
        with pytest.raises(YardError, match="another file"):
            yard.keep_here()
        assert path.read_bytes() == b"somebody else's"

    def test_deleted_and_closed_it_is_written_again(self, path, yard, run):
        main = recording(yard, run, POWER)
        yard.append_samples(main, np.arange(5.0), {POWER: np.ones(5)})
        path.unlink()
        yard.close()
        with YardFile.open(path) as again:
            assert again.trace(run.id).time_s.size == 5


class TestHeldByAnotherProgram:
    def test_a_write_lock_is_said_and_nothing_is_changed(self, path, yard):
        with contextlib.closing(sqlite3.connect(path, isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")
            with pytest.raises(BusyYardError, match="being changed by another program"):
                yard.put(one_setting("x", 1))
            other.execute("ROLLBACK")
        yard.put(one_setting("y", 1))
        assert [load.name for load in yard.loads()] == ["y"]

    def test_a_file_alone_lacks_seconds_not_hours(self, path, yard, run, monkeypatch):
        monkeypatch.setattr(database, "_CHECKPOINT_S", 0.0)
        main = recording(yard, run, POWER)
        yard.append_samples(main, np.arange(5.0), {POWER: np.ones(5)})
        copy = Path(shutil.copy(path, path.with_name("copy.yard")))
        with YardFile.open(copy) as alone:
            assert alone.trace(run.id).time_s.size == 5
