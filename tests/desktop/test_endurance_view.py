"""The stop Endurance: an outage asked, appliances put in, its start moved, what closes it."""

import shutil

import pytest
from conftest_helpers import FENNEL, SORREL, TANSY, held_elsewhere, in_dialog, worked_out
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.dialogs.outage import (
    FeedDialog,
    HeatDialog,
    OutageDialog,
    UseDialog,
    parse_hour,
)
from yardtoll.desktop.dialogs.tried_run import LearnDialog, TriedRunDialog
from yardtoll.desktop.views.endurance.view import EnduranceView
from yardtoll.desktop.views.stop import ENDURANCE, PLAN
from yardtoll.desktop.widgets.outage_picture import APPLIANCE_MIME
from yardtoll.store.records import Station


@pytest.fixture
def endurance(qtbot, demo) -> EnduranceView:
    return at(qtbot, demo, FENNEL)


def at(qtbot, demo, station) -> EnduranceView:
    demo.bench.session.choose_station(station)
    demo.go_to(ENDURANCE)
    view = demo.stack.current_view()
    settle(qtbot, view)
    return view


def settle(qtbot, view):
    qtbot.waitUntil(
        lambda: view.boxes.are_settled and view.answering.is_settled and not view.bench.jobs.busy,
        timeout=60_000,
    )


def put_in(qtbot, view, name):
    place = next(i for i, each in enumerate(view.offered) if each.use.name == name)
    view.library.setCurrentRow(place)
    QTest.keyClick(view.library, Qt.Key.Key_Return)
    settle(qtbot, view)


def lane_point(view, name):
    """A point in the middle of a lane."""
    drawn = view.picture.drawn
    for y in range(view.picture.height()):
        lane = drawn.lane_at(y)
        if lane is not None and lane.name == name:
            return QPoint(40, y + 12)
    raise AssertionError(name)


def test_the_demo_answers_at_first_glance(endurance):
    assert endurance.headline.text().startswith(("Lasts", "May just last"))
    lanes = [lane.name for lane in endurance.picture.picture.lanes]
    assert lanes[:2] == ["Sun", "Overhead"] and "Breathing aid" in lanes
    said = " ".join(endurance.words.texts())
    assert "from runs 7, 2, 3, 4" in said and "up to 600 W as claimed" in said
    assert "licensed electrician" in said and "medical device" in said
    assert "Overhead" in endurance.picture.accessibleDescription()


def test_an_appliance_by_key_and_by_hand_and_back(qtbot, demo, endurance):
    before = endurance.answer.result
    put_in(qtbot, endurance, "Television")
    assert "Television" in endurance.answer.result.taken_wh
    mime = QMimeData()
    place = next(i for i, each in enumerate(endurance.offered) if each.use.name == "Fan")
    mime.setData(APPLIANCE_MIME, str(place).encode())
    for kind, point in ((QDragEnterEvent, QPoint(200, 80)), (QDropEvent, QPointF(200, 80))):
        event = kind(point, Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton,
                     Qt.KeyboardModifier.NoModifier)  # fmt: skip
        QApplication.sendEvent(endurance.picture, event)
    settle(qtbot, endurance)
    assert {"Television", "Fan"} <= set(endurance.answer.result.taken_wh)
    dragged = endurance.library.mimeData([endurance.library.item(place)])
    assert bytes(dragged.data(APPLIANCE_MIME)) == str(place).encode()
    demo.undo()
    demo.undo()
    settle(qtbot, endurance)
    assert endurance.answer.result == before


def test_the_start_is_moved_by_hand_and_by_keys(qtbot, demo, endurance):
    began = endurance.outage.begins_at
    picture = endurance.picture
    y = 80
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=QPoint(260, y))
    pixels = round(3 / picture.drawn.hours_a_pixel)
    for step in (8, pixels // 2, pixels):
        QTest.mouseMove(picture, QPoint(260 - step, y))
        QApplication.processEvents()
    assert endurance.outage.begins_at == began  # nothing is kept while the hand moves
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=QPoint(260 - pixels, y))
    settle(qtbot, endurance)
    assert endurance.outage.begins_at[11:16] == f"{(int(began[11:13]) + 3) % 24:02d}:00"
    assert endurance.answer.inputs.outage == endurance.outage
    QTest.keyClick(picture, Qt.Key.Key_Left)
    settle(qtbot, endurance)
    assert endurance.outage.begins_at[14:16] == "45"
    demo.undo()
    demo.undo()
    settle(qtbot, endurance)
    assert endurance.outage.begins_at == began


