"""A meter read by eye: typed live, corrected, resumed, and whole runs typed in afterwards."""

from dataclasses import replace
from datetime import timedelta

import pytest
from conftest_helpers import drop, in_dialog, loads_found, pass_checks, worked_out
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from yardtoll.desktop.dialogs.gear import MeterDialog
from yardtoll.desktop.dialogs.noted_run import NotedRunDialog
from yardtoll.desktop.dialogs.run_notes import RunNotesDialog
from yardtoll.desktop.views.stop import LEDGER, PLAN
from yardtoll.review.analysis import analyse_run
from yardtoll.running.live_figures import live_figures
from yardtoll.store.records import Run
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
    plan = demo.stack.current_view()
    plan.choose_new(demo.bench.session.yard.meters()[-1])
    loads_found(qtbot, plan)
    assert any("read by eye" in check.text for check in plan.page().checks)
    pass_checks(plan)
    plan.start_button.click()
    qtbot.waitUntil(lambda: demo.bench.live is not None, timeout=60_000)
    demo.activateWindow()
    qtbot.waitUntil(demo.isActiveWindow, timeout=60_000)
    demo.stack.current_view().setFocus()
    return demo


def type_wh(window, text):
    view = window.stack.current_view()
    QTest.keyClick(view, Qt.Key.Key_Space)
    field = QApplication.focusWidget()
    assert field.accessibleName() == "The meter's counter, watt-hours"
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)


def test_one_key_a_number_enter(qtbot, typed):
    live = typed.bench.live
    view = typed.stack.current_view()
    assert "press Space, type the meter's Wh" in view.running.watch_label.text()
    type_wh(typed, "0.5")
    qtbot.wait(60)
    type_wh(typed, "3.5")
    assert live.delivered_wh == pytest.approx(3.0)
    assert view.running.power_figure.note.text() == "mean between readings"
    assert view.running.power_figure.within_button.text().startswith("± ")
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
    assert "reach the load" in typed.stack.current_view().headline.text()


def test_a_typed_run_is_resumed_with_what_was_typed(qtbot, typed):
    type_wh(typed, "10")
    bench = typed.bench
    run = bench.live.run
    bench.leave_runs()
    assert [r.id for r in bench.interrupted()] == [run.id]
    bench.resume(run)
    qtbot.waitUntil(lambda: len(bench.live.samples) == 1)
    assert bench.live.now_s() >= 0
    bench.leave_runs()
    bench.close_as_it_is(run)
    qtbot.waitUntil(lambda: not bench.interrupted(), timeout=60_000)
    assert "read only once" in analyse_run(bench.session.yard, bench.session.yard.get(
        type(run), run.id)).problem  # fmt: skip


def test_a_run_is_added_from_notes(qtbot, demo):
    demo.bench.session.choose_station(2)

    def fill(dialog):
        editor = dialog.editor
        dialog.text.setPlainText("lunch")
        dialog.accept_button.click()
        assert "no line has a time" in dialog.wrong_label.text()
        dialog.text.setPlainText(
            "10:32 on 0 Wh 100 %\n11:32 240 Wh 240 W 78 %, fan on\n12:00 83 Ah\n"
            "14:50 off 1.046 Wh 0 %"
        )
        assert "240 Wh  ·  240 W  ·  78 %  ·  “fan on”" in editor.shown_beside(2)
        assert "not Wh and not W" in editor.shown_beside(3)
        assert "1.046 kWh?" in editor.shown_beside(4)
        assert "Duration 4:18:00" in dialog.said.text()
        QTest.keyClick(dialog.text, Qt.Key.Key_F2)
        assert dialog.text.toPlainText().endswith("off 1.046 kWh 0 %")
        assert "Delivered 1046" in dialog.said.text()
        dialog.text.undo()
        assert dialog.text.toPlainText().endswith("off 1.046 Wh 0 %")
        dialog.text.redo()
        assert dialog.began.time().toString("HH:mm") == "10:32"
        assert dialog.meter.currentData() is None  # the yard's only meter is simulated
        dialog.meter.setCurrentIndex(dialog.meter.findText("Bench meter"))
        dialog.accept_button.click()

    in_dialog(fill, NotedRunDialog)
    demo.actions_by_name["Add a run from notes…"].trigger()
    yard = demo.bench.session.yard
    run = next(r for r in yard.runs(2) if r.origin == "typed")
    found = analyse_run(yard, run)
    assert found.energy_out.delivered_wh == pytest.approx(1046)
    assert found.figures["duration_s"].value == 15_480 and not found.notices
    assert found.main_figure.budget is not None
    assert [(m.word, m.starts_run, m.ends_run) for m in yard.marks(run.id)] == [
        ("On", True, False), ("fan on", False, False), ("Cut-off", False, True),
    ]  # fmt: skip
    assert found.outcome.audit.soc[1].shown == 78
    demo.actions_by_name["Undo"].trigger()
    assert not [r for r in yard.runs(2) if r.origin == "typed"]


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

    in_dialog(fill, NotedRunDialog)
    demo.actions_by_name["Add a run from notes…"].trigger()
    yard = demo.bench.session.yard
    run = next(r for r in yard.runs(2) if r.origin == "typed")
    found = analyse_run(yard, run)
    assert found.energy_in.drawn_wh == 1260
    # 80 % is between two readings half the charge apart: nothing places it.
    assert [at.soc for at in found.energy_in.result.to_soc] == [0, 52, 100]
    falling = replace(yard.readings(run.id)[2], value=2000.0)
    yard.put(falling)
    assert "one of them is wrong" in analyse_run(yard, run).problem


