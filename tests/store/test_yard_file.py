"""The yard file: what is put in comes out, nothing is lost, nothing foreign is touched."""

import os
import re
import signal
import sqlite3
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from conftest_helpers import one_setting
from tests.records import recording

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import ClockBasis, Code, Notice, Trace
from yardtoll.core.errors import FieldError
from yardtoll.store import schema
from yardtoll.store.errors import (
    DamagedYardError,
    NewerYardError,
    NotAYardError,
    YardError,
)
from yardtoll.store.importing import import_logs
from yardtoll.store.records import (
    SIMULATED,
    Mark,
    Meter,
    Reading,
    Recording,
)
from yardtoll.store.yard_file import YardFile

POWER, VOLTS = Quantity.POWER, Quantity.VOLTS
MAIN = Recording(run_id=0, role="ac_output")


def test_every_kind_of_record_survives_closing(path, yard, run):
    kept = [
        yard.put(Meter(name="M", profile="p", address="x", reading_share=0.01, floor_w=0.5)),
        yard.put(one_setting("Heater", 410)),
        yard.put(Mark(run_id=run.id, time_s=3.5, word="Fan on")),
        yard.put(Reading(run_id=run.id, time_s=4.5, kind="soc", value=88)),
        run,
    ]
    yard.close()
    with YardFile.open(path) as again:
        for record in kept:
            assert again.get(type(record), record.id) == record
        assert again.info().name == "Bench"
        assert [s.name for s in again.yardsticks()][:2] == ["Pass", "Good"]
        assert again.unfinished_runs() == [run]


def test_removed_and_withdrawn_records_stay_but_are_not_listed(yard, run):
    station = yard.stations()[0]
    yard.put(replace(station, removed=True))
    assert yard.stations() == []
    yard.put(station)
    assert yard.stations() == [station]
    mark = yard.put(Mark(run_id=run.id, time_s=1, word="odd"))
    yard.put(replace(mark, withdrawn=True))
    assert yard.marks(run.id) == []


def test_blocks_merge_without_changing_a_sample(yard, run, monkeypatch):
    monkeypatch.setattr("yardtoll.store.recordings.ROWS_A_BLOCK", 300)
    rng = np.random.default_rng(3)
    t, p = np.arange(1000.0) + 7, rng.normal(size=1000)
    main = recording(yard, run, POWER, VOLTS)
    for start in range(0, 1000, 90):
        rows = slice(start, start + 90)
        yard.append_samples(main, t[rows], {POWER: p[rows]})
    before = yard.trace(run.id)
    yard.merge_samples(run.id)
    after = yard.trace(run.id)
    for trace in (before, after):
        np.testing.assert_array_equal(trace.time_s, t - 7)
        np.testing.assert_array_equal(trace.columns[POWER], p)
        assert np.isnan(trace.columns[VOLTS]).all()
    assert yard.first_and_last_sample_s(main) == (7, 1006)
    with sqlite3.connect(yard.path) as raw:
        assert raw.execute("SELECT row_count FROM recording_block").fetchall() == [(300,)] * 3 + [
            (100,)
        ]


def test_a_whole_trace_keeps_clock_and_notices(yard, run):
    trace = Trace(
        name="log.csv",
        time_s=np.array([0.0, 1, 2]),
        columns={POWER: np.array([1.0, np.nan, 3])},
        clock_s=1.7e9,
        clock_basis=ClockBasis.UTC,
        notices=(Notice(code=Code.MISSING_VALUES, message="one"),),
    )
    kept = yard.keep_run(replace(run, id=None, number=2, state="finished"), [(MAIN, trace)])
    again = yard.trace(kept.id)
    assert (again.name, again.clock_s, again.clock_basis, again.notices) == (
        trace.name, trace.clock_s, trace.clock_basis, trace.notices,
    )  # fmt: skip
    np.testing.assert_array_equal(again.columns[POWER], trace.columns[POWER])


def test_a_run_is_kept_with_its_trace_or_not_at_all(yard, run, monkeypatch):
    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("yardtoll.store.recordings.append_block", full)
    trace = Trace(name="x", time_s=np.arange(3.0), columns={POWER: np.ones(3)})
    with pytest.raises(OSError, match="No space"):
        yard.keep_run(replace(run, id=None, number=2), [(MAIN, trace)])
    assert yard.runs() == [run]
    yard.put(one_setting("still writable", 1))


def test_a_long_trace_is_cut_into_blocks(yard, run, monkeypatch):
    monkeypatch.setattr("yardtoll.store.recordings.ROWS_A_BLOCK", 300)
    trace = Trace(name="x", time_s=np.arange(700.0), columns={POWER: np.arange(700.0)})
    kept = yard.keep_run(replace(run, id=None, number=2), [(MAIN, trace)])
    np.testing.assert_array_equal(yard.trace(kept.id).columns[POWER], np.arange(700.0))
    assert yard.first_and_last_sample_s(yard.main_recording(kept.id).id) == (0, 699)


