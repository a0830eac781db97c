"""The open yard in the window: undo of every kind of edit, results kept while they stand."""

import sqlite3
from contextlib import closing
from dataclasses import replace

import pytest
from conftest_helpers import one_setting

from yardtoll.desktop.app import make_app
from yardtoll.desktop.workbench.analyses import Analyses
from yardtoll.desktop.workbench.jobs import Jobs
from yardtoll.desktop.workbench.session import Session
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.review.analysis import analyse_run
from yardtoll.store.errors import BusyYardError
from yardtoll.store.importing import keep_imported_run
from yardtoll.store.logs.read import read_log
from yardtoll.store.records import Mark, Meter, Run, Station
from yardtoll.store.yard_file import YardFile


@pytest.fixture
def session(qtbot, tmp_path):
    make_app()
    made = Session(YardFile.create(tmp_path / "a.yard", "A"))
    yield made
    made.close()


@pytest.fixture
def run(session, tmp_path) -> Run:
    log = tmp_path / "log.csv"
    log.write_text("t,power\n" + "".join(f"{i * 10},{0 if i > 360 else 100}\n" for i in range(400)))
    station = session.add(Station(name="S", rated_wh=120, rated_w=200), "add")
    return keep_imported_run(session.yard, station, read_log(log), log, {})


def test_adding_editing_and_removing_are_undone_in_turn(session):
    changes = []
    session.changed.connect(lambda: changes.append(True))
    load = session.add(one_setting("Lamp", 60.0), "Add the load Lamp")
    session.edit(replace(load, settings=one_setting("Lamp", 65.0).settings), "Edit the load Lamp")
    session.remove(session.yard.loads()[0], "Remove the load Lamp")
    assert session.yard.loads() == [] and len(changes) == 3
    stack = session.undo_stack
    assert stack.undoText() == "Remove the load Lamp"
    for expected in ([65.0], [60.0], []):
        session.undo()
        assert [found.settings[0].watts for found in session.yard.loads()] == expected
    for expected in ([60.0], [65.0], []):
        session.redo()
        assert [found.settings[0].watts for found in session.yard.loads()] == expected


def test_a_step_that_cannot_be_kept_is_not_taken(session):
    load = session.add(one_setting("Lamp", 60.0), "Add the load Lamp")
    with session.together("Two at once"):
        session.edit(replace(load, name="Bulb"), "edit")
        session.add(one_setting("Kettle", 1500.0), "add")
    with closing(sqlite3.connect(session.path)) as other:
        other.execute("BEGIN IMMEDIATE")
        with pytest.raises(BusyYardError):
            session.undo()
        assert {found.name for found in session.yard.loads()} == {"Bulb", "Kettle"}
        other.rollback()
    assert session.undo() == "Two at once"
    assert [found.name for found in session.yard.loads()] == ["Lamp"]
    with closing(sqlite3.connect(session.path)) as other:
        other.execute("BEGIN IMMEDIATE")
        with pytest.raises(BusyYardError):
            session.redo()
    assert [found.name for found in session.yard.loads()] == ["Lamp"]
    assert session.redo() == "Two at once"
    assert {found.name for found in session.yard.loads()} == {"Bulb", "Kettle"}


def test_an_edit_that_changes_nothing_is_none(session):
    load = session.add(one_setting("Lamp", 60.0), "add")
    session.edit(load, "edit")
    assert session.undo_stack.count() == 1


def test_a_removed_station_gives_way_to_another(session):
    first = session.add(Station(name="A", rated_wh=1, rated_w=1), "a")
    second = session.add(Station(name="B", rated_wh=1, rated_w=1), "b")
    session.choose_station(second.id)
    session.remove(second, "remove")
    assert session.station == first
    session.undo()
    assert session.station.name == "B"


def test_undo_of_a_mark_leaves_the_samples(session, run):
    mark = session.yard.put(Mark(run_id=run.id, time_s=5, word="Odd"))
    session.note_added(mark, "Mark")
    before = session.yard.trace(run.id).time_s.size
    session.undo()
    assert session.yard.marks(run.id) == []
    assert session.yard.trace(run.id).time_s.size == before


class TestAnalyses:
    def wait_for(self, qtbot, analyses, session, run_id):
        qtbot.waitUntil(
            lambda: analyses.of(session.yard.get(Run, run_id)) is not None, timeout=60_000
        )
        return analyses.of(session.yard.get(Run, run_id))

    def test_a_result_is_kept_while_its_inputs_stand_and_made_anew_when_not(
        self, qtbot, session, run
    ):
        jobs = Jobs()
        analyses = Analyses(session.yard, jobs)
        first = self.wait_for(qtbot, analyses, session, run.id)
        assert (
            first.energy_out.delivered_wh == pytest.approx(100, abs=0.2)
            and not first.main_figure.budget
        )
        assert analyses.of(run) is first
        meter = session.add(
            Meter(name="M", profile="p", address="", reading_share=0.01, floor_w=0), "add"
        )
        session.edit(replace(run, meter_id=meter.id), "state the meter")
        second = self.wait_for(qtbot, analyses, session, run.id)
        assert second.main_figure.expanded == pytest.approx(2 / 3**0.5, rel=0.2)
        session.edit(replace(meter, reading_share=0.02), "another meter")
        third = self.wait_for(qtbot, analyses, session, run.id)
        assert third.main_figure.expanded > second.main_figure.expanded
        session.edit(replace(session.station, rated_wh=200), "another rating")
        fourth = self.wait_for(qtbot, analyses, session, run.id)
        assert fourth.figures["usable_ratio"].value == pytest.approx(0.5, abs=0.001)
        jobs.wait()

    def test_a_run_without_samples_says_so(self, session, run):
        empty = session.yard.put(replace(run, id=None, number=2))
        found = analyse_run(session.yard, empty)
        assert found.energy_out is None and found.problem == "no samples were recorded"
        assert not found.has_outcome


def test_recent_yards_are_few_new_first_and_there(tmp_path):
    settings = UserSettings(tmp_path / "s.ini")
    paths = [tmp_path / f"{i}.yard" for i in range(12)]
    for path in paths:
        path.touch()
        settings.remember_yard(path)
    settings.remember_yard(paths[9])
    assert settings.recent_yards[:2] == [paths[9], paths[11]]
    assert len(settings.recent_yards) == 8
    paths[11].unlink()
    assert paths[11] not in settings.recent_yards


def test_settings_that_were_spoilt_by_hand_fall_back(tmp_path):
    path = tmp_path / "s.ini"
    path.write_text("[General]\nsimulated_speed=fast\nlast_folder=/no/such/place\n")
    settings = UserSettings(path)
    assert settings.preferences.colours == "system"
    assert settings.last_folder.is_dir()
    assert settings.simulated_speed == 60
