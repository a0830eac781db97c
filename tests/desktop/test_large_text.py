"""Large text in a small window: what matters most is whole, the rest gives way."""

from dataclasses import replace
from datetime import timedelta

import pytest
from conftest_helpers import TANSY, at_rest
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QAbstractScrollArea, QLabel, QScrollArea

from yardtoll.desktop.actions.preferences import use_preferences
from yardtoll.desktop.theme.fonts import SEMIBOLD, font, scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.views.stop import LEDGER, OUTPUTS, PLAN, SHEET, SUN, VERDICTS, YARD
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.views.sun.volts_window import VoltsWindow
from yardtoll.desktop.widgets.lanes import Lane, LaneChart, LaneRun
from yardtoll.report.charts.lineup import Contestant, LineupScene
from yardtoll.report.charts.rails import RailRow, RailScene
from yardtoll.report.charts.scene import Words
from yardtoll.store.records import Station
from yardtoll.store.site_time import now as now_here


@pytest.fixture(autouse=True)
def afterwards():
    yield
    theme.apply("day")


@pytest.fixture
def enlarged(qtbot, demo):
    """Tells the view of a stop of the small window at a size of text."""

    def enlarged(percent, stop, station=TANSY):
        use_preferences(demo, replace(demo.settings.preferences, text_percent=percent))
        demo.resize(1024, 700)
        demo.bench.session.choose_station(station)
        demo.go_to(stop)
        at_rest(qtbot, demo)
        return demo.stack.current_view()

    return enlarged


def wide(words, pixels, weight=None):
    return QFontMetrics(font(pixels, weight) if weight else font(pixels)).horizontalAdvance(words)


def test_the_header_keeps_the_name_and_the_next_step(demo, enlarged):
    header = demo.header
    enlarged(100, YARD)
    assert {w.text() for w in header.findChildren(QLabel) if w.isVisible()} >= {
        "1229 Wh · 1200 W · LFP"
    }
    enlarged(200, YARD)
    for kept in (header.stations, header._next):
        assert kept.isVisible() and kept.width() >= kept.sizeHint().width()
    for words in header.findChildren(QLabel):
        assert not words.isVisible() or words.width() >= words.sizeHint().width(), words.text()
    assert "1229 Wh" in header.stations.toolTip()


def test_a_very_long_name_leaves_the_next_step_whole(demo, enlarged):
    session = demo.bench.session
    enlarged(200, YARD)
    session.edit(replace(session.station, name="The largest one of " * 3), "Long name")
    header = demo.header
    assert header._next.width() >= header._next.sizeHint().width()
    assert header.stations.geometry().right() < header._next.x()


def test_some_rows_are_seen_at_once(enlarged):
    lanes = enlarged(150, YARD).lanes
    assert len(lanes.lanes) == 3 and lanes.parentWidget().height() >= lanes.height()
    rails = enlarged(150, VERDICTS).rails
    assert rails.parentWidget().height() >= 2.9 * rails.row_h


@pytest.mark.parametrize("percent", [100, 150])
def test_the_sheet_is_set_in_the_size_of_text_too(enlarged, percent):
    document = enlarged(percent, SHEET).preview.document()
    block, sizes = document.begin(), set()
    while block.isValid():
        parts = block.begin()
        while not parts.atEnd():
            sizes.add(parts.fragment().charFormat().font().pixelSize())
            parts += 1
        block = block.next()
    sizes.discard(-1)
    assert min(sizes) == scaled(14) and max(sizes) >= scaled(22)


@pytest.mark.parametrize("is_new", [False, True])
def test_nothing_in_a_stop_is_wider_than_its_place(qtbot, demo, enlarged, is_new):
    """Of what scrolls inside a stop, too: an area without a bar would cut it off."""
    new = Station(name="Clover 1k", rated_wh=1000, rated_w=1200)
    station = demo.bench.session.add(new, "Add").id if is_new else TANSY
    for stop in STOPS:
        view = enlarged(200, stop, station)
        wider = {
            area.accessibleName() or type(area.widget()).__name__: bar.maximum()
            for area in view.findChildren(QAbstractScrollArea)
            if area.isVisible() and (bar := area.horizontalScrollBar()).maximum() > 1
        }
        assert wider == {}, stop


@pytest.mark.parametrize("was_seen", [False, True])
def test_a_plan_can_be_started_without_scrolling(qtbot, demo, enlarged, was_seen):
    if was_seen:  # what was in it when its parts were first measured must not matter
        demo.go_to(PLAN)
        at_rest(qtbot, demo)
    view = enlarged(200, PLAN)
    for kept in (view.headline, view.start_button, view.keep_button):
        assert kept.visibleRegion().boundingRect().height() > 0.9 * min(kept.height(), 200)
    area = next(a for a in demo.stack.findChildren(QScrollArea) if a.widget() is view)
    assert area.verticalScrollBar().maximum() == 0