def test_a_meter_that_restarted_its_clock_is_put_in_order_and_told(yard, run):
    main = recording(yard, run, POWER)
    yard.append_samples(main, np.array([5.0, 6, 7]), {POWER: np.ones(3)})
    yard.append_samples(main, np.array([0.0, 1, 2]), {POWER: np.ones(3)})
    trace = yard.trace(run.id)
    np.testing.assert_array_equal(trace.time_s, np.arange(6.0))
    assert trace.notices[0].code is Code.TIME_NOT_MONOTONIC


class TestDamagedBlocks:
    def test_the_sound_blocks_are_read(self, path, yard, run):
        main = recording(yard, run, POWER)
        for start in (0.0, 10.0, 20.0):
            yard.append_samples(main, start + np.arange(10.0), {POWER: np.ones(10)})
        yard.close()
        with sqlite3.connect(path) as raw:
            raw.execute("UPDATE recording_block SET data = zeroblob(160) WHERE seq = 1")
        raw.close()
        with YardFile.open(path) as again:
            trace = again.trace(run.id)
            assert trace.time_s.size == 20
            assert "1 block of samples damaged" in trace.notices[0].message
            again.merge_samples(run.id)  # what is damaged is not thrown away
            assert len(again.trace(run.id).notices) == 1

    def test_a_time_that_is_no_number(self, yard, run):
        main = recording(yard, run, POWER)
        yard.append_samples(main, np.array([0.0, np.nan, 2.0]), {POWER: np.ones(3)})
        trace = yard.trace(run.id)
        np.testing.assert_array_equal(trace.time_s, [0.0, 2.0])
        assert "1 sample without a time" in trace.notices[0].message


@pytest.mark.skipif(os.geteuid() == 0, reason="nothing is forbidden to root")
def test_a_folder_that_may_not_be_written(path, yard):
    yard.close()
    path.parent.chmod(0o500)
    try:
        with YardFile.open(path) as shown:
            assert shown.read_only and "may not be written" in shown.why_read_only
            assert shown.info().name == "Bench"
    finally:
        path.parent.chmod(0o700)


def test_what_could_run_is_refused(path, yard):
    yard.close()
    with sqlite3.connect(path) as raw:
        raw.execute("CREATE TRIGGER t AFTER INSERT ON load BEGIN DELETE FROM station; END")
    raw.close()
    with pytest.raises(YardError, match="holds a trigger"):
        YardFile.open(path)


def test_create_never_overwrites(path, yard):
    with pytest.raises(YardError, match="already there"):
        YardFile.create(path, "again")
    with pytest.raises(YardError, match="cannot be written"):
        YardFile.create(path.parent / "no folder" / "x.yard", "x")


