"""A stop's first visit in steps: what is seen in the end is what going there at once shows."""

import threading

import numpy as np
import pytest
from conftest_helpers import at_rest, by_name, loads_found, start_plan
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest

from yardtoll.demo.yard import fresh_demo
from yardtoll.desktop.views.claims.view import ClaimsView
from yardtoll.desktop.views.run.view import RunView
from yardtoll.desktop.views.stop import CLAIMS, LEDGER, PLAN, RUN, SUN, VERDICTS, YARD
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.views.sun.view import SunView
from yardtoll.desktop.widgets.kept_grid import KeptGrid
from yardtoll.running.plan import plan_for_load
from yardtoll.store.records import Run
from yardtoll.store.yard_storage import YardStorage

VIEWS = {RUN: RunView, SUN: SunView}


def arrive(qtbot, window):
    qtbot.waitUntil(lambda: not window.visits.is_under_way, timeout=20_000)


def picture(qtbot, window):
    at_rest(qtbot, window)
    return window.stack.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)


def differing(one, other):
    """Share of the pixels."""
    pixels = [np.frombuffer(image.constBits(), dtype=np.uint32) for image in (one, other)]
    return float(np.mean(pixels[0] != pixels[1]))


@pytest.mark.parametrize("stop", [LEDGER, VERDICTS, CLAIMS, PLAN, RUN])
def test_step_by_step_looks_as_at_once(qtbot, demo, stop):
    demo.go_to(stop)
    if stop == PLAN:
        loads_found(qtbot, demo.stack.current_view())
    at_once = picture(qtbot, demo)
    demo.show_anew()
    demo.go_to(YARD)
    demo.visit(stop)
    assert demo.rail.current == stop and demo.stack.current_view().key == YARD
    arrive(qtbot, demo)
    assert demo.stack.current_view().key == stop
    if stop == PLAN:
        # It says when the run would end, by the clock.
        loads_found(qtbot, demo.stack.current_view())
        assert differing(picture(qtbot, demo), at_once) < 0.005
    else:
        assert picture(qtbot, demo) == at_once


def test_another_stop_meanwhile_is_where_it_ends(qtbot, demo):
    demo.visit(PLAN)
    demo.visit(LEDGER)
    arrive(qtbot, demo)
    assert demo.stack.current_view().key == LEDGER
    # What was begun is made whole when it is seen.
    demo.go_to(PLAN)
    assert demo.stack.current_view().start_button.isVisible()


def test_going_there_at_once_ends_a_visit(qtbot, demo):
    demo.visit(PLAN)
    demo.go_to(LEDGER)
    assert not demo.visits.is_under_way and demo.rail.current == LEDGER
    qtbot.wait(50)
    assert demo.stack.current_view().key == LEDGER


def test_a_yard_that_is_closed_meanwhile_takes_the_visit_with_it(qtbot, demo):
    demo.visit(PLAN)
    demo.close_yard()
    qtbot.wait(50)
    assert demo.stack.current_view() is demo.welcome and not demo.visits.is_under_way


def test_each_step_leaves_room_for_others(qtbot, demo):
    """Between making, styling, filling and showing a stop other events have their turn."""
    turns = []
    beat = QTimer(interval=0)
    beat.timeout.connect(lambda: turns.append(demo.visits.is_under_way))
    beat.start()
    for stop in STOPS:
        demo.visit(stop)
        arrive(qtbot, demo)
    beat.stop()
    assert turns.count(True) > 4 * len(STOPS)


def test_a_yard_is_opened_without_the_window_waiting(qtbot, window, tmp_path, monkeypatch):
    demo_path = fresh_demo(tmp_path)
    read = []
    fetch = YardStorage._fetch

    def fetched(yard, kind, ids=None):
        read.append((kind, threading.current_thread() is threading.main_thread()))
        return fetch(yard, kind, ids)

    monkeypatch.setattr(YardStorage, "_fetch", fetched)
    window.open_soon(demo_path)
    assert window.bench is None
    qtbot.waitUntil(lambda: window.bench is not None, timeout=20_000)
    arrive(qtbot, window)
    assert window.stack.current_view().key in (YARD, RUN)
    assert (Run, False) in read and not any(by_window for _, by_window in read)
    window.open_soon(demo_path)
    qtbot.waitUntil(lambda: "is open here already" in window.notice.text, timeout=20_000)
    window.open_soon(demo_path.with_name("nowhere.yard"))
    qtbot.waitUntil(lambda: "does not exist" in window.notice.text, timeout=20_000)
    assert window.bench is not None


