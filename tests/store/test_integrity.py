"""What is wrong with a yard is named, and the sound rest can be saved."""

import sqlite3
from contextlib import closing
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from tests.files import PNG, content

from yardtoll.cli import main
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.store.backups import backup_folder, backups, keep_todays
from yardtoll.store.errors import YardError
from yardtoll.store.integrity import examine, repair
from yardtoll.store.records import Mark, Photo, Recording, Run, Station
from yardtoll.store.yard_file import YardFile

POWER = Quantity.POWER
ROWS = 1000


@pytest.fixture
def path(tmp_path):
    """A closed yard: two stations, two runs, three blocks of samples each, a photo."""
    path = tmp_path / "bench.yard"
    with YardFile.create(path, "Bench") as yard:
        for name in ("Clover", "Fennel"):
            station = yard.put(Station(name=name, rated_wh=1000, rated_w=800))
            run = yard.put(
                Run(station_id=station.id, number=1, method="capacity_ac", state="finished",
                    origin="live", started_at="2026-05-14T10:00:00+00:00")
            )  # fmt: skip
            yard.put(Mark(run_id=run.id, time_s=5, word="Fan on"))
            main = yard.put(Recording(run_id=run.id, role="ac_output", quantities=("power",)))
            for block in range(3):
                times = np.arange(ROWS) + block * ROWS
                watts = np.round(np.random.default_rng(len(name) + block).normal(400, 2, ROWS), 1)
                yard.append_samples(main.id, times.astype(float), {POWER: watts})
        photo = Photo(station_id=1, name="p", media_type="image/png", size_bytes=len(PNG))
        yard.keep_photo(photo, PNG)
    return path


def change(path, *statements):
    with sqlite3.connect(path) as raw:
        for statement in statements:
            raw.execute(statement)
    raw.close()


def sizes(path):
    with YardFile.open(path) as yard:
        return {
            yard.get(Station, run.station_id).name: yard.trace(run.id).time_s.size
            for run in yard.runs()
        }


def test_a_sound_yard(path):
    before = path.read_bytes()
    found = examine(path)
    assert found.is_sound and found.blocks == 6
    assert path.read_bytes() == before
    assert sorted(p.name for p in path.parent.iterdir()) == ["bench.yard"]


def test_one_bit_of_one_sample(path, tmp_path):
    data = bytearray(path.read_bytes())
    with closing(sqlite3.connect(path)) as raw:
        (block,) = raw.execute("SELECT data FROM recording_block").fetchone()
    # From its end: blocks begin with the same times.
    data[data.index(block[-60:]) + 10] ^= 0x10
    path.write_bytes(data)
    assert examine(path).findings == ["block 0 of recording 1: its samples are damaged"]
    left_out = repair(path, tmp_path / "saved.yard")
    assert left_out.findings == ["recording_block: 1 left out"]
    assert sizes(tmp_path / "saved.yard") == {"Clover": 2 * ROWS, "Fennel": 3 * ROWS}
    assert examine(tmp_path / "saved.yard").is_sound


def test_rows_that_do_not_fit_and_rows_that_belong_to_none(path, tmp_path):
    change(
        path,
        "UPDATE station SET rated_wh = 0 WHERE id = 1",
        "INSERT INTO mark (id, run_id, time_s, word, withdrawn, ends_run)"
        " VALUES (9, 77, 1, 'x', 0, 0)",
    )
    found = " · ".join(examine(path).findings)
    assert "rated_wh" in found and "mark 9 belongs to a run that is not there" in found
    repair(path, tmp_path / "saved.yard")
    assert sizes(tmp_path / "saved.yard") == {"Fennel": 3 * ROWS}


@pytest.mark.parametrize("seed", range(8))
def test_damaged_pages(path, tmp_path, seed):
    """Whatever bytes are broken: a sentence each, and what is read of it is sound."""
    random = np.random.default_rng(seed)
    data = bytearray(path.read_bytes())
    for place in random.integers(100, len(data), 30):
        data[place] = random.integers(256)
    path.write_bytes(data)
    found = examine(path)
    assert not found.is_sound and all("\n" not in sentence for sentence in found.findings)
    try:
        repair(path, tmp_path / "saved.yard")
    except YardError:
        return
    assert examine(tmp_path / "saved.yard").is_sound


def test_nothing_is_lost_of_a_sound_one(path, tmp_path):
    assert repair(path, tmp_path / "again.yard").is_sound
    assert content(tmp_path / "again.yard") == content(path)


def test_it_never_overwrites(path, tmp_path):
    (tmp_path / "there.yard").write_text("mine")
    with pytest.raises(YardError, match="already there"):
        repair(path, tmp_path / "there.yard")
    assert (tmp_path / "there.yard").read_text() == "mine"


def test_in_the_shell(path, capsys, tmp_path):
    def run(*arguments):
        with pytest.raises(SystemExit) as stop:
            main([str(a) for a in arguments])
        said = capsys.readouterr()
        return stop.value.code or 0, said.out, said.err

    assert run("check", path)[:2] == (
        0,
        "bench.yard: sound; 6 blocks of samples agree with their checksums\n",
    )
    change(path, "UPDATE station SET rated_w = -1 WHERE id = 2")
    code, said, _ = run("check", path, "--repair", tmp_path / "saved.yard")
    assert code == 1 and "station 2: rated_w" in said and "saved.yard: made\n" in said
    code, _, said = run("check", tmp_path / "none.yard")
    assert code == 1 and "does not exist" in said


class TestBackups:
    DAY = datetime(2026, 5, 20, 18, 0, tzinfo=UTC)

    def test_one_a_day_of_a_yard_that_changed(self, path):
        with YardFile.open(path) as yard:
            copy = keep_todays(yard, self.DAY)
            assert copy == backup_folder(path) / "bench 2026-05-20.yard"
            assert keep_todays(yard, self.DAY) is None
            assert keep_todays(yard, self.DAY + timedelta(days=1)) is None  # nothing changed
            yard.put(Station(name="Sorrel", rated_wh=1, rated_w=1))
            assert keep_todays(yard, self.DAY + timedelta(days=1)) is not None
        with YardFile.open(copy) as before:
            assert [s.name for s in before.stations()] == ["Clover", "Fennel"]

    def test_they_go_after_a_month(self, path):
        with YardFile.open(path) as yard:
            keep_todays(yard, self.DAY)
            (backup_folder(path) / "bench of mine.yard").write_text("stays")
            yard.put(Station(name="Sorrel", rated_wh=1, rated_w=1))
            later = self.DAY + timedelta(days=31)
            keep_todays(yard, later)
        assert [day for day, _ in backups(path)] == [later.date()]
        assert (backup_folder(path) / "bench of mine.yard").exists()

    def test_a_yard_made_today_needs_none(self, path):
        with YardFile.open(path) as yard:
            made_at = datetime.fromisoformat(yard.info().created_at)
            assert keep_todays(yard, made_at) is None

    @pytest.mark.parametrize("zone", ["Pacific/Auckland", "America/Denver"])
    def test_today_is_that_of_the_bench(self, path, zone):
        """West of UTC an evening's yard is made on the next day of UTC, east on the one before."""
        there = ZoneInfo(zone)
        for hour, days in ((1, 0), (23, 0), (1, 1)):
            with YardFile.open(path) as yard:
                made_at = datetime(2026, 5, 20, hour, 30, tzinfo=there)
                yard.put(replace(yard.info(), created_at=made_at.astimezone(UTC).isoformat()))
                copy = keep_todays(yard, made_at + timedelta(days=days, minutes=20))
                assert (copy is not None) == bool(days)
