"""Stops in every theme and at every size of text: nothing is cut, words can be read."""

from dataclasses import replace

import numpy as np
import pytest
from conftest_helpers import at_rest, start_plan, worked_out
from PySide6.QtCore import QCoreApplication, QEvent, QPoint, Qt
from PySide6.QtGui import QFontMetrics, QImage, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QComboBox,
    QGraphicsTextItem,
    QGraphicsView,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QWidget,
)

from yardtoll.core.claims.ports import PanelPort, PortGroup
from yardtoll.desktop.actions.preferences import use_preferences
from yardtoll.desktop.theme.fonts import font
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import SMALL_PX
from yardtoll.desktop.views.stop import LEDGER, PLAN, RUN, SHEET, VERDICTS, YARD
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.widgets.big_figure import BigFigure
from yardtoll.desktop.widgets.port_panel import PortPanel
from yardtoll.desktop.widgets.power_chart import PowerChart
from yardtoll.desktop.workbench.preferences import TEXT_PERCENTS
from yardtoll.running.plan import plan_for_load


@pytest.fixture(autouse=True)
def afterwards():
    yield
    theme.apply("day")


def pixels(image: QImage) -> np.ndarray:
    image = image.convertToFormat(QImage.Format.Format_RGB888)
    raw = np.frombuffer(image.constBits(), np.uint8)
    rows = raw.reshape(image.height(), image.bytesPerLine())[:, : 3 * image.width()]
    return rows.reshape(image.height(), image.width(), 3) / 255


def luminance(colour: np.ndarray) -> np.ndarray:
    """Relative luminance, WCAG 2.1."""
    linear = np.where(colour <= 0.04045, colour / 12.92, ((colour + 0.055) / 1.055) ** 2.4)
    return linear @ np.array([0.2126, 0.7152, 0.0722])