def test_the_page_follows_the_window(qtbot, demo, enlarged):
    view = enlarged(150, SHEET)
    demo.resize(760, 700)
    at_rest(qtbot, demo)
    narrow = view._chart_width
    demo.resize(1600, 900)
    at_rest(qtbot, demo)
    assert view._set_for == view._chart_width > narrow


def test_the_legend_of_the_waves_takes_another_line(enlarged):
    scene = enlarged(150, OUTPUTS).picture.scene()
    names = [item for item in scene.items if isinstance(item, Words) and item.text.startswith("at")]
    assert len(names) == 2 and len({name.y for name in names}) == 2
    for name in names:
        assert name.x + wide(name.text, name.size) / theme.scale <= scene.width


def test_words_in_the_window_of_volts_stay_inside(qtbot, demo, enlarged, monkeypatch):
    said, paint = [], VoltsWindow._paint_word

    def noted(chart, painter, at, words, colour):
        said.append((at.x() + painter.fontMetrics().horizontalAdvance(words), words))
        paint(chart, painter, at, words, colour)

    monkeypatch.setattr(VoltsWindow, "_paint_word", noted)
    chart = enlarged(150, SUN).findChild(VoltsWindow)
    for width, expected in (
        (1024, "open circuit, cells as cold as the air"),
        (640, "open circuit"),
    ):
        demo.resize(width, 700)
        at_rest(qtbot, demo)
        said.clear()
        chart.grab()
        assert [words for end, words in said if end > chart.width()] == []
        assert expected in [words for _, words in said]
    assert wide(chart.short_answer, 14, SEMIBOLD) <= chart.area.width()


def test_a_name_side_by_side_is_whole_before_its_rail_is_long():
    rows = tuple(
        Contestant(name=name, conditions="411 W", value=value, figure=f"{value} %")
        for name, value in (("Tansy 1200", 85.0), ("Fennel 2k", 91.1))
    )
    for width in (340.0, 800.0):
        scene = LineupScene(title="", unit="%", rows=rows, width=width, palette=theme.tokens)
        for item in scene.scene().items:
            if isinstance(item, Words) and item.text in {row.name for row in rows}:
                assert item.room >= wide(item.text, item.size, SEMIBOLD), width


def test_stages_of_the_ledger_keep_their_names(enlarged):
    strip = enlarged(150, LEDGER).toll_strip
    drawn = strip._strip(strip.ledger).scene()
    named = [i for i in drawn.items if isinstance(i, Words) and i.text.startswith("Store")]
    assert named and all(name.whole for name in named)


@pytest.mark.parametrize("width", [280.0, 800.0])
def test_a_verdict_is_never_cut_short(width):
    row = RailRow("Rated energy", "", 1.0, 0.1, 0.5, "too_close_to_call", "too close to call", "1")
    items = RailScene(row=row, width=width, height=46, palette=theme.tokens).items()
    (word,) = (i for i in items if isinstance(i, Words) and i.text == row.word)
    needs = wide(word.text, word.size, SEMIBOLD)
    assert word.whole and word.room > 0.5 * needs and word.x + word.room <= width


def lane_of(*hours, caption):
    now = now_here()
    runs = tuple(
        LaneRun(i, now - timedelta(hours=a), now - timedelta(hours=b), "finished", caption, "")
        for i, (a, b) in enumerate(hours)
    )
    return [Lane(1, "a", "b", runs)], now


def shown_lanes(qtbot, width, lanes, now):
    chart = LaneChart()
    qtbot.addWidget(chart)
    chart.resize(width, 130)
    chart.show()
    chart.show_lanes(lanes, None, now, None)
    return chart, chart.grab().toImage()


def test_now_does_not_strike_a_figure_through(qtbot):
    lanes, now = lane_of((40, 30), (2, 1), caption="1119.2 ± 6.6 Wh drawn")
    chart, picture = shown_lanes(qtbot, 900, lanes, now)
    block, _ = chart.blocks[-1]
    x, paper = round(chart._x(now)), theme.colour("paper")

    def line_at(y):
        """How much redder than its ground the line makes what is at a height."""
        found = [picture.pixelColor(x + off, y) for off in (-1, 0, 1)]
        return max((c.red() - c.blue()) - (paper.red() - paper.blue()) for c in found)

    assert line_at(int(block.top()) - 8) > 80
    assert max(line_at(y) for y in range(int(block.bottom()) + 1, picture.height())) < 30


def test_a_figure_without_room_is_left_out_not_cut(qtbot):
    lanes, now = lane_of((9, 8), (3, 2), (2, 1), caption="1119.2 ± 6.6 Wh drawn")
    chart, _ = shown_lanes(qtbot, 420, lanes, now)
    assert chart.caption_ends and max(chart.caption_ends.values()) <= chart.width() + 8
