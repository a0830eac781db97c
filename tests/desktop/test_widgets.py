"""Drawn widgets: they react to keys and clicks, and draw what they are told in every state."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QContextMenuEvent, QFontMetrics
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QMenu

from yardtoll.core.discharge.analysis import Rating, discharge_from_energies
from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.ledger.ledger import discharge_ledger
from yardtoll.core.line_breaks import plain
from yardtoll.core.live.forecast import Forecast
from yardtoll.core.planning.expected import ExpectedRun
from yardtoll.core.uncertainty.budget import Budget, rectangular
from yardtoll.desktop.app import make_app
from yardtoll.desktop.frame.finding import matches
from yardtoll.desktop.frame.rail import Rail
from yardtoll.desktop.theme.fonts import font
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import ShownLabel
from yardtoll.desktop.widgets.expected_run import ExpectedRunPicture
from yardtoll.desktop.widgets.kept_grid import Cell, KeptGrid
from yardtoll.desktop.widgets.lanes import Lane, LaneChart, LaneRun
from yardtoll.desktop.widgets.power_chart import HoursAxis, PowerChart
from yardtoll.desktop.widgets.toll_strip import TollStrip
from yardtoll.desktop.widgets.verdict_rails import RailRow, VerdictRails

NOW = datetime(2026, 5, 14, 12, tzinfo=UTC)
ROWS = [
    RailRow("Run 1 at 400 W", "x", 0.90, 0.01, 0.85, "meets", "meets", "90.0 ± 1.0 %"),
    RailRow("Run 2", "x", 0.80, 0.01, 0.85, "falls_short", "falls short", "80.0 ± 1.0 %"),
    RailRow("Run 3", "x", 0.85, 0.01, 0.85, "too_close_to_call", "too close to call", "85 %"),
    RailRow("Run 4 " * 40, "x" * 300, None, None, 0.85, "", "void", "–"),
]


@pytest.fixture
def shown(qtbot):
    make_app()
    theme.apply("day")

    def show(widget, width=900, height=300):
        qtbot.addWidget(widget)
        widget.resize(width, height)
        widget.show()
        qtbot.waitExposed(widget)
        return widget

    return show


def colours(widget) -> set[str]:
    """Every colour on a grid of points of the widget as it is drawn."""
    image = widget.grab().toImage()
    return {
        image.pixelColor(x, y).name()
        for x in range(0, image.width(), 3)
        for y in range(0, image.height(), 3)
    }


def is_drawn(widget):
    """Whether there is more than the ground."""
    image = widget.grab().toImage()
    rows = range(0, image.height(), 7)
    return len({image.pixel(x, y) for x in range(0, image.width(), 3) for y in rows}) > 2


class TestTollStrip:
    def ledger(self, wh=1600.0, **rating):
        return discharge_ledger(discharge_from_energies([wh], Rating(rated_wh=2000, **rating)))

    @pytest.mark.parametrize("colour", ["day", "night"])
    def test_each_kind_is_drawn_in_its_colour(self, shown, colour):
        strip = shown(TollStrip())
        theme.apply(colour)
        strip.show_ledger(self.ledger(soc_to=10), (None, None, None, 16.0, 16.0))
        seen = colours(strip)
        energy = theme.tokens.energy
        for kind in (
            EnergyKind.DELIVERED,
            EnergyKind.STORED,
            EnergyKind.FLOOR,
            EnergyKind.UNACCOUNTED,
        ):
            assert energy[kind].lower() in seen, kind
        theme.apply("day")

    def test_heights_stand_for_watt_hours(self, shown):
        strip = shown(TollStrip(), 900, 400)
        strip.show_ledger(self.ledger(wh=1000))
        image = strip.grab().toImage()
        right = [image.pixelColor(image.width() - 6, y).name() for y in range(image.height())]
        left = [image.pixelColor(4, y).name() for y in range(image.height())]
        delivered = right.count(theme.tokens.energy[EnergyKind.DELIVERED].lower())
        paper_above = left.index(next(c for c in left if c != left[0]))
        rated = (
            right.index(theme.tokens.energy[EnergyKind.DELIVERED].lower()) + delivered - paper_above
        )
        assert delivered == pytest.approx(rated / 2, rel=0.02)

    def test_gates_by_key_and_click(self, shown):
        strip, chosen = shown(TollStrip()), []
        strip.show_ledger(self.ledger(soc_to=10), (None, None, None, 16.0, 16.0))
        strip.grab()
        opened = []
        strip.place_chosen.connect(chosen.append)
        strip.budget_asked.connect(opened.append)
        # Rated, the window's gate, in the window, not delivered, delivered: from the first gate on.
        for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Right):
            QTest.keyClick(strip, key)
        QTest.keyClick(strip, Qt.Key.Key_Return)
        assert chosen == [2, 3, 4, 4] and opened == [4]
        QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(300, 100))
        QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(890, 100))
        QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(100, 100))
        assert chosen[-3:] == [1, 4, 0]
        QTest.mouseDClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(450, 100))
        assert opened == [4, 2]

    @pytest.mark.parametrize("wh", [0.0, 0.4, 2000.0, 2600.0])
    def test_extremes_are_drawn(self, shown, wh):
        strip = shown(TollStrip())
        strip.show_ledger(self.ledger(wh=wh), (None, 16.0, 16.0))
        assert strip.accessibleDescription().startswith("Rated 2000 Wh, ")
        assert is_drawn(strip)

    def test_nothing_to_draw_is_nothing_drawn(self, shown):
        strip = shown(TollStrip())
        strip.show_ledger(None)
        QTest.keyClick(strip, Qt.Key.Key_Right)
        assert len(colours(strip)) == 1


class TestVerdictRails:
    def test_keys_choose_and_open(self, shown):
        rails, chosen, opened = shown(VerdictRails()), [], []
        rails.show_rows(ROWS)
        rails.row_chosen.connect(chosen.append)
        rails.row_opened.connect(opened.append)
        for key in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Down, Qt.Key.Key_Return):
            QTest.keyClick(rails, key)
        assert (chosen, opened) == ([1, 2], [2])
        assert rails.accessibleDescription() == "Run 3: too close to call, 85 %"
        QTest.keyClick(rails, Qt.Key.Key_End)
        QTest.keyClick(rails, Qt.Key.Key_Home)
        assert chosen == [1, 2, len(ROWS) - 1, 0]

    def test_clicks_choose_and_open(self, shown):
        rails, opened = shown(VerdictRails()), []
        rails.show_rows(ROWS)
        rails.row_opened.connect(opened.append)
        QTest.mouseClick(rails, Qt.MouseButton.LeftButton, pos=QPoint(100, 110))
        assert rails.chosen == 2
        QTest.mouseDClick(rails, Qt.MouseButton.LeftButton, pos=QPoint(100, 160))
        assert opened == [3]

    def test_colours_say_the_outcome(self, shown):
        rails = shown(VerdictRails(), 900, 260)
        for row, token in zip(ROWS, ("good", "bad", "unsure"), strict=False):
            rails.show_rows([row])
            assert getattr(theme.tokens, token).lower() in colours(rails)

    def test_fewer_rows_stand_further_apart(self, shown):
        rails = shown(VerdictRails())
        rails.show_rows(ROWS[:2])
        rails.fit_to(400)
        assert rails.height() == 2 * 84 + 1
        rails.fit_to(50)
        assert rails.height() == 2 * 46 + 1


class TestLanes:
    def lanes(self, count=3):
        return [
            Lane(
                station_id=i,
                name=f"Station {i}",
                subtitle="x",
                runs=tuple(
                    LaneRun(10 * i + k, NOW - timedelta(hours=30 - 8 * k),
                            NOW - timedelta(hours=26 - 8 * k), state, "900 Wh", "tip")
                    for k, state in enumerate(("finished", "void", "running"))
                ),
            )
            for i in range(count)
        ]  # fmt: skip

    def test_runs_and_stations_are_chosen_by_click(self, shown):
        chart, runs, stations = shown(LaneChart(), 1000, 400), [], []
        chart.show_lanes(self.lanes(), 0, NOW, NOW + timedelta(hours=2))
        chart.grab()
        chart.run_chosen.connect(runs.append)
        chart.station_chosen.connect(stations.append)
        block = chart.blocks[4][0]
        QTest.mouseClick(chart, Qt.MouseButton.LeftButton, pos=block.center().toPoint())
        QTest.mouseClick(chart, Qt.MouseButton.LeftButton, pos=QPoint(50, int(block.center().y())))
        assert (runs, stations) == ([11], [1])

    def test_keys_walk_from_run_to_run(self, shown):
        chart, runs, asked = shown(LaneChart(), 1000, 400), [], []
        known = rectangular("Meter gain", 9.0, "±1 %")
        (lane, *others) = self.lanes()
        first = replace(lane.runs[0], budget=Budget.of("Wh", [known]))
        lanes = [replace(lane, runs=(first, *lane.runs[1:])), *others]
        chart.show_lanes(lanes, 0, NOW, None)
        chart.run_chosen.connect(runs.append)
        chart.budget_asked.connect(asked.append)
        QTest.keyClick(chart, Qt.Key.Key_Return)
        assert not runs  # nothing is chosen yet
        for key in (Qt.Key.Key_Right, Qt.Key.Key_B, Qt.Key.Key_Return, Qt.Key.Key_Down):
            QTest.keyClick(chart, key)
        QTest.keyClick(chart, Qt.Key.Key_B)  # of the second run nothing is known
        assert runs == [0] and asked == [first]
        assert chart.accessibleDescription() == "tip"

    def test_the_menu_of_a_run_offers_its_budget(self, shown, qtbot):
        chart, asked = shown(LaneChart(), 1000, 400), []
        (lane, *_) = self.lanes()
        known = Budget.of("Wh", [rectangular("Meter gain", 9.0, "±1 %")])
        chart.show_lanes([replace(lane, runs=(replace(lane.runs[0], budget=known),))], 0, NOW, None)
        chart.grab()
        chart.budget_asked.connect(asked.append)
        at = chart.blocks[0][0].center().toPoint()
        reason = QContextMenuEvent.Reason.Mouse
        QApplication.sendEvent(chart, QContextMenuEvent(reason, at, chart.mapToGlobal(at)))
        (menu,) = chart.findChildren(QMenu)
        assert [a.text() for a in menu.actions()] == ["Open the run", "Where its ± comes from"]
        menu.actions()[1].trigger()
        assert [run.budget for run in asked] == [known]
        menu.close()

    def test_each_energy_has_its_colour_and_two_at_once_share_a_block(self, shown):
        hours = ((EnergyKind.WALL, 30, 26), (EnergyKind.SUN, 29, 27), (EnergyKind.OVERHEAD, 20, 10))
        runs = tuple(
            LaneRun(i, NOW - timedelta(hours=a), NOW - timedelta(hours=b), "finished", "", "",
                    None, kind)
            for i, (kind, a, b) in enumerate(hours)
        )  # fmt: skip
        chart = shown(LaneChart(), 900, 300)
        chart.show_lanes([Lane(1, "a", "b", runs)], None, NOW, None)
        seen = colours(chart)
        assert {theme.tokens.energy[kind].lower() for kind, _, _ in hours} <= seen
        wall, sun, idle = (block for block, _ in chart.blocks)
        assert sun.top() > wall.top() and sun.bottom() == wall.bottom() and idle.top() == wall.top()
        assert chart.run_at(sun.center()).kind is EnergyKind.SUN

    def test_a_caption_without_room_goes_a_line_lower(self, shown):
        runs = tuple(
            LaneRun(i, NOW - timedelta(hours=30 - i), NOW - timedelta(hours=29.6 - i), "finished",
                    "1895 ± 11 Wh drawn", "")
            for i in range(2)
        )  # fmt: skip
        chart = shown(LaneChart(), 900, 400)
        chart.show_lanes([Lane(1, "a", "b", runs)], None, NOW, None)
        chart.fit_to(400)
        chart.grab()
        assert set(chart.caption_ends) == {0, 1}
        last_block = chart.blocks[-1][0]
        text_h = QFontMetrics(font(13)).ascent()
        assert last_block.bottom() + 17 + text_h <= chart.height()  # the second line is whole

    @pytest.mark.parametrize("count", [1, 2, 3, 5])
    def test_the_captions_of_the_last_lane_are_whole_in_any_room(self, shown, count):
        chart = shown(LaneChart(), 900, 400)
        runs = tuple(
            LaneRun(i, NOW - timedelta(hours=30 - i), NOW - timedelta(hours=29.6 - i), "finished",
                    "1895 ± 11 Wh drawn", "")
            for i in range(2)
        )  # fmt: skip
        lanes = [Lane(i, "a", "b", runs) for i in range(count)]
        chart.show_lanes(lanes, None, NOW, None)
        lines = set()
        for room in range(60 * count, 110 * count + 60, 3):
            chart.fit_to(room)
            chart.grab()
            lowest = max(chart.caption_ends)
            lines.add(lowest)
            text_h = QFontMetrics(font(13)).ascent()
            foot = chart.blocks[-1][0].bottom() + 17 * lowest + text_h
            assert foot <= chart.height(), f"in {room} px"
        assert lines == {0, 1}

    def test_the_caption_of_a_plan_to_come_stays_within(self, shown):
        plan = LaneRun(1, NOW + timedelta(days=2), NOW + timedelta(days=2.2), "planned",
                       "Recharge from the sun", "")  # fmt: skip
        chart = shown(LaneChart(), 900, 300)
        chart.show_lanes([Lane(1, "a", "b", (plan,))], None, NOW, plan.end)
        chart.grab()
        assert chart.caption_ends[0] - 8 <= chart.width()
        assert chart.blocks[0][0].left() > chart.now_word()[1].right() > 0  # now stands before it

    @pytest.mark.parametrize("span", [timedelta(minutes=1), timedelta(days=2), timedelta(days=900)])
    def test_any_span_has_a_few_ticks(self, shown, span):
        chart = shown(LaneChart())
        run = LaneRun(1, NOW - span, NOW, "finished", "x", "x")
        chart.show_lanes([Lane(1, "a", "b", (run,))], None, NOW, None)
        assert len(chart.ticks()) <= 24
        assert is_drawn(chart)

    def test_lanes_share_the_room(self, shown):
        chart = shown(LaneChart())
        chart.show_lanes(self.lanes(), None, NOW, None)
        chart.fit_to(2000)
        tall = chart.height()
        chart.fit_to(100)
        assert tall > chart.height() >= 3 * 60


class TestPowerChart:
    def test_the_view_holds_the_run_and_its_foreseen_end(self, shown):
        chart = shown(PowerChart("x"), 800, 300)
        t = np.arange(0, 3600.0)
        chart.show_trace(t, np.full(t.size, 400.0))
        forecast = Forecast(remaining_s=7000, earliest_s=6000, latest_s=8000, basis="x")
        chart.show_forecast(3600, forecast, 400)
        (low, high), (_, top) = chart.plot.viewRange()
        assert low == 0 and high >= 11_600 and 400 < top < 600
        chart.show_forecast(None, None, 0)
        assert chart.plot.viewRange()[0][1] < 4000

    def test_words_of_marks_that_crowd_are_left_out_but_their_lines_stay(self, shown):
        chart = shown(PowerChart("x"), 800, 300)
        t = np.arange(0, 3600.0)
        chart.show_trace(t, np.full(t.size, 400.0))
        chart.show_marks([(100, "Fan on"), (110, "Odd"), (2000, "Fan off"), (3590, "Cut-off")])
        words = [line.label.format for line in chart.mark_lines]
        assert words == ["▾ Fan on", "", "▾ Fan off", "▾ Cut-off"]
        assert chart.mark_lines[-1].label.anchors[0][0] == 1.0

    def test_a_zoom_by_hand_stays_until_a_double_click(self, shown):
        chart = shown(PowerChart("x"), 800, 300)
        t = np.arange(0, 3600.0)
        chart.show_trace(t, np.full(t.size, 400.0))
        chart.plot.setXRange(100, 200, padding=0)
        chart.on_zoomed(None)
        chart.show_trace(t, np.full(t.size, 410.0))
        assert chart.plot.viewRange()[0] == [100, 200]
        chart.reset_view()
        assert chart.plot.viewRange()[0][1] > 3600

    def test_holes_are_not_bridged(self, shown):
        chart = shown(PowerChart("x"))
        chart.show_trace(np.arange(4.0), np.array([1, np.nan, 3, 4]))
        assert chart.peak_w == 4

    def test_hours_on_the_axis(self):
        axis = HoursAxis("bottom")
        (step, values), *_ = axis.tickValues(0, 5 * 3600, 500)
        assert step == 3600 and axis.tickStrings(values, 1, step)[:3] == ["0 h", "1 h", "2 h"]
        (step, values), *_ = axis.tickValues(0, 5400, 500)
        assert step == 600
        assert axis.tickStrings(values, 1, step) == [
            "0:00", "0:10", "0:20", "0:30", "0:40", "0:50", "1:00", "1:10", "1:20", "1:30",
        ]  # fmt: skip


def test_the_expected_run_draws_its_band(shown):
    picture = shown(ExpectedRunPicture(), 600, 240)
    picture.show_plan(None)
    assert len(colours(picture)) == 1
    expected = ExpectedRun(
        duration_s=7000, earliest_s=6000, latest_s=8000, energy_wh=780, half_width_wh=50,
        power_w=400, c_rate=0.2, curve=((0, 440), (300, 400), (7000, 400)), basis="x",
    )  # fmt: skip
    picture.show_plan((NOW, True, expected, 2000, EnergyKind.DELIVERED))
    starts_now = picture.grab().toImage()
    assert theme.tokens.trace.lower() in colours(picture)
    assert picture.accessibleDescription() == "400 W, ends from 13:40"
    picture.show_plan((NOW, False, expected, 2000, EnergyKind.DELIVERED))
    assert picture.grab().toImage() != starts_now  # it names its day instead of "now"


def test_the_rail_is_walked_by_keys_and_stays_on_its_ends(shown):
    rail, chosen = shown(Rail([("a", "A"), ("b", "B"), ("c", "C")]), 122, 300), []
    rail.stop_chosen.connect(chosen.append)
    QTest.keyClick(rail, Qt.Key.Key_Up)
    QTest.keyClick(rail, Qt.Key.Key_Down)
    rail.set_current("c")
    QTest.keyClick(rail, Qt.Key.Key_Down)
    QTest.mouseClick(rail.stops[1], Qt.MouseButton.LeftButton)
    assert chosen == ["b", "b"]
    assert rail.accessibleDescription() == "C, 3 of 3"


@pytest.mark.parametrize(
    ("words", "text", "found"),
    [("go verd", "Go to Verdicts", True), ("", "Quit", True), ("goo", "Go to Plan", False)],
)
def test_the_finder_matches_all_words_anywhere(words, text, found):
    assert matches(words, text) is found


class TestRailSides:
    """Where the good part of a rail lies: at least, at most, within a tolerance."""

    def strip(self, rails, x):
        """Colours down the middle of the first row at an x."""
        image = rails.grab().toImage()
        return {image.pixelColor(x, y).name() for y in range(4, 40)}

    @pytest.mark.parametrize(
        ("good", "at_left", "in_the_middle", "at_right"),
        [
            ((0.5, None), False, False, True),
            ((None, 0.5), True, False, False),
            ((0.4, 0.6), False, True, False),
        ],
    )
    def test_the_good_side_is_shaded(self, shown, good, at_left, in_the_middle, at_right):
        rails = shown(VerdictRails(), 1000, 60)
        row = RailRow("A", "b", None, None, 0.5, "", "not tested", "–", 0.0, 1.0, good)
        other = RailRow("C", "d", None, None, 0.5, "", "not tested", "–", 0.0, 1.0, good)
        rails.show_rows([row, other])
        rails.choose(1)
        shade = theme.tokens.good_ground.lower()
        # The rail runs from 30 to 68 % of the width; its middle is at 49 %, beside no post.
        found = [shade in self.strip(rails, x) for x in (330, 500, 660)]
        if good == (0.5, None) or good[0] is None:
            assert found[0] is at_left and found[2] is at_right
        else:
            assert found == [at_left, in_the_middle, at_right]


def test_a_grid_that_was_filled_with_other_rows_has_the_heights_of_a_new_one(shown):
    """A rule where words were, and words where a rule was."""

    def rows(rule_at):
        return [
            Cell(row=row, column=0, columns=3, text="", role="rule")
            if row == rule_at
            else Cell(row=row, column=0, text=f"{row}")
            for row in range(7)
        ]

    used, new = shown(KeptGrid(), 300, 300), shown(KeptGrid(), 300, 300)
    for rule_at in (2, 5, 3):
        used.show_cells(rows(rule_at))
        QApplication.processEvents()
    new.show_cells(rows(3))
    assert used.grid.sizeHint() == new.grid.sizeHint()
    assert used.texts() == new.texts() == ["0", "1", "2", "4", "5", "6"]


@pytest.mark.parametrize(
    ("text", "torn"),
    [
        ("Probability of conformity 2 %.", False),
        ("235.3 ± 4.3 Wh delivered at 59 W", False),
        ("after 8 h the meter", False),
        ("run 1 was at 59 W", True),
        ("12 hours in 3 Wagons", True),
    ],
)
def test_no_line_ends_between_a_figure_and_its_unit(text, torn):
    made = ShownLabel(text)
    drawn = QLabel.text(made)
    assert made.text() == text and plain(drawn) == text
    pieces = drawn.split(" ")
    assert any(piece.isdigit() for piece in pieces) is torn
    made.setText("5 W")
    assert QLabel.text(made) == "5\u00a0W"