def test_packs_panels_and_sun_change_the_answer(qtbot, endurance):
    endurance.boxes.sun.setCurrentIndex(endurance.boxes.sun.findData("none"))
    endurance.boxes.sun.activated.emit(0)
    settle(qtbot, endurance)
    dark = endurance.answer
    assert dark.result.hours is not None and "short of the 38 h" in endurance.headline.text()
    assert "pack" in endurance.headline.text() and dark.remedies.packs == 1
    endurance.boxes.packs.setValue(1)
    settle(qtbot, endurance)
    assert endurance.outage.packs_wh == (2048.0,)
    assert endurance.answer.result.lasts and "Lasts the whole 38 h" in endurance.headline.text()
    endurance.boxes.packs.setValue(0)
    endurance.boxes.sun.setCurrentIndex(endurance.boxes.sun.findData("sky"))
    endurance.boxes.weather.setCurrentIndex(endurance.boxes.weather.findData("overcast"))
    endurance.boxes.sun.activated.emit(0)
    settle(qtbot, endurance)
    overcast = endurance.answer.result.sun_wh
    endurance.boxes.more_panels.setValue(4)
    settle(qtbot, endurance)
    assert endurance.answer.result.sun_wh == pytest.approx(3 * overcast, rel=0.01)
    assert endurance.boxes.weather.isVisible() and endurance.boxes.array.isVisible()


def test_a_measured_day_stands_for_every_day(qtbot, demo, endurance):
    runs = {k: endurance.boxes.sun.itemText(k) for k in range(endurance.boxes.sun.count())}
    place = next(k for k, text in runs.items() if "the day of Tansy 1200, run 4" in text)
    endurance.boxes.sun.setCurrentIndex(place)
    endurance.boxes.sun.activated.emit(place)
    settle(qtbot, endurance)
    said = " ".join(endurance.words.texts())
    assert "The sun of a measured day, again each day" in said
    assert endurance.answer.result.sun_wh > 100 and not endurance.boxes.weather.isVisible()


def test_lanes_are_opened_changed_and_taken_out_by_keys(qtbot, endurance):
    picture = endurance.picture

    def change(dialog):
        dialog.watts.setValue(500)
        assert dialog.high.value() == pytest.approx(575)
        dialog.begins.setText("7")
        dialog.ends.setText("")
        dialog.accept_button.click()
        assert "both hours" in dialog.wrong_label.text()
        dialog.ends.setText("7:30")
        dialog.keep_own.setChecked(True)
        dialog.accept_button.click()

    in_dialog(change, UseDialog)
    QTest.mouseDClick(picture, Qt.MouseButton.LeftButton, pos=lane_point(endurance, "Router"))
    settle(qtbot, endurance)
    use = next(u for u in endurance.outage.uses if u.name == "Router")
    assert (use.watts, use.from_h, use.to_h) == (500, 7, 7.5)
    assert use.high_share == pytest.approx(1.15)
    assert endurance.offered[0].words.endswith("measured")
    assert any(o.use.name == "Router" and o.appliance for o in endurance.offered)
    picture.choose("Router")
    QTest.keyClick(picture, Qt.Key.Key_Delete)
    settle(qtbot, endurance)
    assert "Router" not in endurance.answer.result.taken_wh
    QTest.keyClick(picture, Qt.Key.Key_Down)
    assert picture.chosen == "Sun"
    QTest.keyClick(picture, Qt.Key.Key_Down)
    assert picture.chosen == "Overhead" and "Overhead" in picture.accessibleDescription()


def test_a_generator_and_warm_water(qtbot, endurance):
    def feed(dialog):
        dialog.begins.setText("later")
        dialog.accept_button.click()
        assert "no clock hour" in dialog.wrong_label.text()
        dialog.begins.setText("12:15")
        dialog.ends.setText("13")
        dialog.accept_button.click()

    in_dialog(feed, FeedDialog)
    endurance.actions_by_name["feed"].trigger()
    settle(qtbot, endurance)
    assert endurance.outage.feeds[0].from_h == 12.25
    assert "out of doors only" in " ".join(endurance.words.texts())

    def heat(dialog):
        # 1 L from 15 to 100 °C at 4186 J/(kg·K) is 98.8 Wh, and 116 Wh at 85 %.
        assert dialog.said.text().startswith("99 Wh into the water, 116 Wh from the outlet")
        dialog.times.setValue(50)
        dialog.ends.setText("8")
        dialog.accept_button.click()
        assert "cannot be warmed" in dialog.wrong_label.text()
        dialog.times.setValue(2)
        dialog.accept_button.click()

    in_dialog(heat, HeatDialog)
    endurance.actions_by_name["heat"].trigger()
    settle(qtbot, endurance)
    kettle = next(u for u in endurance.outage.uses if u.name == "Kettle")
    assert kettle.watts * kettle.duty * 1.0 == pytest.approx(2 * 116.27, rel=1e-3)


