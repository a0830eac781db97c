"""A whole yard out and in again: everything compared; packages made by hand, with bad rows."""

import csv
import json
import os
import re
import shutil
import sqlite3
from dataclasses import replace

import frictionless
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.files import PNG

from yardtoll.core.conformance.scorecard import SHIPPED_POINTS
from yardtoll.core.conformance.yardsticks import SHIPPED_YARDSTICKS
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.report.sheet.render import sheet_html
from yardtoll.review.sheet.build import build_sheet
from yardtoll.store.errors import PackageError, YardError
from yardtoll.store.package.bulk import rows_of, samples_of
from yardtoll.store.package.reading import is_package, read_package
from yardtoll.store.package.tables import TABLES
from yardtoll.store.package.writing import write_package
from yardtoll.store.records import (
    Accessory,
    Conditions,
    Entry,
    Mark,
    Meter,
    Observation,
    Photo,
    Reading,
    Receiving,
    Recording,
    Review,
    Run,
    Station,
    StoredClaim,
    StoredYardstick,
)
from yardtoll.store.schema import SCHEMA_VERSION
from yardtoll.store.yard_file import YardFile

ODD_CELLS = ["", "nan", "-1", "1e308", "0", "x", '"', "[]", "{}", "null", "9" * 30, "ü", "true"]
PICTURE = PNG


@pytest.fixture
def yard(tmp_path):
    made = YardFile.create(tmp_path / "full.yard", "Bench, “quoted”")
    fill(made)
    yield made
    made.close()


def fill(made):
    """Something awkward in every table that a reviewer writes into."""
    station = made.put(Station(name='=HYPERLINK("x")', rated_wh=2048.1, rated_w=0.1 + 0.2))
    gone = made.put(Station(name="Gone\nin two lines", rated_wh=1, rated_w=1, removed=True))
    made.put(StoredClaim(station_id=station.id, kind="ac_v", value=120, words="+1; -2, @3",
                         text="'already quoted"))  # fmt: skip
    made.put(Receiving(station_id=station.id, price=None, accessories=(Accessory(name="é"),)))
    made.put(Observation(station_id=station.id, subject="ups", agrees=False, words="-"))
    made.put(Review(station_id=gone.id, pros="one\ntwo", cons="=1+1"))
    made.put(StoredYardstick(name="Old", limit_ratio=1 / 3, basis="round_trip", removed=True))
    meter = made.put(Meter(name="M", profile="p", address="", reading_share=0.01, floor_w=1e-17))
    run = Run(
        station_id=station.id, number=1, method="capacity_ac", state="finished", origin="import",
        started_at="2026-05-01T10:00:00+00:00", meter_id=meter.id,
        conditions=Conditions(
            settings={"floor": "0"}, other={"loads": [{"watts": 1.5}], "ü": None}
        ),
    )  # fmt: skip
    random = np.random.default_rng(3)
    t = np.cumsum(random.uniform(0.1, 2, 500)) - 5
    columns = {
        Quantity.POWER: random.normal(400, 1e-3, t.size),
        Quantity.VOLTS: np.where(t > 40, np.nan, 120 + 1e-13 * t),
    }
    trace = Trace(name="-log.csv", time_s=t, columns=columns, clock_s=1.7e9)
    kept = made.keep_run(run, [(Recording(run_id=0, role="ac_output"), trace)])
    light = Trace(name="=1+1", time_s=t, columns={Quantity.IRRADIANCE: t})
    logger = Recording(run_id=kept.id, role="irradiance", offset_s=-7.25, withdrawn=True)
    made.keep_recording(logger, light)
    made.put(Mark(run_id=kept.id, time_s=0.1, word="=Fan on", withdrawn=True))
    made.put(Reading(run_id=kept.id, time_s=1e-9, kind="soc", value=99.5))
    table = replace(run, number=2, method="port_power", meter_id=None, soc_from=100, soc_to=0)
    table = made.put(table)
    for position, withdrawn in ((2, False), (1, True)):
        made.put(Entry(run_id=table.id, position=position, withdrawn=withdrawn, fields={
            "port": "=USB-C 1", "watts_w": 0.1 + 0.2, "ü": "+1; -2\n@3", "together": 0.0,
        }))  # fmt: skip
    photo = Photo(station_id=station.id, name="a.png", media_type="image/png", size_bytes=768)
    made.keep_photo(photo, PICTURE)


def everything(yard):
    """All a yard holds, comparable."""
    tables = {table.name: rows_of(yard, table) for table in TABLES}
    samples = {}
    for row in tables["recording"]:
        time_s, columns = samples_of(yard, row["id"])
        samples[row["id"]] = [time_s.tolist(), {q: v.tolist() for q, v in columns.items()}]
    pictures = {row["id"]: yard.photo_bytes(row["id"]) for row in tables["photo"]}
    return tables, repr(samples), pictures  # repr: NaN equals NaN, floats to the last bit