def claims_shown(window):
    view = window.stack.current_view()
    return [text for grid in view.findChildren(KeptGrid) for text in grid.texts()]


def test_what_changes_while_a_stop_is_filled_is_seen_when_it_is(qtbot, demo):
    stations = demo.bench.session.yard.stations()
    demo.bench.session.choose_station(stations[0].id)
    demo.go_to(CLAIMS)
    of_first = claims_shown(demo)
    demo.bench.session.choose_station(stations[1].id)
    of_second = claims_shown(demo)
    assert of_first != of_second
    demo.show_anew()
    demo.bench.session.choose_station(stations[0].id)
    demo.go_to(YARD)
    demo.visit(CLAIMS)
    changed_while_filled = []

    def change():
        made = demo.findChild(ClaimsView)
        if made is not None and made.headline.text() and demo.visits.is_under_way:
            beat.stop()
            changed_while_filled.append(True)
            demo.bench.session.choose_station(stations[1].id)

    beat = QTimer(interval=0)
    beat.timeout.connect(change)
    beat.start()
    arrive(qtbot, demo)
    assert changed_while_filled and claims_shown(demo) == of_second


@pytest.fixture
def filled_in_part(demo):
    """Claims, some of the way through being filled while it is not seen: the view, what is left."""
    demo.bench.session.choose_station(demo.bench.session.yard.stations()[0].id)
    demo.go_to(CLAIMS)
    view = demo.stack.current_view()
    view.shown = claims_shown(demo)
    demo.go_to(YARD)
    demo.bench.session.changed.emit()
    steps = view.make_ready_on()
    for _ in range(4):
        next(steps)
    return view, steps


def test_a_stop_that_was_filled_in_part_is_whole_when_it_is_seen(demo, filled_in_part):
    view, steps = filled_in_part
    steps.close()
    demo.go_to(CLAIMS)
    assert claims_shown(demo) == view.shown


def test_filling_that_was_begun_earlier_does_not_undo_a_later_one(demo, filled_in_part):
    view, steps = filled_in_part
    other = demo.bench.session.yard.stations()[1]
    demo.bench.session.choose_station(other.id)
    view.refresh()
    assert list(steps) == []
    demo.go_to(CLAIMS)
    shown = claims_shown(demo)
    view.refresh()
    assert claims_shown(demo) == shown and other.name in view.headline.text()


@pytest.mark.parametrize("stop", [RUN, SUN])
def test_a_stop_made_in_part_can_be_resized(qtbot, demo, stop):
    """A visit that was dropped leaves one, and the window gives it its size."""
    demo.show_anew()
    demo.visit(stop)
    qtbot.waitUntil(lambda: demo.findChild(VIEWS[stop]) is not None)
    demo.go_to(YARD)
    view = demo.findChild(VIEWS[stop])
    view.resize(700, 500)
    demo.grab()
    demo.go_to(stop)
    assert demo.stack.current_view() is view
    qtbot.waitUntil(lambda: view.size() == demo.stack.size())


def test_the_page_of_a_run_in_progress_is_made_when_nobody_waits_for_it(qtbot, demo):
    demo.show_anew()
    demo.visit(RUN)
    arrive(qtbot, demo)
    view = demo.stack.current_view()
    assert not view._running.is_whole
    QTest.keyClick(view, Qt.Key.Key_N)  # a key of a run; there is none
    assert not view._running.is_whole
    qtbot.waitUntil(lambda: view._running.is_whole, timeout=20_000)
    assert view.idle_page.isVisible() and not view.running.isVisible()


def test_a_run_that_is_begun_before_has_its_page(qtbot, demo):
    yard = demo.bench.session.yard
    meter = next(meter for meter in yard.meters() if meter.is_simulated)
    plan = plan_for_load(yard.stations()[0], meter, yard.loads()[0])
    demo.show_anew()
    demo.go_to(RUN)
    view = demo.stack.current_view()
    assert not view._running.is_whole
    start_plan(qtbot, demo, plan)
    assert view.running.isVisible()
    qtbot.waitUntil(view.running.power_figure.within_button.isVisible, timeout=20_000)
    by_name(view, "Stop the run").click()
    qtbot.waitUntil(lambda: demo.bench.live is None, timeout=20_000)
    demo.go_to(RUN)
    assert view.idle_page.isVisible()