def note_line(window, text):
    view = window.stack.current_view()
    QTest.keyClick(view, Qt.Key.Key_N)
    field = QApplication.focusWidget()
    assert field.accessibleName() == "A line of notes"
    QTest.keyClicks(field, text)
    said = view.running.note_panel.said.text()
    QTest.keyClick(field, Qt.Key.Key_Return)
    return said


def test_a_line_of_notes_is_one_key_away(qtbot, typed):
    live, yard = typed.bench.live, typed.bench.session.yard
    view = typed.stack.current_view()
    said = note_line(typed, "398 W shows 402 W 80% 3.7 h left, fan on")
    assert said == (
        "398 W  ·  402 W on display  ·  80 %  ·  3.7 h left  ·  “fan on”"
        "   398 W is over the rated 300 W"
    )
    kept = {r.kind: (r.value, r.step) for r in yard.readings(live.run_id)}
    assert kept == {
        "meter_w": (398, 1), "display_w": (402, 1), "soc": (80, 1), "time_left_s": (13_320, 360),
    }  # fmt: skip
    assert [m.word for m in yard.marks(live.run_id)] == ["fan on"]
    typed.actions_by_name["Undo"].trigger()
    assert not yard.readings(live.run_id) and not yard.marks(live.run_id)
    note_line(typed, "83 Ah")
    assert "“83 Ah” is not understood" in view.running.note_panel.said.text()
    assert QApplication.focusWidget() is view.running.note_panel.field
    QTest.keyClick(view.running.note_panel.field, Qt.Key.Key_Escape)
    assert view.running.note_panel.field.text() == ""
    # A time that has passed.
    note_line(typed, f"{now() - timedelta(minutes=5):%H:%M} 81 %")
    (reading,) = yard.readings(live.run_id)
    assert -360 < reading.time_s - live.now_s() < -280 and reading.within_s == 30


def test_a_slip_shows_while_the_line_is_typed(qtbot, typed):
    note_line(typed, "411 W")
    view = typed.stack.current_view()
    QTest.keyClick(view, Qt.Key.Key_N)
    field = view.running.note_panel.field
    QTest.keyClicks(field, "0.412 W 80 %")
    assert view.running.note_panel.said.text().endswith("0.412 W beside 411 W: 0.412 kW?  F2")
    QTest.keyClick(field, Qt.Key.Key_F2)
    assert field.text() == "0.412 kW 80 %"
    QTest.keyClick(field, Qt.Key.Key_Return)
    yard = typed.bench.session.yard
    watts = [r.value for r in yard.readings(typed.bench.live.run_id) if r.kind == "meter_w"]
    assert watts == [411, 412]


def test_what_was_noted_is_corrected_after_the_run(qtbot, demo):
    """A finished run of the demo, recorded by a meter: its end, a reading, a mark."""
    session = demo.bench.session
    session.choose_station(1)
    demo.go_to(LEDGER)
    ledger = demo.stack.current_view()
    run = session.yard.get(Run, ledger.run_id)
    before = (session.yard.readings(run.id), session.yard.marks(run.id))
    assert before[1]

    def unchanged(dialog):
        assert not dialog.withdrawn() and not dialog.added()
        dialog.accept_button.click()

    in_dialog(unchanged, RunNotesDialog)
    ledger.notes_button.click()
    assert (session.yard.readings(run.id), session.yard.marks(run.id)) == before

    def corrected(dialog):
        text = dialog.editor.text().replace("Fan on", "fan loud")
        dialog.editor.set_text(f"{text}+0:30 80 % 43 C\n")
        dialog.accept_button.click()

    in_dialog(corrected, RunNotesDialog)
    ledger.notes_button.click()
    words = [m.word for m in session.yard.marks(run.id)]
    assert "fan loud" in words and "Fan on" not in words
    first_s = min(entry.time_s for entry in [*before[0], *before[1]])
    added = [r for r in session.yard.readings(run.id) if abs(r.time_s - first_s - 1800) < 1]
    assert {(r.kind, r.value) for r in added} >= {("soc", 80), ("temperature_c", 43)}
    demo.actions_by_name["Undo"].trigger()
    assert (session.yard.readings(run.id), session.yard.marks(run.id)) == before


def test_notes_dropped_as_a_file(qtbot, demo, tmp_path):
    demo.bench.session.choose_station(2)
    path = tmp_path / "evening.txt"
    path.write_text("22:00 on 0 Wh 240 W\n23:00 240 Wh 240 W\n07:00 found off 1046 Wh\n", "utf-8")

    def fill(dialog):
        assert "found off 8 h 00 min after" in dialog.said.text()
        dialog.accept_button.click()

    in_dialog(fill, NotedRunDialog)
    drop(demo, path)
    yard = demo.bench.session.yard
    qtbot.waitUntil(lambda: any(r.origin == "typed" for r in yard.runs(2)), timeout=60_000)
    run = next(r for r in yard.runs(2) if r.origin == "typed")
    assert run.conditions.file == "evening.txt"
    found = analyse_run(yard, run)
    assert not found.energy_out.result.end_seen
    assert found.energy_out.delivered_wh == 1046 and [str(c) for c in found.doubts] == [
        "end_not_seen"
    ]