@pytest.mark.parametrize("parquet", [False, True])
def test_nothing_is_lost_on_the_way_out_and_in(tmp_path, yard, parquet):
    folder = tmp_path / "package"
    count = write_package(yard, folder, parquet=parquet)
    assert count == sum(path.is_file() for path in folder.rglob("*"))
    name = read_package(folder, tmp_path / "again.yard")
    assert name == "Bench, “quoted”"
    with YardFile.open(tmp_path / "again.yard") as again:
        assert everything(again) == everything(yard)
    assert [p.name for p in tmp_path.glob("again*")] == ["again.yard"]


def test_another_program_finds_the_package_valid(tmp_path, yard):
    folder = tmp_path / "package"
    write_package(yard, folder)
    report = frictionless.validate(str(folder / "datapackage.json"))
    assert report.valid, report.flatten(["fileName", "rowNumber", "message"])


def test_no_cell_can_run_in_a_spreadsheet(tmp_path, yard):
    write_package(yard, tmp_path / "package")
    for path in (tmp_path / "package" / "tables").glob("*.csv"):
        with path.open(newline="", encoding="utf-8") as file:
            for row in list(csv.reader(file))[1:]:
                for cell in row:
                    number = cell.lstrip("-").replace(".", "").replace("e-", "").isdigit()
                    assert not cell.startswith(("=", "+", "-", "@")) or number, (path.name, cell)


def edit(folder, name, change):
    path = folder / name
    path.write_text(change(path.read_text("utf-8")), "utf-8")


@pytest.mark.parametrize(
    ("name", "change", "words"),
    [
        ("tables/station.csv", lambda t: t.replace("2048.1", "lots"),
         'tables/station.csv, line 2: rated_wh "lots" is not a number'),
        ("tables/station.csv", lambda t: t.replace("2048.1", "nan"), "is not a number"),
        ("tables/station.csv", lambda t: t.replace("2048.1", ""),
         "tables/station.csv, line 2: rated_wh is empty"),
        ("tables/station.csv", lambda t: t.replace("rated_wh", "rated"), 'no column "rated"'),
        ("tables/station.csv", lambda t: t.replace("rated_wh,", ""),
         "the column rated_wh is missing"),
        ("tables/station.csv", lambda t: t + "9,x\n", "2 cells where the header has 12"),
        ("tables/run.csv", lambda t: t.replace("1,1,1,capacity", "1,77,1,capacity"),
         "tables/run.csv, line 2: station_id 77 is not a station of the package"),
        ("tables/mark.csv", lambda t: t + t.splitlines()[1] + "\n", "id 1 is there twice"),
        ("tables/recording.csv", lambda t: t.replace("power", "pomp"),
         "a list of known quantities"),
        ("tables/run.csv", lambda t: t.replace("capacity_ac", "guess"),
         'tables/run.csv, line 2: method "guess" must be one of capacity_ac'),
        ("tables/run.csv", lambda t: t.replace("2026-05-01T10:00:00+00:00", "yesterday"),
         'started_at "yesterday" must be a time in ISO 8601'),
        ("tables/run.csv", lambda t: t.replace(",100.0,0.0,", ",0.0,100.0,"), "runs downwards"),
        ("tables/claim.csv", lambda t: t.replace("ac_v,", "ac_x,"), 'kind "ac_x" must be one of'),
        ("tables/meter.csv", lambda t: t.replace("0.01", "1.5"), "must be from 0 to"),
        ("tables/station.csv", lambda t: t.replace("\n1,", "\n99999999999999999999999,"),
         "is not a whole number"),
        ("tables/receiving.csv", lambda t: t.replace("name", "nome"), "named accessories"),
        ("tables/run.csv", lambda t: t.replace('"{', '"['), "is not a JSON object"),
        ("tables/entry.csv", lambda t: t.replace('0.30000000000000004', 'null'),
         "an object of numbers and words"),
        ("tables/yard.csv", lambda t: t.splitlines()[0] + "\n", "holds no yard"),
        ("recordings/recording-1.csv", lambda t: t.replace(t.splitlines()[3], "x,1,2"),
         'recordings/recording-1.csv, line 4: time_s "x" is not a plausible number'),
        ("recordings/recording-1.csv", lambda t: t.replace("time_s", "time"),
         "column time_s is missing"),
        ("recordings/recording-1.csv", lambda t: "", "recordings/recording-1.csv cannot be read"),
        ("datapackage.json", lambda t: "{", "is not a data package of a yard"),
        ("datapackage.json", lambda t: t.replace("tables/run.csv", "../run.csv"),
         "leads out of it"),
        ("datapackage.json",
         lambda t: t.replace(f'version": {SCHEMA_VERSION}', 'version": 99'),
         "newer version"),
    ],
)  # fmt: skip
def test_a_bad_row_is_named_and_nothing_is_kept(tmp_path, yard, name, change, words):
    folder = tmp_path / "package"
    write_package(yard, folder)
    edit(folder, name, change)
    with pytest.raises(PackageError) as refused:
        read_package(folder, tmp_path / "again.yard")
    assert words in str(refused.value) and "\n" not in str(refused.value)
    assert not list(tmp_path.glob("again*"))


