"""What the window says leaves what is below it to be pressed, and goes when it is done."""

import pytest
from conftest_helpers import at_rest, pass_checks, worked_out
from PySide6.QtCore import QPoint, QRect, QTimer
from PySide6.QtWidgets import QAbstractButton

from yardtoll.desktop.frame import bars
from yardtoll.desktop.frame.bars import NoticeBar
from yardtoll.desktop.views.stop import PLAN
from yardtoll.desktop.views.stops import STOPS

SAID = "Something that stays until it is closed."


def seen_in(window, widget):
    """The part of a widget that is seen, in the window's place."""
    seen = widget.visibleRegion().boundingRect()
    return QRect(widget.mapTo(window, seen.topLeft()), seen.size())


@pytest.mark.parametrize("stop", STOPS)
def test_a_notice_lies_over_nothing_that_is_pressed(qtbot, demo, stop):
    demo.resize(1280, 800)
    worked_out(qtbot, demo)
    demo.go_to(stop)
    at_rest(qtbot, demo)
    demo.say(SAID)
    at_rest(qtbot, demo)
    notice = seen_in(demo, demo.notice)
    assert notice.height() > 20
    buttons = demo.stack.current_view().findChildren(QAbstractButton)
    shown = [button for button in buttons if not button.visibleRegion().isEmpty()]
    assert shown
    covered = [b.accessibleName() for b in shown if seen_in(demo, b).intersects(notice)]
    assert covered == []
    before = demo.stack.contentsMargins().bottom()
    demo.notice.hide()
    at_rest(qtbot, demo)
    assert before > 20 and demo.stack.contentsMargins().bottom() == 0


def test_a_run_is_started_beside_a_notice_in_a_small_window(qtbot, demo):
    demo.resize(1024, 700)
    demo.go_to(PLAN)
    at_rest(qtbot, demo)
    demo.say(SAID)
    at_rest(qtbot, demo)
    start = demo.stack.current_view().start_button
    assert start.visibleRegion().boundingRect() == start.rect()
    assert not seen_in(demo, start).intersects(seen_in(demo, demo.notice))
    assert demo.height() == 700


def test_word_of_what_was_done_passes_by_itself_and_no_other_does(qtbot, monkeypatch):
    monkeypatch.setattr(bars, "PASSES_AFTER_MS", 20)
    bar = NoticeBar()
    qtbot.addWidget(bar)
    bar.confirm("The table is copied.")
    assert bar.text == "The table is copied."
    qtbot.waitUntil(lambda: not bar.text, timeout=60_000)
    bar.confirm("The table is copied.")
    bar.say(SAID)
    assert not any(timer.isActive() for timer in bar.findChildren(QTimer)) and bar.text == SAID


def test_a_tick_moves_no_check(qtbot, demo):
    demo.resize(1280, 800)
    demo.go_to(PLAN)
    plan = demo.stack.current_view()
    at_rest(qtbot, demo)

    def places():
        return [text.mapTo(plan, QPoint()) for text in plan.checks.texts]

    before = places()
    pass_checks(plan)
    at_rest(qtbot, demo)
    assert len(before) > 5 and places() == before