def broken(path, what):
    data = bytearray(path.read_bytes())
    if what == "text":
        return b"just some text that is longer than a hundred bytes " * 4
    if what == "short":
        return bytes(data[: len(data) // 2])
    if what == "page":
        for page in range(1, len(data) // 4096):
            data[page * 4096 : page * 4096 + 64] = b"\xff" * 64
        return bytes(data)
    if what == "newer":
        data[60:64] = (99).to_bytes(4, "big")
        return bytes(data)
    assert what == "other"
    data[68:72] = (1).to_bytes(4, "big")
    return bytes(data)


@pytest.mark.parametrize(
    ("what", "error", "message"),
    [
        ("text", NotAYardError, "is not a yard file"),
        ("short", DamagedYardError, "is damaged"),
        ("page", DamagedYardError, "is damaged"),
        ("newer", NewerYardError, "made by a newer version"),
        ("other", NotAYardError, "another program"),
    ],
)
def test_what_is_not_a_whole_yard_is_refused_unchanged(path, yard, what, error, message):
    yard.close()
    content = broken(path, what)
    path.write_bytes(content)
    with pytest.raises(error, match=message) as caught:
        YardFile.open(path)
    assert str(caught.value).endswith("nothing was changed")
    assert path.read_bytes() == content
    assert os.listdir(path.parent) == [path.name]


def test_an_older_file_is_copied_before_it_is_brought_up_to_date(path, yard):
    """As left by a program that died while making the file: tables there, version not set."""
    yard.close()
    with sqlite3.connect(path) as raw:
        raw.execute("PRAGMA user_version = 0")
        raw.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    raw.close()
    with YardFile.open(path) as again:
        assert again.info().name == "Bench"
    assert (path.parent / "bench.before-update-0.yard").exists()
    with sqlite3.connect(path) as raw:
        assert raw.execute("PRAGMA user_version").fetchone() == (schema.SCHEMA_VERSION,)


def test_the_migrations_make_the_tables_the_program_knows(yard):
    import sqlalchemy as sa

    inspector = sa.inspect(sa.create_engine(f"sqlite:///{yard.path}"))
    for table in schema.metadata.sorted_tables:
        columns = {c["name"]: c["nullable"] for c in inspector.get_columns(table.name)}
        assert columns == {c.name: bool(c.nullable) for c in table.columns}


KILLED = """
import sys, time, numpy as np
from pathlib import Path
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.store.records import Recording, Run, Station
from yardtoll.store.yard_file import YardFile
yard = YardFile.create(Path(sys.argv[1]), "K")
station = yard.put(Station(name="S", rated_wh=1, rated_w=1))
run = yard.put(Run(station_id=station.id, number=1, method="capacity_ac", state="running",
                   origin="live", started_at="2026-01-01T00:00:00+00:00"))
main = yard.put(Recording(run_id=run.id, role="ac_output", quantities=("power",))).id
for second in range(10_000):
    yard.append_samples(main, np.array([float(second)]), {Quantity.POWER: np.array([5.0])})
    print(second, flush=True)
    time.sleep(0.01)
"""


def test_a_killed_program_loses_nothing_it_had_kept(path):
    process = subprocess.Popen(
        [sys.executable, "-c", KILLED, str(path)], stdout=subprocess.PIPE, text=True
    )
    for line in process.stdout:
        if int(line) == 25:
            break
    process.send_signal(signal.SIGKILL)
    process.wait()
    process.stdout.close()
    time.sleep(0.05)
    with YardFile.open(path) as yard:
        assert not yard.read_only
        (run,) = yard.unfinished_runs()
        assert yard.trace(run.id).time_s[-1] >= 25


class TestImportingLogs:
    LOG = "time,power\n" + "".join(f"{i * 10},{0 if i > 360 else 400}\n" for i in range(370))

    def test_a_log_becomes_a_finished_run(self, tmp_path, path):
        log = tmp_path / "a.csv"
        log.write_text(self.LOG)
        said = import_logs([log], path, "Tansy", rated_wh=500, rated_w=600)
        assert said == ["a.csv: run 1 of Tansy, 400.6 Wh over 1.02 h"]
        assert import_logs([log], path, "tansy")[0].startswith("a.csv: run 2 of Tansy")
        with YardFile.open(path) as yard:
            first, _ = yard.runs()
            assert (first.state, first.conditions.file) == ("finished", "a.csv")
            assert yard.trace(first.id).time_s.size == 370

    def test_nothing_is_written_when_a_log_is_bad(self, tmp_path, path):
        good, bad = tmp_path / "a.csv", tmp_path / "b.csv"
        good.write_text(self.LOG)
        bad.write_text("nothing here")
        with pytest.raises(Exception, match=r"b\.csv"):
            import_logs([good, bad], path, "Tansy", rated_wh=500, rated_w=600)
        with pytest.raises(FieldError, match="the rated energy and the rated power add it"):
            import_logs([good], path, "Tansy")
        assert not path.exists()


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ("UPDATE station SET name = NULL", "station 1: name is missing"),
        ("UPDATE station SET rated_wh = 0", "rated_wh"),
        ("UPDATE station SET rated_w = 'much'", "rated_w is not a number"),
        ("UPDATE yard SET rule = 'mine'", "rule"),
        ("UPDATE run SET conditions = '{'", "run 1: conditions is not JSON"),
        ("UPDATE run SET state = 'flying'", "state"),
        ("DELETE FROM yard", "yard: it has no row"),
    ],
)
def test_a_row_the_program_could_not_have_written(path, yard, run, change, said):
    yard.close()
    with sqlite3.connect(path) as raw:
        raw.execute("PRAGMA writable_schema = ON")
        raw.execute("UPDATE sqlite_master SET sql = replace(sql, ' NOT NULL', '')")
        raw.execute("PRAGMA writable_schema = RESET")
        raw.execute(change)
    raw.close()
    with pytest.raises(DamagedYardError, match=re.escape(said)):
        YardFile.open(path)


def test_a_place_that_cannot_be_written_is_one_sentence(tmp_path):
    for place in (tmp_path / "none" / "a.yard", Path("/proc/a.yard"), tmp_path / ("x" * 300)):
        with pytest.raises(YardError, match="cannot be written"):
            YardFile.create(place, "Bench")


def test_the_meter_used_last_is_offered_first(yard, run):
    names = ("Old plug", "New plug", "Simulated")
    simulated, old, new = (
        yard.put(Meter(name=name, profile="", address=address, reading_share=0.01, floor_w=0.5))
        for name, address in zip((names[2], *names[:2]), (SIMULATED, "", ""), strict=True)
    )
    assert [m.name for m in yard.meters_by_use()] == ["Old plug", "New plug", "Simulated"]
    yard.put(replace(run, meter_id=new.id))
    later = replace(run, id=None, number=2, started_at="2026-05-15T10:00:00+00:00")
    yard.put(replace(later, meter_id=simulated.id))
    assert [m.name for m in yard.meters_by_use()] == ["New plug", "Old plug", "Simulated"]
    yard.put(replace(later, number=3, meter_id=old.id))
    assert yard.meters_by_use()[0].name == "Old plug"
