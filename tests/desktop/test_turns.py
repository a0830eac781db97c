"""Work in turns of the event loop, and a change of colours that is done in them."""

import pytest
from conftest_helpers import at_rest
from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtWidgets import QApplication, QLabel
from shiboken6 import isValid

from yardtoll.desktop.theme.theme import FOLLOW_SYSTEM, theme
from yardtoll.desktop.theme.tokens import THEMES
from yardtoll.desktop.turns import Turns
from yardtoll.desktop.views.stops import STOPS


@pytest.fixture(autouse=True)
def by_day():
    yield
    theme.apply("day")


def steps(done, name, count=3):
    try:
        for number in range(count):
            done.append(f"{name}{number}")
            yield
    finally:
        done.append(f"{name} over")


def test_each_step_has_a_turn_of_its_own(qtbot):
    done, turns = [], Turns()
    turns.begin(steps(done, "a"))
    assert not done and turns.is_under_way
    QTimer.singleShot(0, lambda: done.append("other"))
    qtbot.waitUntil(lambda: not turns.is_under_way)
    assert [d for d in done if d != "other"] == ["a0", "a1", "a2", "a over"]
    assert done.index("other") < done.index("a2")


def test_what_is_dropped_is_ended(qtbot):
    done, turns = [], Turns()
    turns.begin(steps(done, "a"))
    qtbot.waitUntil(lambda: "a0" in done)
    turns.begin(steps(done, "b", 1))
    assert done[-1] == "a over"
    qtbot.waitUntil(lambda: not turns.is_under_way)
    assert done[-2:] == ["b0", "b over"]
    turns.drop()


def test_what_goes_takes_its_work_with_it(qtbot):
    """Others may wait for the end of it: not until the garbage is collected."""
    done, turns = [], Turns()
    turns.begin(steps(done, "a"))
    qtbot.waitUntil(lambda: "a0" in done)
    turns.deleteLater()
    qtbot.waitUntil(lambda: done[-1] == "a over", timeout=2_000)


@pytest.mark.parametrize("ends_with_its_work", [True, False])
def test_a_step_may_be_the_last_that_holds_its_owner(qtbot, ends_with_its_work):
    """As results that are announced when nobody else has them any more: no slot fails over it."""
    done = []

    def owner_and_its_work():
        owner = QObject()
        turns = Turns(owner)

        def holds(owner):
            try:
                yield
                if not ends_with_its_work:
                    del owner
                    yield
                    done.append("never")
            finally:
                done.append("over")

        turns.begin(holds(owner))
        return turns

    turns = owner_and_its_work()
    qtbot.waitUntil(lambda: done == ["over"])
    assert not isValid(turns) and not turns.is_under_way


def test_a_step_may_end_its_own_work_or_begin_other(qtbot):
    done, turns = [], Turns()

    def ends_itself():
        try:
            turns.drop()
            yield
            done.append("never")
        finally:
            done.append("ended")

    def begins():
        yield
        turns.begin(steps(done, "c", 1))
        yield
        done.append("never")

    turns.begin(ends_itself())
    qtbot.waitUntil(lambda: done == ["ended"])
    assert not turns.is_under_way
    turns.begin(begins())
    qtbot.waitUntil(lambda: "c over" in done)
    assert "never" not in done


@pytest.mark.parametrize("stop", [s for s in STOPS if s in ("claims", "ledger", "sheet")])
def test_colours_in_steps_are_those_at_once(qtbot, demo, stop):
    demo.go_to(stop)
    at_rest(qtbot, demo)
    demo.go_to("verdicts")  # the stop is styled when it is seen again

    def picture():
        demo.go_to(stop)
        at_rest(qtbot, demo)
        made = demo.stack.grab().toImage()
        demo.go_to("verdicts")
        return made

    theme.apply("night")
    at_once = picture()
    theme.apply("day")
    theme.apply_soon("night")
    painted_in_between = []
    while theme.is_changing:
        painted_in_between.append(demo.updatesEnabled())
        QApplication.processEvents()
    assert len(painted_in_between) >= 4 and not any(painted_in_between[1:-1])
    assert demo.updatesEnabled() and theme.tokens is THEMES["night"]
    assert picture() == at_once


@pytest.mark.parametrize("stop", [s for s in STOPS if s in ("plan", "outputs", "lineup", "sheet")])
def test_colours_are_right_whether_a_stop_was_seen_while_they_changed_or_not(qtbot, demo, stop):
    def picture():
        at_rest(qtbot, demo)
        return demo.stack.grab().toImage()

    demo.go_to(stop)
    by_day = picture()
    theme.apply("night")
    seen = picture()
    theme.apply("day")
    assert picture() == by_day
    demo.go_to("verdicts")
    theme.apply("night")
    demo.go_to(stop)
    assert picture() == seen
    theme.apply("day")
    assert picture() == by_day


def test_a_change_of_colours_gives_way_to_another(qtbot, demo):
    said = []
    theme.changed.connect(lambda: said.append(theme.tokens.name))
    theme.apply_soon("contrast")
    QApplication.processEvents()
    theme.apply_soon("night")
    QApplication.processEvents()
    fresh = QLabel("made in between", demo)
    fresh.show()
    qtbot.waitUntil(lambda: not theme.is_changing)
    assert said == ["night"] and demo.updatesEnabled()
    assert fresh.palette().windowText().color() == theme.colour("ink")
    theme.apply_soon("contrast")
    QApplication.processEvents()
    theme.apply("day")
    assert said == ["night", "day"] and not theme.is_changing and demo.updatesEnabled()


def test_colours_follow_the_system_while_the_program_runs(qtbot, demo, monkeypatch):
    """Without a display there is no scheme to change: only that the change is told is real here."""
    changed = QApplication.styleHints().colorSchemeChanged
    theme.apply(FOLLOW_SYSTEM)
    assert theme.tokens.name == "day"
    monkeypatch.setattr("yardtoll.desktop.theme.theme.system_is_dark", lambda: True)
    changed.emit(Qt.ColorScheme.Dark)
    qtbot.waitUntil(lambda: theme.tokens.name == "night" and not theme.is_changing)
    theme.apply("day")
    changed.emit(Qt.ColorScheme.Dark)
    assert theme.tokens.name == "day" and not theme.is_changing, "asked for by the user"