def test_missing_files_and_taken_places(tmp_path, yard):
    folder = tmp_path / "package"
    write_package(yard, folder)
    with pytest.raises(PackageError, match="is not empty"):
        write_package(yard, folder)
    taken = tmp_path / "full.yard"
    with pytest.raises(YardError, match="already there"):
        read_package(folder, taken)
    assert taken.exists()
    (folder / "photos" / "1.png").unlink()
    with pytest.raises(PackageError, match="photos/1.png cannot be read"):
        read_package(folder, tmp_path / "again.yard")
    shutil.rmtree(folder / "tables")
    with pytest.raises(PackageError, match="cannot be read"):
        read_package(folder, tmp_path / "again.yard")
    with pytest.raises(PackageError, match="cannot be read"):
        read_package(tmp_path / "nowhere" / "datapackage.json", tmp_path / "again.yard")
    assert not is_package(tmp_path / "log.csv") and is_package(folder)


def test_a_package_made_by_hand_needs_only_what_it_has(tmp_path):
    folder = tmp_path / "hand"
    folder.mkdir()
    (folder / "stations.csv").write_text(
        "id,name,rated_wh,rated_w,chemistry,source,note,removed\n1,Clover,1000,800,,,,0\n"
    )
    (folder / "yard.csv").write_text("id,name,created_at,rule\n1,By hand,2026-01-01,guarded\n")
    resources = [{"name": "station", "path": "stations.csv"}, {"name": "yard", "path": "yard.csv"}]
    descriptor = {"name": "x", "yardtoll": {"schema_version": 5}, "resources": resources}
    (folder / "datapackage.json").write_text(json.dumps(descriptor))
    assert read_package(folder / "datapackage.json", tmp_path / "made.yard") == "By hand"
    with YardFile.open(tmp_path / "made.yard") as yard:
        assert [s.name for s in yard.stations()] == ["Clover"]
        assert yard.site().lift_scale and len(yard.yardsticks()) == len(SHIPPED_YARDSTICKS)
        assert [p.point for p in yard.score_points()] == list(SHIPPED_POINTS)
    with sqlite3.connect(tmp_path / "made.yard") as raw:
        assert raw.execute("PRAGMA integrity_check").fetchone() == ("ok",)


@pytest.mark.study
@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.data())
def test_a_spoilt_package_is_refused_or_opens_and_never_crashes(tmp_path_factory, data):
    """Any cell of any file replaced by anything: a clear sentence, or a yard that can be worked."""
    folder = tmp_path_factory.mktemp("spoilt")
    shutil.copytree(_template(tmp_path_factory), folder / "p")
    files = sorted(p for p in (folder / "p").rglob("*") if p.suffix in (".csv", ".json"))
    path = data.draw(st.sampled_from(files))
    text = path.read_text("utf-8")
    parts = re.split(r"([,\n])", text)
    index = data.draw(st.integers(0, len(parts) - 1))
    parts[index] = data.draw(
        st.sampled_from(
            ["", "nan", "-1", "1e308", "0", "x", '"', "[]", "{}", "null", "9" * 30, "ü"]
        )
        | st.text(max_size=8)
    )
    path.write_text("".join(parts), "utf-8", errors="replace")
    try:
        read_package(folder / "p", folder / "made.yard")
    except (PackageError, YardError) as refused:
        assert "\n" not in str(refused) and not (folder / "made.yard").exists()
        return
    with YardFile.open(folder / "made.yard") as yard:
        for station in yard.stations():
            assert sheet_html(build_sheet(yard, station))


_made = []


def _template(factory):
    """A small package, made once."""
    if not _made:
        root = factory.mktemp("template")
        with YardFile.create(root / "y.yard", "Y") as yard:
            fill(yard)
            write_package(yard, root / "package")
        _made.append(root / "package")
    return _made[0]


class TestLinks:
    """A package from elsewhere may link to what is not its own."""

    def test_a_link_to_a_secret_is_refused(self, yard, tmp_path):
        write_package(yard, tmp_path / "out")
        secret = tmp_path / "secret.png"
        secret.write_bytes(PNG)
        picture = tmp_path / "out" / "photos" / "1.png"
        picture.unlink()
        picture.symlink_to(secret)
        with pytest.raises(PackageError, match="leads out of it"):
            read_package(tmp_path / "out", tmp_path / "made.yard")
        assert not (tmp_path / "made.yard").exists()

    def test_what_is_no_picture_is_refused(self, yard, tmp_path):
        write_package(yard, tmp_path / "out")
        (tmp_path / "out" / "photos" / "1.png").write_text("root:x:0:0")
        with pytest.raises(PackageError, match="is not a picture"):
            read_package(tmp_path / "out", tmp_path / "made.yard")

    def test_a_pipe_does_not_hang_it(self, yard, tmp_path):
        write_package(yard, tmp_path / "out")
        table = tmp_path / "out" / "tables" / "run.csv"
        table.unlink()
        os.mkfifo(table)
        with pytest.raises(PackageError, match="is not a file"):
            read_package(tmp_path / "out", tmp_path / "made.yard")
