"""Dialogs on a screen too small for all of them, and the wheel over what scrolls."""

from dataclasses import replace
from itertools import pairwise

import pytest
from conftest_helpers import at_rest, in_dialog, leave_run, one_setting, start_plan
from PySide6.QtCore import QPoint, QPointF, QRect, Qt
from PySide6.QtGui import QFontMetricsF, QScreen
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
from yardtoll.desktop.theme.fonts import REGULAR, SEMIBOLD, font
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.views.stop import PLAN, RUN, SHEET
from yardtoll.desktop.widgets.basics import choice, number_box
from yardtoll.desktop.widgets.big_figure import BigFigure
from yardtoll.desktop.widgets.roomy_area import RoomyArea
from yardtoll.report.charts.letters import in_lines, text_width
from yardtoll.report.charts.rails import RailRow, RailScene, words_width
from yardtoll.report.charts.scene import Dot, Words
from yardtoll.running.plan import plan_for_load

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


def test_the_first_page_is_read_whole_with_large_text(qtbot, window):
    use_preferences(window, replace(window.settings.preferences, text_percent=200))
    qtbot.waitUntil(lambda: not theme.is_changing)
    page = window.welcome
    title = next(w for w in page.findChildren(QLabel) if w.property("role") == "muted")
    qtbot.waitUntil(lambda: title.font().pixelSize() == 26)
    for made in page.findChildren(QPushButton):
        for words in made.findChildren(QLabel):
            assert words.height() >= words.heightForWidth(words.width()), words.text()
            assert made.rect().contains(words.geometry())
    opened = [made for made in page.findChildren(QPushButton) if made.property("role") == "choice"]
    assert len(opened) == 5


def test_all_stops_are_reached_in_a_window_as_low_as_can_be(qtbot, demo):
    demo.resize(640, 360)
    at_rest(qtbot, demo)
    places = [stop.geometry() for stop in demo.rail.stops]
    assert all(demo.rail.rect().contains(place) for place in places)
    assert all(a.bottom() <= b.top() for a, b in pairwise(places))
    QTest.mouseClick(demo.rail.stops[-1], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: demo.current_stop == SHEET)


def test_a_run_in_progress_fits_half_a_small_screen(qtbot, demo):
    demo.resize(640, 740)
    yard = demo.bench.session.yard
    station = demo.bench.session.station
    start_plan(qtbot, demo, plan_for_load(station, yard.meters()[0], one_setting("Lamp", 246)))
    demo.go_to(RUN)
    view = demo.stack.current_view()

    def figures():
        return [f for f in view.findChildren(BigFigure) if f.isVisible()]

    qtbot.waitUntil(lambda: len(figures()) == 4)
    area = view.parentWidget().parentWidget()
    qtbot.waitUntil(lambda: area.horizontalScrollBar().maximum() == 0)
    assert all(not figure.visibleRegion().isEmpty() for figure in figures())
    leave_run(demo)


@pytest.mark.parametrize(("width", "has_rail"), [(800.0, True), (450.0, True), (340.0, False)])
def test_a_verdict_without_room_is_said_without_its_rail(width, has_rail):
    row = RailRow(
        "AC frequency", "60 Hz", 60.0, 0.02, 59.5, "meets", "meets", "59.980 to 60.020 ± 0.024 Hz",
        59.0, 61.0, (59.5, 60.5),
    )  # fmt: skip
    scene = RailScene(
        row=row, width=width, height=46, palette=theme.tokens, words_w=words_width([row])
    )
    items = scene.items()
    assert any(isinstance(item, Dot) for item in items) is has_rail
    (figure,) = (i for i in items if isinstance(i, Words) and i.text == row.figure)
    needs = QFontMetricsF(font(figure.size)).horizontalAdvance(figure.text)
    assert figure.room >= needs and figure.x + figure.room <= width
    (name,) = (i for i in items if isinstance(i, Words) and i.text == row.title)
    assert name.room >= 70 and name.x + name.room < figure.x


def test_the_width_of_a_text_is_known_near_enough(qtbot):
    for text in (
        "59.980 to 60.020 ± 0.024 Hz", "Store at the outlet", "1261.9 Wh", "85.0 ± 1.1 % of rated",
        "too close to call", "−205 ± 88 Wh", "Where it went → 3",
    ):  # fmt: skip
        for weight in (REGULAR, SEMIBOLD):
            measured = QFontMetricsF(font(15, weight)).horizontalAdvance(text)
            assert 0.97 * measured <= text_width(text, 15) <= 1.3 * measured, text


def test_a_text_is_broken_at_spaces_and_no_word_is_lost():
    text = "46.2 Wh of it fed the meter"
    assert in_lines(text, 14, 1000) == [text]
    lines = in_lines(text, 14, 80)
    assert len(lines) > 2 and " ".join(lines) == text
    assert all(text_width(line, 14) <= 80 for line in lines)
    assert in_lines("Unaccounted", 14, 5) == ["Unaccounted"]
