"""The Yard view of a yard that is new, and its lists of gear."""

import pytest
from conftest_helpers import at_rest, by_name, fill_in_station, in_dialog
from PySide6.QtWidgets import QApplication, QLabel, QPushButton

from yardtoll.demo.yard import fresh_demo
from yardtoll.desktop.dialogs.records import StationDialog
from yardtoll.desktop.views.yard.first_steps import Post


@pytest.fixture
def view(qtbot, window, tmp_path):
    window.new_yard(tmp_path / "Mine")
    shown = window.stack.current_view()
    qtbot.waitUntil(shown.first_steps.isVisible)
    return shown


def test_a_new_yard_says_what_comes_first_and_lets_it_be_done(qtbot, window, view):
    titles = [words.text() for words in view.first_steps.findChildren(QLabel)]
    assert [t for t in titles if t[0].isdigit()] == [
        "1  Add the station",
        "2  Write down its claims",
        "3  Plan its first run",
    ]
    posts = view.first_steps.findChildren(Post)
    window.resize(1024, 700)
    QApplication.processEvents()
    for post, words in zip(posts, view.first_steps.findChildren(QLabel)[::2], strict=True):
        assert post.x() + post.width() <= words.x() < post.x() + post.width() + 20
    in_dialog(fill_in_station, StationDialog)
    next(
        b for b in view.first_steps.findChildren(QPushButton) if b.text() == "Add a station"
    ).click()
    assert [s.name for s in window.bench.session.yard.stations()] == ["Clover 1k"]
    qtbot.waitUntil(view.lanes.isVisible)
    assert not view.first_steps.isVisible()
    window.actions_by_name["Undo"].trigger()
    qtbot.waitUntil(view.first_steps.isVisible)
    assert not view.lanes.isVisible()


def test_a_log_may_be_the_first_thing_too(view, monkeypatch):
    asked = []
    monkeypatch.setattr(
        "yardtoll.desktop.actions.files.QFileDialog.getOpenFileNames",
        lambda *_: asked.append("log") or ([], ""),
    )
    by_name(view.first_steps, "Import a log").click()
    assert asked == ["log"]


@pytest.mark.parametrize("width", [1280, 1024, 940])
def test_lists_beside_each_other_begin_and_end_at_one_height(qtbot, window, view, width):
    window.resize(width, 700)
    head = view._columns[-1][0].findChild(QLabel)
    head.setText("Wiring, cords, circuits, arrays, the site and its sun")  # takes two lines
    QApplication.processEvents()
    assert head.height() > 1.5 * head.fontMetrics().height()
    assert len({(found.y(), found.height()) for found in view.lists.values()}) == 1


@pytest.mark.parametrize("height", [800, 780, 640])
def test_lanes_have_the_room_that_the_first_steps_left(qtbot, window, view, tmp_path, height):
    """Also where the yard that is opened next has stations, and in the room a title bar leaves."""
    window.resize(1280, height)
    window.open_yard(fresh_demo(tmp_path))
    shown = window.stack.current_view()
    qtbot.waitUntil(shown.lanes.isVisible)
    at_rest(qtbot, window)
    area = shown._scroll
    assert shown.lanes.height() <= area.viewport().height()
    assert shown.lanes.height() > 0.8 * min(area.height(), 3 * 96)
