"""Dialogs on a screen too small for all of them, and the wheel over what scrolls."""

from dataclasses import replace

import pytest
from conftest_helpers import at_rest, in_dialog
from PySide6.QtCore import QPoint, QPointF, QRect, Qt
from PySide6.QtGui import QScreen
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QDialogButtonBox,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.uncertainty.budget import Budget, Contribution
from yardtoll.desktop.actions.preferences import use_preferences
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.views.stop import PLAN
from yardtoll.desktop.widgets.basics import choice, number_box
from yardtoll.desktop.widgets.roomy_area import RoomyArea

LARGE = (
    "Add a station…", "Add a load…", "Add a meter…", "Add a circuit…", "Add a cord…",
    "Add an array…", "Add a claim…", "Paste claims from a text…", "Add a run from notes…",
    "The site…", "Preferences…",
)  # fmt: skip


@pytest.fixture(autouse=True)
def afterwards():
    yield
    theme.apply("day")


@pytest.fixture
def small_screen(monkeypatch):
    """What is taken for the screen by all that asks for its room."""

    def make(width, height):
        monkeypatch.setattr(QScreen, "availableGeometry", lambda _: QRect(0, 0, width, height))

    return make


def free(widget):
    return widget.screen().availableGeometry().size()


def whole(widget) -> bool:
    return widget.visibleRegion().boundingRect() == widget.rect()


@pytest.mark.parametrize(("size", "percent"), [((1280, 800), 200), ((640, 400), 100)])
@pytest.mark.parametrize("name", LARGE)
def test_a_dialog_keeps_its_buttons_on_the_screen(qtbot, demo, small_screen, name, size, percent):
    """With large text, and where a screen of twice the scale is half as large."""
    small_screen(*size)
    use_preferences(demo, replace(demo.settings.preferences, text_percent=percent))
    at_rest(qtbot, demo)
    seen = []

    def look(dialog):
        qtbot.wait(50)
        assert dialog.height() <= free(dialog).height() and dialog.width() <= free(dialog).width()
        buttons = dialog.findChildren(QDialogButtonBox)[-1].findChildren(QPushButton)
        assert buttons and all(whole(made) for made in buttons if made.isVisible())
        for area in dialog.findChildren(RoomyArea):
            if area.isVisible() and area.verticalScrollBar().maximum() > 0:
                seen.append(area)
                last = [*area.findChildren(QComboBox), *area.findChildren(QLineEdit)]
                last = [field for field in last if field.isVisible()][-1]
                last.setFocus(Qt.FocusReason.TabFocusReason)
                area.ensureWidgetVisible(last)
                assert not last.visibleRegion().isEmpty()
        wrong = getattr(dialog, "wrong_label", None)
        if wrong is not None:
            wrong.setText("What was typed does not fit, and this is said in a long sentence. " * 3)
            wrong.show()
            qtbot.wait(50)
            assert dialog.height() <= free(dialog).height()
            assert whole(wrong) and all(whole(made) for made in buttons if made.isVisible())
        seen.append(dialog)
        dialog.reject()

    in_dialog(look)
    demo.actions_by_name[name].trigger()
    assert seen


def test_the_keys_bring_a_field_that_is_out_of_sight_into_it(qtbot, demo, small_screen):
    small_screen(1280, 700)
    use_preferences(demo, replace(demo.settings.preferences, text_percent=200))
    at_rest(qtbot, demo)
    passed = []

    def walk(dialog):
        area = dialog.findChild(RoomyArea)
        qtbot.waitUntil(lambda: area.verticalScrollBar().maximum() > 0)
        qtbot.waitUntil(dialog.isActiveWindow)
        for _ in range(25):
            QTest.keyClick(dialog.focusWidget(), Qt.Key.Key_Tab)
            at = dialog.focusWidget()
            passed.append(at)
            assert not at.visibleRegion().isEmpty(), at.accessibleName()
        dialog.reject()

    in_dialog(walk)
    demo.actions_by_name["Add a meter…"].trigger()
    assert len(set(passed)) > 12


def test_a_long_budget_scrolls_and_can_be_closed(qtbot, small_screen):
    small_screen(1024, 700)
    lines = [Contribution(name=f"Part {i}", u=1.0 + i, why="so it is stated") for i in range(60)]
    dialog = BudgetDialog("Delivered: 1049 ± 15 Wh", Budget.of("Wh", lines))
    qtbot.addWidget(dialog)
    dialog.show()
    qtbot.waitExposed(dialog)
    area = dialog.findChild(RoomyArea)
    qtbot.waitUntil(lambda: area.verticalScrollBar().maximum() > 0)
    assert dialog.height() <= free(dialog).height()
    assert all(whole(made) for made in dialog.findChildren(QPushButton))


def test_a_dialog_that_fits_does_not_scroll_and_grows_with_what_is_shown(qtbot, small_screen):
    small_screen(1280, 800)
    outer = QWidget()
    content = QVBoxLayout()
    words = QLabel("short")
    words.setWordWrap(True)
    content.addWidget(words)
    area = RoomyArea(content)
    QVBoxLayout(outer).addWidget(area)
    qtbot.addWidget(outer)
    outer.show()
    low = outer.height()
    words.setText("word " * 150)
    qtbot.waitUntil(lambda: outer.height() > low + 100)
    assert area.verticalScrollBar().maximum() == 0 and whole(words)
    words.setText("word " * 40_000)
    qtbot.waitUntil(lambda: area.verticalScrollBar().maximum() > 0)
    assert outer.height() <= free(outer).height()


def turn_wheel(widget):
    """As a mouse does over its middle."""
    window = widget.window()
    at = widget.mapTo(window, widget.rect().center())
    QTest.wheelEvent(window.windowHandle(), QPointF(at), QPoint(0, -120))
    QApplication.processEvents()


def test_the_wheel_changes_a_field_only_where_the_keys_go(qtbot):
    outer = QWidget()
    column = QVBoxLayout(outer)
    box, number = choice("One", [("a", 1), ("b", 2)]), number_box("Two", "Wh", 0, 100, 50)
    column.addWidget(box)
    column.addWidget(number)
    qtbot.addWidget(outer)
    outer.show()
    qtbot.waitExposed(outer)
    outer.activateWindow()
    number.setFocus()
    qtbot.waitUntil(number.hasFocus)
    turn_wheel(box)
    assert box.currentIndex() == 0 and not box.hasFocus()
    turn_wheel(number)
    assert number.value() == 49
    box.setFocus()
    turn_wheel(number)
    assert number.value() == 49
    turn_wheel(box)
    assert box.currentIndex() == 1


def test_scrolling_past_the_settings_of_a_plan_changes_none(qtbot, demo):
    demo.resize(1024, 700)
    demo.go_to(PLAN)
    at_rest(qtbot, demo)
    view = demo.stack.current_view()
    bar = view._form_area.verticalScrollBar()
    assert bar.maximum() > 0
    view.headline.setFocus()
    fields = view.form.findChildren(QComboBox) + view.form.findChildren(QAbstractSpinBox)
    fields = [field for field in fields if field.isVisible() and not field.hasFocus()]
    before = [f.currentIndex() if isinstance(f, QComboBox) else f.text() for f in fields]
    assert len(fields) > 8
    for field in fields:
        view._form_area.ensureWidgetVisible(field)
        was = bar.value()
        bar.setValue(was - 1 if was == bar.maximum() else was)
        was = bar.value()
        turn_wheel(field)
        assert bar.value() > was, field.accessibleName()  # the page moves instead
    after = [f.currentIndex() if isinstance(f, QComboBox) else f.text() for f in fields]
    assert after == before
