"""A yard of an earlier version is brought up to date, a copy kept, nothing lost."""

import dataclasses
import shutil
import sqlite3
import zlib
from pathlib import Path

import pytest
import sqlalchemy as sa
from alembic import command
from alembic.config import Config
from tests.files import content

from yardtoll.core.conformance.scorecard import SHIPPED_POINTS
from yardtoll.core.conformance.yardsticks import SHIPPED_YARDSTICKS
from yardtoll.core.planning.loads import LoadSetting
from yardtoll.store import schema
from yardtoll.store.database import make_engine
from yardtoll.store.errors import DamagedYardError
from yardtoll.store.opening import FRESH
from yardtoll.store.yard_file import YardFile


def old_yard(path, version):
    """A yard as the program of that version left it."""
    path.touch()
    engine = make_engine(path, read_only=False)
    config = Config()
    config.set_main_option("script_location", "src/yardtoll/store/migrations")
    config.set_main_option("path_separator", "os")
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, f"{version:04d}")
    with engine.connect() as connection:
        connection.execute(sa.text(f"PRAGMA application_id = {schema.APPLICATION_ID}"))
        connection.execute(sa.text(f"PRAGMA user_version = {version}"))
        connection.commit()
    engine.dispose()


ROWS_OF_1 = """
INSERT INTO yard VALUES (1, 'Old bench', '2026-01-01', 'guarded', NULL);
INSERT INTO station (id, name, chemistry, source, note, rated_wh, rated_w, removed)
    VALUES (1, 'Clover', 'LFP', 'label', '', 1000, 800, 0), (2, 'Bare', '', '', '', 300, 300, 0);
INSERT INTO load VALUES (1, 'Heater', 412.5, 0);
INSERT INTO meter (id, name, profile, address, reading_share, floor_w, own_draw_w, max_w, removed)
    VALUES (1, 'M', 'p', 'a', 0.01, 0.5, 0, 1800, 0);
INSERT INTO run (id, station_id, number, method, state, origin, started_at, void_reason, own_draw_w,
    soc_from, soc_to, conditions, load_id, meter_id)
    VALUES (1, 1, 1, 'discharge_to_empty', 'finished', 'live', '2026-01-02T00:00:00+00:00', '', 0,
    100, 0, '{}', 1, 1);
INSERT INTO mark VALUES (1, 1, 5.5, 'Fan on', 0);
"""


def test_version_1_becomes_claims_and_settings(tmp_path):
    path = tmp_path / "old.yard"
    old_yard(path, 1)
    with sqlite3.connect(path) as raw:
        raw.executescript(ROWS_OF_1)
    raw.close()
    before = content(path)
    with YardFile.open(path) as yard:
        assert [s.name for s in yard.stations()] == ["Clover", "Bare"]
        assert [(c.kind, c.value, c.words, c.source) for c in yard.claims(1)] == [
            ("rated_wh", 1000, "", "label"),
            ("continuous_w", 800, "", "label"),
            ("chemistry", None, "LFP", "label"),
        ]
        assert [c.kind for c in yard.claims(2)] == ["rated_wh", "continuous_w"]
        (load,) = yard.loads()
        assert load.settings == (LoadSetting(name="on", watts=412.5),)
        assert (load.count, load.kind, load.spec.settings[0].watts) == (1, "resistive", 412.5)
        (meter,) = yard.meters()
        assert (meter.max_w, meter.max_a, meter.place) == (1800, None, "AC outlet")
        (run,) = yard.runs()
        assert (run.method, run.load_id) == ("capacity_ac", 1)
        assert [m.word for m in yard.marks(1)] == ["Fan on"]
        assert yard.site().lift_scale
    kept = tmp_path / "old.before-update-1.yard"
    assert content(kept) == before


def test_a_yard_that_cannot_be_brought_up_to_date_stays_as_it_was(tmp_path):
    path = tmp_path / "old.yard"
    old_yard(path, 1)
    with sqlite3.connect(path) as raw:
        raw.executescript(ROWS_OF_1 + "INSERT INTO mark VALUES (2, 99, 1, 'of no run', 0);")
    raw.close()
    with pytest.raises(DamagedYardError, match="records that belong to none"):
        YardFile.open(path)
    with sqlite3.connect(path) as raw:
        assert raw.execute("PRAGMA user_version").fetchone() == (1,)
        assert raw.execute("SELECT watts FROM load").fetchall() == [(412.5,)]
        assert raw.execute("SELECT name FROM sqlite_master WHERE name = 'claim'").fetchall() == []
    raw.close()
    assert (tmp_path / "old.before-update-1.yard").exists()


def test_version_2_gets_the_scorecard_and_the_further_yardsticks(tmp_path):
    path = tmp_path / "old.yard"
    old_yard(path, 2)
    with sqlite3.connect(path) as raw:
        raw.executescript(
            "INSERT INTO yard VALUES (1, 'Two', '2026-01-01', 'guarded', NULL);"
            "INSERT INTO yardstick (name, limit_ratio, basis, removed)"
            " VALUES ('Mine', 0.7, 'usable_ratio', 0);"
        )
    raw.close()
    with YardFile.open(path) as yard:
        assert [p.point for p in yard.score_points()] == list(SHIPPED_POINTS)
        names = [yardstick.name for yardstick in yard.yardsticks()]
        shipped = [yardstick.name for yardstick in SHIPPED_YARDSTICKS]
        assert names[0] == "Mine" and names[1:] == shipped[4:]
        assert yard.review(1).id is None and yard.observations(1) == []


