"""The Verdicts view: rails, rules and yardsticks, budgets, what is seen, what is missing."""

import pytest
from conftest_helpers import in_dialog
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QPushButton

from yardtoll.desktop.actions.records import ask_new_record
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.dialogs.observation import ObservationDialog
from yardtoll.desktop.dialogs.records import YardstickDialog
from yardtoll.desktop.views.stop import VERDICTS


def test_each_demo_stations_verdict(qtbot, demo):
    """One meets, one is too close to call, one fails: the demo's promise."""
    demo.go_to(VERDICTS)
    view = demo.stack.current_view()
    view.choose_page(by_yardstick=True)
    headlines = {}
    for station in demo.bench.session.yard.stations():
        demo.bench.session.choose_station(station.id)
        headlines[station.name] = view.headline.text()
    assert headlines == {
        "Fennel 2k": "≥ 85 % of rated: 3 meet it, 1 falls short",
        "Tansy 1200": "≥ 85 % of rated: 2 are too close to call",
        "Sorrel 300": "≥ 85 % of rated: 2 fall short",
    }


def test_yardstick_and_rule_are_chosen_and_undone(qtbot, demo):
    demo.go_to(VERDICTS)
    demo.bench.session.choose_station(2)
    view = demo.stack.current_view()
    view.tabs[True].click()
    view.yardstick_choice.setCurrentIndex(1)
    view.yardstick_choice.activated.emit(1)
    assert view.headline.text() == "≥ 80 % of rated: 2 meet it"
    demo.actions_by_name["Undo"].trigger()
    assert "85 %" in view.headline.text()
    view.rule_choice.setCurrentIndex(1)
    view.rule_choice.activated.emit(1)
    assert view.headline.text() == "≥ 85 % of rated: 1 meets it, 1 falls short"

    def yardstick(dialog):
        QTest.keyClicks(dialog.name, "Mine")
        dialog.limit.setValue(70)
        dialog.accept_button.click()

    in_dialog(yardstick, YardstickDialog)
    ask_new_record(demo, "yardstick")
    assert demo.bench.session.yard.yardsticks()[-1].limit_ratio == pytest.approx(0.7)


def test_copying_a_verdict_and_opening_its_evidence(demo):
    demo.go_to(VERDICTS)
    view = demo.stack.current_view()
    view.copy_button.click()
    assert QApplication.clipboard().text() == view.sentence()
    view.setFocus()
    QTest.keyClick(view.rails, Qt.Key.Key_Down)
    QTest.keyClick(view.rails, Qt.Key.Key_Up)
    QTest.keyClick(view.rails, Qt.Key.Key_Return)
    assert demo.rail.current == "ledger"


def row_named(view, title):
    index = next(i for i, row in enumerate(view.page.rows) if row.row.title == title)
    view.rails.choose(index)
    return view.chosen


def test_claims_open_their_budget_and_plan_what_is_missing(qtbot, demo):
    demo.bench.session.choose_station(1)
    demo.go_to(VERDICTS)
    view = demo.stack.current_view()
    assert view.headline.text() == (
        "11 claims are met, 2 fall short, 1 is too close to call; 14 not tested"
    )
    row_named(view, "Wall charging time")
    shown = []

    def budget(dialog):
        shown.extend(found.text() for found in dialog.findChildren(QLabel))
        next(b for b in dialog.findChildren(QPushButton) if b.text() == "Copy as text").click()
        dialog.accept()

    in_dialog(budget, BudgetDialog)
    QTest.keyClick(view.rails, Qt.Key.Key_B)
    assert "Display step" in shown and "±½ point at either end" in shown
    assert "Display step (±½ point at either end), type B" in QApplication.clipboard().text()
    row_named(view, "DC volts")
    assert view.plan_button.isVisibleTo(demo) and not view.evidence.isVisibleTo(demo)
    view.plan_button.click()
    plan = demo.stack.current_view()
    assert (demo.rail.current, plan.form.chosen_method.key) == ("plan", "capacity_dc")
    demo.go_to(VERDICTS)
    row_named(view, "Transfer time")
    view.evidence.click()
    assert demo.rail.current == "outputs"
    assert demo.stack.current_view().headline.text().startswith("Worst gap")


def test_what_was_seen_settles_a_yes_or_no(qtbot, demo):
    demo.bench.session.choose_station(2)
    demo.go_to(VERDICTS)
    view = demo.stack.current_view()
    row_named(view, "Pass-through")

    def seen(dialog):
        QTest.keyClicks(dialog.words, "with a lamp on it")
        dialog.accept_button.click()

    in_dialog(seen, ObservationDialog)
    QTest.keyClick(view.rails, Qt.Key.Key_O)
    assert row_named(view, "Pass-through").row.word == "meets"
    demo.undo()
    assert row_named(view, "Pass-through").row.word == "not tested"
    demo.redo()

    def gone(dialog):
        assert dialog.words.text() == "with a lamp on it"
        dialog.remove_button()

    in_dialog(gone, ObservationDialog)
    row_named(view, "Pass-through")
    view.note_button.click()
    assert row_named(view, "Pass-through").row.word == "not tested"


def test_a_yardstick_of_money(qtbot, demo):
    def yardstick(dialog):
        QTest.keyClicks(dialog.name, "Cheap")
        dialog.basis.setCurrentIndex(dialog.basis.findData("price_per_wh"))
        assert dialog.limit.suffix() == " per Wh"
        dialog.limit.setValue(0.5)
        dialog.accept_button.click()

    in_dialog(yardstick, YardstickDialog)
    ask_new_record(demo, "yardstick")
    made = demo.bench.session.yard.yardsticks()[-1]
    assert (made.limit_ratio, made.basis) == (0.5, "price_per_wh")
