"""Every figure of a station's runs opens the budget behind its ±, by mouse and by keys."""

import re

import pytest
from conftest_helpers import opened_by, worked_out
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton
from tests.runs import with_out, with_run, without_meter, words_of

from yardtoll.desktop.views.stop import YARD
from yardtoll.review.pages import run_page
from yardtoll.review.station.runs import station_runs


def test_figures_open_their_budgets(qtbot, demo):
    worked_out(qtbot, demo)
    demo.bench.session.choose_station(1)
    demo.open_run(next(r.id for r in demo.bench.session.yard.runs(1) if r.number == 5))
    view = demo.stack.current_view()
    buttons = {
        b.text(): b for b in view.findChildren(QPushButton) if b.property("role") == "figure"
    }
    assert not view.charts.within_button.isVisibleTo(demo)  # its chart is not the one shown
    del buttons[view.charts.within_button.text()]
    shown = " | ".join(buttons)
    for figure in ("2240 ± 13 Wh", "84.66 ± 0.49 %", "862.0 ± 5.0 W", "1388.3 ± 8.0 W"):
        assert figure in buttons
    assert "Charger and conversion: 292 ± " in shown and "2:35:53 ± " in shown
    said = opened_by(buttons["84.66 ± 0.49 %"].click)
    # One meter did both: what its gain has in common is not among the lines, each level's is.
    assert "Delivered: meter floor" in said and "Drawn: meter gain, at this level" not in said
    assert "Meter gain, at this level" in said and "Meter gain, common" not in said


def test_every_toll_and_stage_opens_its_budget(qtbot, demo):
    """By keys along the strip: the rating alone would have none, and here the wall is measured."""
    worked_out(qtbot, demo)
    demo.bench.session.choose_station(1)
    demo.open_run(next(r.id for r in demo.bench.session.yard.runs(1) if r.number == 4))
    view = demo.stack.current_view()
    strip, opened = view.toll_strip, {}
    QTest.keyClick(strip, Qt.Key.Key_Left)
    for place in strip.ledger.places:
        opened[place.title] = opened_by(lambda: QTest.keyClick(strip, Qt.Key.Key_Return))
        QTest.keyClick(strip, Qt.Key.Key_Right)
    assert list(opened) == [
        "From the wall", "Charger and conversion", "Store at the outlet", "Overhead",
        "Into the inverter", "Conversion, ohmic part", "Out of the inverter",
        "Unaccounted", "Delivered",
    ]  # fmt: skip
    assert opened["Overhead"][0].startswith("Overhead: 25.7 ± ")
    assert "Meter floor" in opened["Overhead"] and "Run to run" in opened["Overhead"]
    assert "Meter gain, common" in opened["Delivered"]
    assert "Run to run" not in opened["Delivered"]  # of this run, not of the station
    assert "Wh went through the meter" in view.evidence.text()
    said = opened_by(view.within_button.click)
    assert said[0] == "Delivered: 1896 ± 11 Wh"


def test_fitted_figures_in_the_words_are_links(qtbot, demo):
    worked_out(qtbot, demo)
    demo.bench.session.choose_station(1)
    demo.open_run(next(r.id for r in demo.bench.session.yard.runs(1) if r.number == 4))
    view = demo.stack.current_view()
    links = re.findall(r'<a href="([^"]+)">([^<]+)</a>', view.words.text())
    figures = [shown for _, shown in links]
    for figure, begins in zip(
        figures, ("1948 ± ", "16.2 ± ", "at most 96.3 ± ", "at most 96.9 ± "), strict=True
    ):
        assert figure.startswith(begins)
    said = opened_by(lambda: view.words.linkActivated.emit(links[1][0]))
    assert said[0] == f"Overhead: {figures[1]}" and "Meter floor" in said and "Run to run" in said
    assert "as seen at the outlet: no idle test sharp enough" in view.words.text()


def test_the_marker_opens_its_own_budget(qtbot, demo):
    worked_out(qtbot, demo)
    demo.bench.session.choose_station(1)
    demo.open_run(next(r.id for r in demo.bench.session.yard.runs(1) if r.number == 4))
    charts = demo.stack.current_view().charts
    charts.choose("curve")
    at_1000 = charts.within_button.text()
    assert charts.within_button.isVisibleTo(demo) and at_1000.startswith("± ")
    said = opened_by(charts.within_button.click)
    assert said[0] == f"At 1000 W: 1895 {at_1000}, 1.9 h" and "Meter gain, common" in said
    charts.curve.set_marker(0.02)
    assert charts.within_button.text() != at_1000  # far outside the runs, the ± is another
    said = opened_by(lambda: QTest.keyClick(charts.curve, Qt.Key.Key_Return))
    assert said[0].startswith("At 40 W: ")
    charts.choose("power")
    assert not charts.within_button.isVisibleTo(demo)


def test_the_mean_of_repeats_opens_with_its_scatter(analysed):
    delivered_wh = analysed[2].energy_out.delivered_wh
    again = with_run(with_out(analysed[2], delivered_wh=delivered_wh + 4), id=99, number=9)
    page = run_page(analysed[2], station_runs([*analysed.values(), again]))
    mean = next(f for f in page.figures if f.title == "2 runs at this load")
    assert re.fullmatch(r"18\d\d ± \d+ Wh mean, s 2.8, spread 4.0", mean.shown)
    scatter = mean.budget.lines
    repeats = next(line for line in scatter if line.name == "Run to run")
    # By hand: 0.5 % of 1867 Wh known with 6 degrees of freedom, and two runs 4 Wh apart with one.
    pooled = ((6 * (0.005 * 1867.3) ** 2 + 2 * 2.0**2) / 7) ** 0.5
    assert repeats.u == pytest.approx(pooled / 2**0.5, rel=1e-3) and repeats.degrees_of_freedom == 7


def test_without_a_meter_nothing_fitted_has_an_uncertainty(analysed):
    bare = [without_meter(a) for a in analysed.values()]
    page = run_page(next(a for a in bare if a.run.number == 4), station_runs(bare))
    figures = [part for words in page.words for part in words if not isinstance(part, str)]
    assert not any(page.places) and not any(figure.budget for figure in figures)
    words = " ".join(words_of(page))
    assert "usable store 1947." in words and "±" not in words.split(". ")[0]
    assert "No meter is stated" in words


def test_a_run_in_the_yard_tells_its_uncertainty(qtbot, demo):
    worked_out(qtbot, demo)
    demo.go_to(YARD)
    lanes = demo.stack.current_view().lanes
    (said,) = {run.caption for lane in lanes.lanes for run in lane.runs if "idle" in run.caption}
    assert said == "18.2 ± 2.1 W idle"
    lanes.setFocus()
    QTest.keyClick(lanes, Qt.Key.Key_Right)
    QTest.keyClick(lanes, Qt.Key.Key_Right)
    QTest.keyClick(lanes, Qt.Key.Key_Right)
    opened = opened_by(lambda: QTest.keyClick(lanes, Qt.Key.Key_B))
    assert opened[0].startswith("Run 2, ") and opened[0].endswith("1865 ± 11 Wh")
