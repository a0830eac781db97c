"""A meter read by eye: typed live, corrected, resumed, and whole runs typed in afterwards."""

from dataclasses import replace

import pytest
from conftest_helpers import in_dialog, loads_found, pass_checks, worked_out
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from yardtoll.desktop.dialogs.gear import MeterDialog
from yardtoll.desktop.dialogs.typed_run import TypedRunDialog
from yardtoll.desktop.views.stop import PLAN
from yardtoll.review.analysis import analyse_run
from yardtoll.running.live_figures import live_figures
from yardtoll.store.site_time import now


@pytest.fixture
def typed(qtbot, demo):
    """A run in progress, its meter read by eye."""

    def meter(dialog):
        QTest.keyClicks(dialog.name, "Plug-in meter")
        dialog.link.setCurrentIndex(dialog.link.findData("log"))
        dialog.accept_button.click()

    in_dialog(meter, MeterDialog)
    demo.actions_by_name["Add a meter…"].trigger()
    demo.bench.session.choose_station(3)
    demo.go_to(PLAN)
    plan = demo.stack.currentWidget()
    plan.choose_new(demo.bench.session.yard.meters()[-1])
    loads_found(qtbot, plan)
    assert any("read by eye" in check.text for check in plan.page().checks)
    pass_checks(plan)
    plan.start_button.click()
    qtbot.waitUntil(lambda: demo.bench.live is not None, timeout=60_000)
    demo.activateWindow()
    qtbot.waitUntil(demo.isActiveWindow, timeout=60_000)
    demo.stack.currentWidget().setFocus()
    return demo


def type_wh(window, text):
    view = window.stack.currentWidget()
    QTest.keyClick(view, Qt.Key.Key_Space)
    field = QApplication.focusWidget()
    assert field.accessibleName() == "The meter's counter, watt-hours"
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)


def test_one_key_a_number_enter(qtbot, typed):
    live = typed.bench.live
    view = typed.stack.currentWidget()
    assert "press Space, type the meter's Wh" in view.watch_label.text()
    type_wh(typed, "0.5")
    qtbot.wait(60)
    type_wh(typed, "3.5")
    assert live.delivered_wh == pytest.approx(3.0)
    assert view.power_figure.note.text() == "mean between readings"
    assert view.power_figure.within_button.text().startswith("± ")
    assert [line.name for line in live_figures(live, now()).power.budget.lines] == ["Read by eye"]
    typed.actions_by_name["Undo"].trigger()
    assert live.delivered_wh == 0 and len(live.samples) == 1
    typed.actions_by_name["Redo"].trigger()
    assert live.delivered_wh == pytest.approx(3.0)
    QTest.keyClick(view, Qt.Key.Key_C)
    run_id = live.run_id
    typed.actions_by_name["Stop the run"].trigger()
    yard = typed.bench.session.yard
    run = yard.get(type(live.run), run_id)
    assert (run.state, run.origin) == ("finished", "typed")
    assert [m.word for m in yard.marks(run_id)] == ["Cut-off"]
    found = analyse_run(yard, run)
    assert found.energy_out.delivered_wh == pytest.approx(3.0) and not found.notices
    worked_out(qtbot, typed)
    typed.open_run(run_id)
    assert "reach the load" in typed.stack.currentWidget().headline.text()


def test_a_typed_run_is_resumed_with_what_was_typed(qtbot, typed):
    type_wh(typed, "10")
    bench = typed.bench
    run = bench.live.run
    bench.leave_runs()
    assert [r.id for r in bench.interrupted()] == [run.id]
    bench.resume(run)
    assert len(bench.live.samples) == 1 and bench.live.now_s() >= 0
    bench.leave_runs()
    bench.close_as_it_is(run)
    qtbot.waitUntil(lambda: not bench.interrupted(), timeout=60_000)
    assert "read only once" in analyse_run(bench.session.yard, bench.session.yard.get(
        type(run), run.id)).problem  # fmt: skip


def test_a_run_is_typed_in_from_a_time_lapse(qtbot, demo):
    demo.bench.session.choose_station(2)

    def fill(dialog):
        dialog.text.setPlainText("10:32 0\nlunch")
        dialog.accept_button.click()
        assert dialog.wrong_label.text().startswith('Line 2: "lunch" should look like')
        dialog.text.setPlainText("10:32 0 Wh 100 %\n11:32 240 Wh 78 %\n14:50 1.046 kWh 0 %")
        assert "3 readings, 1046 Wh over 4.30 h" in dialog.said.text()
        assert dialog.meter.currentData() is None  # the yard's only meter is simulated
        dialog.meter.setCurrentIndex(dialog.meter.findText("Bench meter"))
        dialog.accept_button.click()

    in_dialog(fill, TypedRunDialog)
    demo.actions_by_name["Type a run in…"].trigger()
    yard = demo.bench.session.yard
    run = next(r for r in yard.runs(2) if r.origin == "typed")
    found = analyse_run(yard, run)
    assert found.energy_out.delivered_wh == pytest.approx(1046)
    assert found.figures["duration_s"].value == 15_480 and not found.notices
    assert found.main_figure.budget is not None


def test_a_typed_recharge(qtbot, demo):
    demo.bench.session.choose_station(2)

    def fill(dialog):
        dialog.method.setCurrentIndex(dialog.method.findData("recharge_wall"))
        assert (dialog.soc_from.value(), dialog.soc_to.value()) == (0, 100)
        dialog.soc_to.setValue(0)
        dialog.text.setPlainText("0:00 0 Wh 0 %\n1:00 640 Wh 52 %\n2:10 1260 Wh 100 %")
        dialog.accept_button.click()
        assert dialog.wrong_label.text() == "The state of charge must rise."
        dialog.soc_to.setValue(100)
        dialog.accept_button.click()

    in_dialog(fill, TypedRunDialog)
    demo.actions_by_name["Type a run in…"].trigger()
    yard = demo.bench.session.yard
    run = next(r for r in yard.runs(2) if r.origin == "typed")
    found = analyse_run(yard, run)
    assert found.energy_in.drawn_wh == 1260
    # 80 % is between two readings half the charge apart: nothing places it.
    assert [at.soc for at in found.energy_in.result.to_soc] == [0, 52, 100]
    falling = replace(yard.readings(run.id)[2], value=2000.0)
    yard.put(falling)
    assert "one of them is wrong" in analyse_run(yard, run).problem