def test_a_new_yard_has_each_yardstick_once(tmp_path):
    with YardFile.create(tmp_path / "new.yard", "New") as yard:
        assert [s.name for s in yard.yardsticks()] == [s.name for s in SHIPPED_YARDSTICKS]


def test_version_3_gets_how_panels_stand_and_the_sites_records(tmp_path):
    path = tmp_path / "old.yard"
    old_yard(path, 3)
    with sqlite3.connect(path) as raw:
        raw.executescript(
            "INSERT INTO yard VALUES (1, 'Three', '2026-01-01', 'guarded', NULL);"
            "INSERT INTO solar_array (name, series, parallel, module_w, voc_v, vmp_v, isc_a, imp_a,"
            " removed) VALUES ('Roof', 2, 1, 200, 24.2, 20.1, 10.6, 9.95, 0);"
            "UPDATE site SET latitude = 41, temperature_c = 19, horizon_deg = 5;"
        )
    raw.close()
    with YardFile.open(path) as yard:
        (array,) = yard.arrays()
        assert (array.name, array.power_stc_w) == ("Roof", 400)
        assert (array.beta_voc, array.gamma, array.tilt_deg) == (-0.0029, -0.0037, 30)
        assert (array.azimuth_deg, array.wiring_loss, array.on_ground) == (180, 0.02, False)
        site = yard.site()
        assert (site.latitude, site.horizon_deg, site.temperature_c) == (41, 5, 19)
        assert site.coldest_c is None and site.obstacle_height_deg == 0
        yard.put(dataclasses.replace(site, coldest_c=-20.5, obstacle_from_deg=350))
        assert yard.site().coldest_c == -20.5 and yard.site().obstacle_from_deg == 350
    assert (tmp_path / "old.before-update-3.yard").exists()


def test_version_4_gets_what_figures_rest_on(tmp_path):
    path = tmp_path / "old.yard"
    old_yard(path, 4)
    with sqlite3.connect(path) as raw:
        raw.executescript(
            "INSERT INTO yard VALUES (1, 'Four', '2026-01-01', 'shared', NULL);"
            "INSERT INTO station (id, name, chemistry, source, note, rated_wh, rated_w, removed)"
            " VALUES (1, 'Clover', 'LFP', 'label', '', 1000, 800, 0);"
            "INSERT INTO meter (id, name, profile, address, reading_share, floor_w, own_draw_w,"
            " removed) VALUES (1, 'M', 'p', 'a', 0.01, 0.5, 0, 0);"
            "INSERT INTO claim (station_id, kind, value, source, note, text, condition, words,"
            " removed) VALUES (1, 'recharge_w', 900, 'label', '', '', '', '', 0);"
            "INSERT INTO run (id, station_id, number, method, state, origin, started_at,"
            " void_reason, own_draw_w, soc_from, soc_to, conditions, meter_id)"
            " VALUES (1, 1, 1, 'capacity_ac', 'finished', 'live', '2026-01-02T00:00:00+00:00',"
            " '', 0, 100, 0, '{}', 1);"
        )
    raw.close()
    with YardFile.open(path) as yard:
        info = yard.info()
        assert (info.rule, info.repeatability) == ("likely", 0.005)
        (meter,) = yard.meters()
        assert (meter.common_share, meter.phase_deg, meter.step_wh) == (0.5, 0, None)
        assert (meter.volts_share, meter.hertz_floor_hz) == (None, None)
        (claim,) = yard.claims(1)
        assert (claim.value, claim.wording, claim.judged_as) == (900, "", "")
        (run,) = yard.runs()
        assert (run.ended_by, run.explained) == ("", {})
        assert (yard.site().time_zone, yard.site().sensor_share) == ("", 0.05)
        yard.put(dataclasses.replace(run, explained={"frozen": "seen beside the display"}))
        assert yard.runs()[0].explained == {"frozen": "seen beside the display"}


def test_version_6_gets_checksums_and_the_uptime_of_its_blocks(tmp_path):
    path = tmp_path / "old.yard"
    shutil.copy(Path(__file__).parent / "yards" / "version-6.yard", path)
    YardFile.open(path).close()
    with sqlite3.connect(path) as raw:
        blocks = raw.execute("SELECT data, checksum, kept_boot_s FROM recording_block").fetchall()
    raw.close()
    assert blocks and all(zlib.crc32(data) == known for data, known, _ in blocks)
    assert all(uptime is None for *_, uptime in blocks)  # taken for the clock's time


def test_a_new_yards_tables_are_those_the_migrations_make(tmp_path):
    """After a new migration `tools/make_fresh_schema.py` is to be run."""
    stepped, fresh = tmp_path / "stepped.yard", tmp_path / "fresh.yard"
    old_yard(stepped, schema.SCHEMA_VERSION)
    connection = sqlite3.connect(fresh)
    connection.executescript(FRESH.read_text("utf-8"))
    connection.close()

    def whole(path):
        connection = sqlite3.connect(path)
        numbers = [
            connection.execute(f"PRAGMA {name}").fetchone()
            for name in ("application_id", "user_version")
        ]
        found = [*connection.iterdump(), numbers]
        connection.close()
        return found

    assert whole(stepped) == whole(fresh)