def contrast_within(image: QImage) -> float:
    """Between the lightest and the darkest hundredth of what is seen."""
    seen = luminance(pixels(image)).ravel()
    low, high = np.sort(seen)[[seen.size // 200, -seen.size // 200 - 1]]
    return float((high + 0.05) / (low + 0.05))


@pytest.mark.parametrize("colours", ["day", "night", "contrast"])
def test_words_stand_out_from_what_is_behind_them(qtbot, demo, colours):
    worked_out(qtbot, demo)
    use_preferences(demo, replace(demo.settings.preferences, colours=colours))
    qtbot.waitUntil(lambda: not theme.is_changing)
    for stop in (YARD, LEDGER, VERDICTS, SHEET):
        demo.go_to(stop)
        at_rest(qtbot, demo)
        view = demo.stack.current_view()
        whole = view.grab().toImage()
        words = [
            w for w in view.findChildren(QLabel)
            if w.isVisible() and w.text().strip() and not w.visibleRegion().isEmpty()
            and w.visibleRegion().boundingRect() == w.rect() and w.isEnabled()
        ]  # fmt: skip
        assert words
        for word in words:
            corner = word.mapTo(view, QPoint(0, 0))
            # Of a word, only the place where its letters are.
            wide = min(QFontMetrics(word.font()).horizontalAdvance(word.text()), word.width())
            part = whole.copy(corner.x(), corner.y(), max(wide, 4), word.height())
            if part.width() * part.height() > 60:
                assert contrast_within(part) > 3.5, (stop, word.text())


def letters_in(view, monkeypatch):
    """(size in pixels on the screen, text) of what is painted, and of what widgets show."""
    found, draw = [], QPainter.drawText

    def noted(painter, *args):
        size = painter.font().pixelSize() * painter.combinedTransform().m22()
        found.append((size, next(str(a) for a in args if isinstance(a, str))))
        return draw(painter, *args)

    with monkeypatch.context() as patch:
        patch.setattr(QPainter, "drawText", noted)
        view.grab()
    seen = [w for w in view.findChildren(QWidget) if w.isVisible()]
    shown = (QLabel, QAbstractButton, QComboBox, QLineEdit, QAbstractSpinBox, QAbstractItemView)
    found += [(w.font().pixelSize(), type(w).__name__) for w in seen if isinstance(w, shown)]
    for chart in (w for w in seen if isinstance(w, QGraphicsView)):
        words = (item for item in chart.items() if isinstance(item, QGraphicsTextItem))
        found += [(w.font().pixelSize(), w.toPlainText()) for w in words if w.isVisible()]
    return found


@pytest.mark.parametrize(
    ("size", "percent"), [((1280, 800), 100), ((1024, 700), 150), ((636, 740), 100)]
)
def test_no_letters_are_too_small(qtbot, demo, monkeypatch, size, percent):
    """13 px at least, and 14 for text that is read in sentences; charts and their figures too."""
    worked_out(qtbot, demo)
    demo.resize(*size)
    use_preferences(demo, replace(demo.settings.preferences, text_percent=percent))
    painted = 0
    for stop in STOPS:
        demo.go_to(stop)
        at_rest(qtbot, demo)
        view = demo.stack.current_view()
        tabs = [b for b in view.findChildren(QPushButton) if b.isVisible() and b.isCheckable()]
        for tab in [None, *tabs]:
            if tab is not None:
                tab.click()
                at_rest(qtbot, demo)
            letters = letters_in(view, monkeypatch)
            painted += sum(1 for _, words in letters if words.strip())
            least = 13 * percent / 100 - 0.5
            assert [found for found in letters if found[0] < least] == [], (stop, tab)
            body = [w for w in view.findChildren(QLabel) if w.isVisible()]
            body = [w for w in body if w.property("role") != "muted" and len(w.text()) > 60]
            assert all(w.font().pixelSize() >= 14 for w in body), (stop, tab)
    assert painted > 1000


@pytest.mark.parametrize("percent", [TEXT_PERCENTS[0], 150, TEXT_PERCENTS[-1]])
def test_every_stop_survives_a_size_of_text(qtbot, demo, percent):
    worked_out(qtbot, demo)
    use_preferences(demo, replace(demo.settings.preferences, text_percent=percent))
    assert demo.settings.preferences.text_percent == percent
    for stop in STOPS:
        demo.go_to(stop)
        at_rest(qtbot, demo)
        view = demo.stack.current_view()
        for made in view.findChildren(QPushButton):
            inside = made.visibleRegion().boundingRect() == made.rect()
            if made.isVisible() and inside and made.text() and "\n" not in made.text():
                needs = QFontMetrics(made.font()).height()
                assert made.height() >= needs - 4, (stop, made.text())
        assert view.height() > 0
        areas = [a for a in demo.stack.findChildren(QScrollArea) if a.isVisible()]
        cut = [a for a in areas if a.widget().width() > a.viewport().width()]
        assert not cut, (stop, [(a.widget(), a.widget().width()) for a in cut])
    # Nothing of the frame leaves the window, and what does not fit can be scrolled to.
    assert demo.rail.height() + demo.strip.height() <= demo.height()
    demo.go_to(PLAN)
    assert demo.stack.current_view().findChildren(QScrollArea)
    assert demo.rail.fontMetrics().height() > 0 and demo.rail.width() >= 100 * percent / 100


def test_the_latest_run_fits_into_the_window_with_large_text(qtbot, demo):
    worked_out(qtbot, demo)
    use_preferences(demo, replace(demo.settings.preferences, text_percent=150))
    demo.go_to(RUN)
    at_rest(qtbot, demo)
    view = demo.stack.current_view()
    area = view.parentWidget()
    assert view.height() <= area.height()
    axis = view.idle_page.findChild(PowerChart).plot.getAxis("left")
    assert axis.width() >= QFontMetrics(font(SMALL_PX)).horizontalAdvance("1000 W")


def test_sockets_are_pressed_where_they_are_drawn_at_every_size(qtbot):
    theme.apply("day", 200)
    port = PanelPort(shape="ac", label="AC", rating="120 V", count=3, tested=False)
    panel = PortPanel()
    qtbot.addWidget(panel)
    panel.resize(900, 400)
    panel.show_ports([PortGroup(title="AC output", ports=(port,), shared="")], set())
    usual = panel.sizeHint().height()
    spot = (panel.sockets()[2][0].center() * 2).toPoint()
    with qtbot.waitSignal(panel.port_chosen) as chosen:
        QTest.mouseClick(panel, Qt.MouseButton.LeftButton, pos=spot)
    assert chosen.args[1] == panel.sockets()[2][2]
    theme.apply("day", 100)
    assert usual == 2 * panel.sizeHint().height()


def test_no_stop_is_moved_sideways_in_a_small_window(qtbot, demo):
    worked_out(qtbot, demo)
    demo.resize(1024, 700)
    use_preferences(demo, replace(demo.settings.preferences, text_percent=TEXT_PERCENTS[-1]))
    for stop in STOPS:
        demo.go_to(stop)
        at_rest(qtbot, demo)
        view = demo.stack.current_view()
        areas = [a for a in demo.stack.findChildren(QScrollArea) if a.widget() is view]
        assert all(area.horizontalScrollBar().maximum() == 0 for area in areas), stop
        if stop == YARD:
            tops = [found.mapTo(view, QPoint()).y() for found in view.lists.values()]
            assert tops[0] == tops[1] < tops[2] == tops[3]


@pytest.mark.parametrize("text", ["It is kept.", "One sentence after the other is said here. " * 8])
def test_what_a_notice_says_can_be_read(qtbot, demo, text):
    demo.go_to(LEDGER)
    for said in (text, f"{text} Again."):  # the second time it is there already
        demo.say(said, "See it", lambda: None)
        words = next(w for w in demo.notice.findChildren(QLabel) if w.text() == said)
        at_rest(qtbot, demo)
        assert words.height() >= words.heightForWidth(words.width()) >= 14
        assert demo.notice.rect().contains(words.geometry())
        wide = min(QFontMetrics(words.font()).horizontalAdvance(said), words.width())
        seen = demo.notice.grab().toImage()
        assert contrast_within(seen.copy(words.x(), words.y(), wide, words.height())) > 4.5
        foot = demo.notice.mapTo(demo.stack, demo.notice.rect().bottomLeft()).y()
        assert foot == demo.stack.height() - 1


def test_what_was_hidden_has_the_size_of_text_in_force(qtbot, demo):
    """Again and again: what was hidden at one change may be seen at the next."""
    notice = demo.notice
    close = next(b for b in notice.findChildren(QPushButton) if b.text() == "Close")
    for name in ("Larger text", "Larger text", "Usual text size", "Larger text"):
        demo.actions_by_name[name].trigger()
        at_rest(qtbot, demo)
        qtbot.waitUntil(lambda: close.font().pixelSize() == font().pixelSize())
        assert notice.text.startswith("Text at")
        for part in notice.findChildren(QLabel):
            assert part.font().pixelSize() == font().pixelSize()
        qtbot.waitUntil(lambda: close.width() >= close.sizeHint().width())
    notice.hide()
    use_preferences(demo, replace(demo.settings.preferences, text_percent=200))
    demo.open_finder()
    qtbot.waitUntil(lambda: demo.finder.line.font().pixelSize() == font().pixelSize())


@pytest.mark.parametrize(("percent", "wide"), [(100, 1024), (150, 1280), (200, 1280)])
def test_no_figure_of_a_run_in_progress_is_cut(qtbot, demo, percent, wide):
    use_preferences(demo, replace(demo.settings.preferences, text_percent=percent))
    demo.resize(wide, 800)
    yard = demo.bench.session.yard
    start_plan(qtbot, demo, plan_for_load(yard.stations()[2], yard.meters()[0], yard.loads()[0]))
    demo.go_to(RUN)
    view = demo.stack.current_view()
    qtbot.waitUntil(view.running.power_figure.within_button.isVisible, timeout=20_000)
    qtbot.waitUntil(lambda: not theme.is_changing)
    demo.bench.live.set_speed(3600)
    qtbot.waitUntil(lambda: "± " in demo.strip.energy.text() and len(demo.bench.live.samples) > 20)
    view.running.show_figures()
    # Samples come at any time: what was said last is laid out now, as it is before it is painted.
    QCoreApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest.value)
    figures = [w for w in view.findChildren(BigFigure) if w.isVisible()]
    assert len(figures) == 4
    for shown in [w for one in (*figures, demo.strip) for w in one.findChildren(QLabel)]:
        if shown.isVisible() and shown.text():
            wide_text = QFontMetrics(shown.font()).horizontalAdvance(shown.text())
            assert wide_text <= shown.width(), shown.text()
    button = demo.strip.go_button
    assert button.width() >= button.sizeHint().width()
    areas = [a for a in demo.stack.findChildren(QScrollArea) if a.isVisible()]
    assert not [a for a in areas if a.widget().width() > a.viewport().width()]
    long = figures[0]
    long.show_text("123456.7", "")
    value = next(w for w in long.findChildren(QLabel) if w.text() == "123456.7")
    value.ensurePolished()
    assert QFontMetrics(value.font()).horizontalAdvance("123456.7") <= long.width()
