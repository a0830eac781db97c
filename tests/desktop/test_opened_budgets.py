"""Every figure of a station's runs opens the budget behind its ±, by mouse and by keys."""

import re
from dataclasses import replace

import pytest
from conftest_helpers import opened_by, worked_out
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from yardtoll.desktop.stops import YARD
from yardtoll.desktop.views.ledger.model import ledger_page
from yardtoll.review.together import together


def test_figures_open_their_budgets(qtbot, demo):
    worked_out(qtbot, demo)
    demo.bench.session.choose_station(1)
    demo.open_run(next(r.id for r in demo.bench.session.yard.runs(1) if r.number == 5))
    view = demo.stack.currentWidget()
    buttons = {
        b.text(): b for b in view.findChildren(QPushButton) if b.property("role") == "figure"
    }
    assert not view.charts._within.isVisibleTo(demo)  # its chart is not the one shown
    del buttons[view.charts._within.text()]
    assert set(buttons) == {
        "2240 ± 13 Wh", "84.66 ± 0.03 %", "862 ± 5 W", "1388 ± 8 W", "1:18:45 ± 0.5 min",
        "2:23:45 ± 11.5 min", "87.0 ± 0.3 %", "2:35:53 ± 2 s", "Charger: 292 ± 6 Wh", "± 12 min",
    }  # fmt: skip
    said = opened_by(buttons["84.66 ± 0.03 %"].click)
    # One meter did both: its gain is not among the lines.
    assert "Delivered: meter floor" in said and "Drawn: meter floor" in said
    assert not any(text.endswith("gain") for text in said)


def test_every_toll_and_stage_opens_its_budget(qtbot, demo):
    """By keys along the strip: the rating alone would have none, and here the wall is measured."""
    worked_out(qtbot, demo)
    demo.bench.session.choose_station(1)
    demo.open_run(next(r.id for r in demo.bench.session.yard.runs(1) if r.number == 4))
    view = demo.stack.currentWidget()
    strip, opened = view._strip, {}
    QTest.keyClick(strip, Qt.Key.Key_Left)
    for place in strip._ledger.places:
        if place.title != "Unaccounted":  # an exact fit leaves nothing over, without a ±
            said = opened_by(lambda: QTest.keyClick(strip, Qt.Key.Key_Return))
            opened[place.title] = said
        else:
            assert not view._within.isVisibleTo(demo)
            QTest.keyClick(strip, Qt.Key.Key_Return)  # opens nothing
        QTest.keyClick(strip, Qt.Key.Key_Right)
    titles = ["From the wall", "Charger", "Stored", "Overhead", "Into the inverter", "Conversion"]
    assert list(opened) == [*titles, "Out of it", "Delivered"]
    assert opened["Overhead"][0] == "Overhead: 25.7 ± 1.8 Wh"
    assert "Meter floor" in opened["Overhead"] and "Meter gain" in opened["Delivered"]
    assert "Wh went through the meter" in view._evidence.text()
    said = opened_by(view._within.click)
    assert said[0] == "Delivered: 1896 ± 11 Wh"


def test_fitted_figures_in_the_words_are_links(qtbot, demo):
    worked_out(qtbot, demo)
    demo.bench.session.choose_station(1)
    demo.open_run(next(r.id for r in demo.bench.session.yard.runs(1) if r.number == 4))
    view = demo.stack.currentWidget()
    links = re.findall(r'<a href="([^"]+)">([^<]+)</a>', view._words.text())
    assert [shown for _, shown in links] == [
        "1948 ± 13 Wh", "16.2 ± 1.1 W", "96.3 ± 0.3 %", "96.9 ± 0.3 %",
    ]  # fmt: skip
    assert all(href == shown for href, shown in links)
    said = opened_by(lambda: view._words.linkActivated.emit("16.2 ± 1.1 W"))
    assert said[0] == "16.2 ± 1.1 W" and "Meter floor" in said
    view._words.linkActivated.emit("no such figure")  # says nothing, breaks nothing


def test_the_marker_opens_its_own_budget(qtbot, demo):
    worked_out(qtbot, demo)
    demo.bench.session.choose_station(1)
    demo.open_run(next(r.id for r in demo.bench.session.yard.runs(1) if r.number == 4))
    charts = demo.stack.currentWidget().charts
    charts.choose("curve")
    assert charts._within.isVisibleTo(demo) and charts._within.text() == "± 11 Wh"
    said = opened_by(charts._within.click)
    assert said[0] == "At 1000 W: 1895 ± 11 Wh, 1.9 h" and "Meter gain" in said
    charts.curve.set_marker(0.02)
    assert charts._within.text() != "± 11 Wh"  # far outside the runs, the ± is another
    said = opened_by(lambda: QTest.keyClick(charts.curve, Qt.Key.Key_Return))
    assert said[0].startswith("At 40 W: ")
    charts.choose("power")
    assert not charts._within.isVisibleTo(demo)


def test_the_mean_of_repeats_opens_with_its_scatter(analysed):
    again = replace(
        analysed[2],
        run=replace(analysed[2].run, id=99, number=9),
        result=replace(analysed[2].result, delivered_wh=analysed[2].result.delivered_wh + 4),
    )
    page = ledger_page(analysed[2], together([*analysed.values(), again]))
    shown = dict(page.figures)["2 runs at this load"]
    assert re.fullmatch(r"mean 18\d\d ± \d+ Wh, s 2.8, spread 4.0", shown)
    scatter = page.budgets["2 runs at this load"].lines
    repeats = next(line for line in scatter if line.name == "Repeats")
    # s ÷ √2 of two runs 4 Wh apart is 2 Wh, known with one degree of freedom.
    assert repeats.u == pytest.approx(2.0) and repeats.freedom == 1


def test_without_a_meter_nothing_fitted_has_an_uncertainty(analysed):
    bare = [replace(a, meter=None, budget=None) for a in analysed.values()]
    page = ledger_page(next(a for a in bare if a.run.number == 4), together(bare))
    assert not any(page.places) and not page.in_words
    words = " ".join(page.words)
    assert "usable store 1947.6 Wh" in words and "±" not in words.split(". ")[0]
    assert "No meter is stated" in words


def test_a_run_in_the_yard_tells_its_uncertainty(qtbot, demo):
    worked_out(qtbot, demo)
    demo.go_to(YARD)
    lanes = demo.stack.currentWidget()._lanes
    (said,) = {run.caption for lane in lanes._lanes for run in lane.runs if "idle" in run.caption}
    assert said == "18.2 ± 1.9 W idle"
    lanes.setFocus()
    QTest.keyClick(lanes, Qt.Key.Key_Right)
    QTest.keyClick(lanes, Qt.Key.Key_Right)
    opened = opened_by(lambda: QTest.keyClick(lanes, Qt.Key.Key_B))
    assert opened[0].startswith("Run 2, ") and opened[0].endswith("1865 ± 11 Wh")
