"""Inputs as a picture, the time between charges, big figures, budgets and the scorecard."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QPushButton

from yardtoll.core.charge.inputs_together import InputTrace, inputs_together
from yardtoll.core.charge.soc_times import SocReading
from yardtoll.core.conformance.scorecard import SHIPPED_POINTS, Evidence, score
from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.ledger.ledger import Ledger, Toll
from yardtoll.core.uncertainty.budget import Budget, Contribution, Evaluation, rectangular
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.desktop.app import make_app
from yardtoll.desktop.dialogs.budget import BudgetDialog, budget_lines
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.views.sheet.scorecard_panel import ScorecardPanel
from yardtoll.desktop.widgets.between_charges import BetweenCharges
from yardtoll.desktop.widgets.big_figure import BigFigure
from yardtoll.desktop.widgets.input_shares import InputShares
from yardtoll.desktop.widgets.toll_strip import TollStrip
from yardtoll.store.records import StoredScorePoint

T = np.arange(0.0, 7200.0, 10.0)
SUN = np.where((T >= 1800) & (T < 5400), 400 + 100 * np.sin(T / 300), 0.0)
WALL = np.where(SUN > 0, np.minimum(1400, 1600 - SUN), 1400.0)


@pytest.fixture
def shown(qtbot):
    make_app()
    theme.apply("day")

    def show(widget, width=560, height=200):
        qtbot.addWidget(widget)
        widget.resize(width, height)
        widget.show()
        return widget

    return show


def pair(second=SUN):
    return inputs_together(
        InputTrace(name="wall", time_s=T, power_w=WALL),
        InputTrace(name="sun", time_s=T, power_w=second),
    )


def colours(widget):
    image = widget.grab().toImage()
    return {
        image.pixelColor(x, y).name()
        for x in range(0, image.width(), 3)
        for y in range(0, image.height(), 3)
    }


class TestInputShares:
    def test_both_inputs_are_drawn_in_their_colours(self, shown):
        shares = shown(InputShares())
        shares.show_pair(pair(), ("wall", "sun"), (EnergyKind.WALL, EnergyKind.SUN))
        wanted = {theme.tokens.energy[kind].lower() for kind in (EnergyKind.WALL, EnergyKind.SUN)}
        assert wanted <= colours(shares)

    def test_the_marker_starts_where_both_flow_and_says_each_share(self, shown):
        shares = shown(InputShares())
        shares.show_pair(pair(), ("wall", "sun"), (EnergyKind.WALL, EnergyKind.SUN))
        assert shares.answer.startswith("0:59:50 · ") or shares.answer.startswith("1:00:00 · ")
        assert " = 1600 W · wall 7" in shares.answer
        for _ in range(120):
            QTest.keyClick(shares, Qt.Key.Key_Left)
        assert shares.answer == "0:00:00 · 1400 W + 0 W = 1400 W · wall 100%, sun 0%"
        assert shares.accessibleDescription() == shares.answer
        QTest.keyClick(shares, Qt.Key.Key_Up)  # no key of the marker's
        assert shares.marker == 0.0

    def test_a_narrow_chart_says_it_shorter(self, shown):
        shares = shown(InputShares(), 260, 160)
        shares.show_pair(pair(), ("wall", "sun"), (EnergyKind.WALL, EnergyKind.SUN))
        assert "W +" not in shares.short_answer and "wall" in shares.short_answer
        shares.grab()

    def test_dragging_moves_it_and_stays_inside(self, shown):
        shares = shown(InputShares())
        shares.show_pair(pair(), ("wall", "sun"), (EnergyKind.WALL, EnergyKind.SUN))
        QTest.mousePress(shares, Qt.MouseButton.LeftButton, pos=QPoint(5, 80))
        assert shares.marker == 0.0
        QTest.mouseRelease(shares, Qt.MouseButton.LeftButton, pos=QPoint(5, 80))
        QTest.mousePress(shares, Qt.MouseButton.LeftButton, pos=QPoint(559, 80))
        assert shares.marker == 1.0

    def test_without_a_pair_it_is_empty(self, shown):
        shares = shown(InputShares())
        assert shares.answer == "" and len(colours(shares)) == 1


class TestBetweenCharges:
    READINGS = tuple(SocReading(s=60 * m, soc=soc) for m, soc in ((0, 5), (30, 55), (60, 95)))

    def test_it_begins_with_the_whole_range_and_answers_each_question(self, shown):
        between = shown(BetweenCharges())
        between.show_readings(self.READINGS)
        assert (between.low.value(), between.high.value()) == (5, 95)
        assert between.answer.text() == "1:00:00" and between.within.text().startswith("± ")
        asked = []
        between.budget_asked.connect(lambda figure, budget: asked.append((figure, budget.unit)))
        between.within.click()
        assert asked == [("From 5 to 95 % by the display: 1:00:00", "min")]
        between.low.setValue(55)
        assert between.answer.text().startswith("0:30:00")
        between.show_readings(self.READINGS)  # shown again, the question stays
        assert between.low.value() == 55
        between.high.setValue(99)
        assert between.answer.text() == "The display was read from 5 to 95 % only."

    def test_one_reading_is_no_question(self, shown):
        between = shown(BetweenCharges())
        between.show_readings(self.READINGS[:1])
        assert not between.isVisible()


class TestBigFigure:
    def test_its_uncertainty_is_there_only_where_it_is_known(self, shown, qtbot):
        figure = shown(BigFigure("Wh", "Delivered"))
        line = Contribution(name="Meter floor", why="", u=3.6)
        told = Figure(
            key="energy_wh",
            title="So far",
            value=1205.04,
            unit="Wh",
            budget=Budget.of("Wh", [line]),
        )
        figure.show_figure(told, "58.8 % of rated")
        assert figure.within_button.text() == "± 7.2"
        assert figure.accessibleName() == "Delivered: 1205.0 Wh"
        with qtbot.waitSignal(figure.budget_asked) as asked:
            figure.within_button.click()
        assert asked.args == [told]
        figure.show_figure(replace(told, budget=None), "")
        assert not figure.within_button.isVisible()


class TestBudgetDialog:
    def budget(self):
        repeats = Contribution(
            name="Repeats",
            why="s = 12 Wh over 3 runs",
            u=7.0,
            evaluation=Evaluation.A,
            degrees_of_freedom=2,
        )
        return Budget.of("Wh", [rectangular("Meter gain", 10, "±1 % of 1000 Wh"), repeats])

    def test_lines_kinds_and_shares(self):
        first, second = budget_lines(self.budget())
        assert (first[0], first[2], second[0], second[2]) == ("Repeats", "A", "Meter gain", "B")
        assert first[4] + second[4] == pytest.approx(1)

    def test_a_share_is_in_percent_and_few_repeats_are_told(self, shown):
        share = self.budget().scaled(1 / 1000, "")
        assert budget_lines(share)[0][3].endswith(" %")
        dialog = shown(BudgetDialog("Usable: 86 %", share, "A longer run."), 640, 420)
        texts = [label.text() for label in dialog.findChildren(QLabel)]
        assert any("effective degrees of freedom" in text for text in texts)
        assert "A longer run." in texts and "Usable: 86 %" in texts


class TestScorecardPanel:
    def test_points_with_and_without_evidence(self, shown):
        panel = shown(ScorecardPanel(), 340, 500)
        stored = [
            StoredScorePoint(id=i, title=p.title, quantity=p.quantity, sign=p.sign)
            for i, p in enumerate(SHIPPED_POINTS)
        ]
        got = score([s.point for s in stored], {"ups": Evidence(value=1, words="seen")})
        panel.show_points(stored, got, "1 of 1 points with evidence")
        texts = [label.text() for label in panel.findChildren(QLabel)]
        assert texts.count("no evidence, not scored") == 9 and "seen" in texts
        assert "1 of 1 points with evidence" in texts
        asked = []
        panel.edit_asked.connect(asked.append)
        panel.seen_asked.connect(lambda *what: asked.append(what))
        buttons = {b.accessibleName(): b for b in panel.findChildren(QPushButton)}
        buttons["Edit the point UPS"].click()
        buttons["Note what was seen: Pure sine, seen on a scope"].click()
        assert asked == [stored[6], ("pure_sine", "Pure sine, seen on a scope")]
        panel.show_points([], [], "nothing scored yet")
        assert panel.sum_line.text() == "Nothing scored yet"


def test_a_low_stage_writes_its_words_above_it(shown):
    tolls = (
        Toll(title="Charger", kind=EnergyKind.WALL, energy_wh=-900, evidence="", leaves="Stored"),
        Toll(title="Rest", kind=EnergyKind.UNACCOUNTED, energy_wh=50, evidence=""),
    )
    ledger = Ledger(
        rated_wh=1000, start_wh=100, start_title="From the sun", start_kind=EnergyKind.SUN,
        tolls=tolls, delivered_wh=950, own_draw_wh=0,
    )  # fmt: skip
    strip = shown(TollStrip(), 900, 300)
    strip.show_ledger(ledger)
    image = strip.grab().toImage()
    sun = theme.tokens.energy[EnergyKind.SUN].lower()
    column = [image.pixelColor(8, y).name() for y in range(image.height())]
    top = column.index(sun)
    words = {
        image.pixelColor(x, y).name() for x in range(22, 120) for y in range(top - 60, top - 4)
    }
    assert theme.tokens.ink.lower() in words  # written on the ground above, in ink