def test_a_run_teaches_an_appliance_and_is_held_against_the_forecast(qtbot, demo):
    view = at(qtbot, demo, TANSY)
    said = " ".join(view.words.texts())
    assert "Tried in run 9" in said and "within its ±" in said and view.picture.picture.tried

    def learn(dialog):
        assert "% of the time" in dialog.said.text()
        dialog.name.setText("My own fridge")
        dialog.accept_button.click()

    in_dialog(learn, LearnDialog)
    view.actions_by_name["learn"].trigger()
    settle(qtbot, view)
    own = next(o for o in view.offered if o.use.name == "My own fridge")
    assert own.appliance.run_id is not None and "measured" in own.words

    def untie(dialog):
        dialog.run.setCurrentIndex(0)
        dialog.accept_button.click()

    in_dialog(untie, TriedRunDialog)
    view.actions_by_name["tried"].trigger()
    settle(qtbot, view)
    assert view.outage.run_id is None and not view.picture.picture.tried
    demo.undo()
    settle(qtbot, view)
    assert view.picture.picture.tried


def test_the_plus_or_minus_is_opened(qtbot, demo):
    view = at(qtbot, demo, TANSY)
    said = []

    def read(dialog):
        said.append(dialog.windowTitle())
        dialog.accept()

    in_dialog(read, BudgetDialog)
    view.budget_button.click()
    assert said and view.budget_button.isVisible()


def test_a_station_without_runs_is_told_what_is_missing_and_takes_typed_figures(qtbot, demo):
    session = demo.bench.session
    made = session.add(Station(name="Bare <b>300", rated_wh=300, rated_w=300), "Add")
    view = at(qtbot, demo, made.id)
    assert view.headline.text() == "How long it lasts is not known yet"
    assert "no whole discharge" in " ".join(view.steps.texts()).lower()
    assert view.boxes.plan_button.isVisible() and view.picture.scene() is None

    def typed(dialog):
        dialog.name.setText("W" * 60)
        dialog.store.field.setText("270")
        dialog.accept_button.click()
        assert "both, or neither" in dialog.wrong_label.text()
        dialog.overhead.field.setText("7")
        dialog.accept_button.click()

    in_dialog(typed, OutageDialog)
    view.actions_by_name["edit"].trigger()
    settle(qtbot, view)
    assert "as typed, not measured" in " ".join(view.words.texts())
    assert "±" not in view.headline.text() and not view.budget_button.isVisible()
    view.actions_by_name["another"].trigger()
    settle(qtbot, view)
    assert [o.name[-2:] for o in session.yard.outages(made.id)] == ["WW", " 2"]
    view.actions_by_name["remove"].trigger()
    settle(qtbot, view)
    assert len(session.yard.outages(made.id)) == 1
    planned = view.boxes.plan_button
    planned.click() if planned.isVisible() else demo.go_to(PLAN)
    assert demo.rail.current == PLAN


def test_another_station_shows_no_answer_of_the_one_before(qtbot, demo, endurance):
    first = endurance.answer
    demo.bench.session.choose_station(SORREL)
    settle(qtbot, endurance)
    assert endurance.answer is not first
    assert endurance.answer.inputs.station.id == SORREL
    assert endurance.outage.id is None
    assert endurance.boxes.chooser.currentText() == "A night and a day"


def test_a_yard_that_is_only_shown_changes_nothing(qtbot, demo, tmp_path):
    copy = tmp_path / "held.yard"
    demo.bench.session.yard.stay_whole()
    shutil.copy(demo.bench.session.path, copy)
    with held_elsewhere(copy):
        demo.open_yard(copy)
        worked_out(qtbot, demo)
        view = at(qtbot, demo, TANSY)
        before = view.outage
        assert not view.boxes.hours.isEnabled() and not view.boxes.menu_button.isVisible()
        QTest.keyClick(view.picture, Qt.Key.Key_Left)
        view.picture.choose("Hall fridge")
        QTest.keyClick(view.picture, Qt.Key.Key_Delete)
        view.picture.appliance_dropped.emit(0)
        settle(qtbot, view)
        assert view.outage == before and view.headline.text().startswith("Lasts until")


def test_hours_of_the_clock_as_they_are_typed():
    assert [parse_hour(t) for t in ("22:30", "7", "7,5", " 6 h", "")] == [22.5, 7, 7.5, 6, None]
    for text in ("25", "soon", "-1", "7:xx"):
        with pytest.raises(ValueError, match="clock hour"):
            parse_hour(text)


def test_every_state_is_drawn(qtbot, demo, endurance):
    for size in ((1024, 700), (1280, 800)):
        demo.resize(*size)
        QApplication.processEvents()
        scene = endurance.picture.scene()
        assert scene is not None and "Overhead" in scene.title
    worked_out(qtbot, demo)
