"""From an empty yard to a verdict, in the real window, over the real wire."""

import pytest
from conftest_helpers import at_rest, by_name, in_dialog, loads_found, pass_checks, worked_out
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel

from yardtoll.bench.profiles.files import profile_named, user_profile_folder
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.dialogs.gear import LoadDialog, MeterDialog
from yardtoll.desktop.dialogs.records import StationDialog
from yardtoll.desktop.views.stop import LEDGER, PLAN, RUN, VERDICTS, YARD
from yardtoll.review.analysis import analyse_run
from yardtoll.running.plan import plan_for_load
from yardtoll.running.simulated_bench import model_from_conditions


@pytest.fixture
def bench(window, tmp_path):
    """A new yard with one small station, as entered by hand."""
    window.new_yard(tmp_path / "Mine")

    def station(dialog):
        QTest.keyClicks(dialog.name, "Marjoram 100")
        dialog.rated_wh.setValue(100)
        dialog.rated_w.setValue(200)
        dialog.accept_button.click()

    in_dialog(station, StationDialog)
    window.actions_by_name["Add a station…"].trigger()
    assert window.bench.session.station.name == "Marjoram 100"

    def load(dialog):
        QTest.keyClicks(dialog.name, "Lamp")
        dialog.settings.setPlainText("50 W")
        dialog.accept_button.click()

    in_dialog(load, LoadDialog)
    window.actions_by_name["Add a load…"].trigger()
    return window.bench


def start(qtbot, window, load, speed):
    window.settings.simulated_speed = speed
    window.go_to(PLAN)
    plan = window.stack.current_view()
    plan.form.choose_load(load)
    loads_found(qtbot, plan)
    assert plan.form.mix.parts[0].name == load.name
    pass_checks(plan)
    assert plan.page().can_start, [g.text for g in plan.page().checks if g.stops]
    QTest.mouseClick(plan.start_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(
        lambda: window.bench.live is not None and len(window.bench.live.samples) > 0, timeout=60_000
    )
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow, timeout=60_000)
    window.stack.current_view().setFocus()
    return window.bench.live


def test_plan_start_mark_read_cut_off_ledger_verdict(qtbot, window, bench):
    load = next(found for found in bench.session.yard.loads() if found.name == "Lamp")
    live = start(qtbot, window, load, 60)
    assert window.rail.current == "run"
    view = window.stack.current_view()
    QTest.keyClick(view, Qt.Key.Key_F)
    QTest.keyClick(view, Qt.Key.Key_Space)
    field = QApplication.focusWidget()
    QTest.keyClicks(field, "97")
    QTest.keyClick(field, Qt.Key.Key_Return)
    yard = bench.session.yard
    assert [m.word for m in yard.marks(live.run_id)] == ["Fan on"]
    assert [(r.kind, r.value) for r in yard.readings(live.run_id)] == [("soc", 97)]
    assert QApplication.focusWidget() is view

    for stop in (YARD, LEDGER, VERDICTS, RUN):  # the run shows in every view
        window.go_to(stop)
        assert "Wh" in window.strip.energy.text()
    ended = []
    bench.run_ended.connect(lambda *told: ended.append(told))
    live.set_speed(3600)
    qtbot.waitUntil(lambda: bool(ended), timeout=60_000)
    assert ended[0][1] == "the outlet switched off"
    assert window.notice.text == "The run has ended: the outlet switched off. It is kept."

    run = yard.get(type(live.run), live.run_id)
    assert run.state == "finished"
    assert "Cut-off" in [m.word for m in yard.marks(run.id)]
    analysis = analyse_run(yard, run)
    model = model_from_conditions(run.conditions.simulated_bench)
    from yardtoll.bench.simulated.models import Simulation

    truth = Simulation(model)
    truth.advance(20_000)
    limit = 0.01 * truth.delivered_wh + 0.5 * analysis.energy_out.result.duration_s / 3600 + 0.1
    assert analysis.energy_out.delivered_wh == pytest.approx(truth.delivered_wh, abs=limit)
    assert not analysis.notices

    worked_out(qtbot, window)
    window.notice.action_button.click()
    ledger = window.stack.current_view()
    assert ledger.headline.text() == (
        f"Of every 100 rated Wh, {100 * analysis.energy_out.result.usable_ratio:.0f} reach the load"
    )
    window.go_to(VERDICTS)
    verdicts = window.stack.current_view()
    verdicts.choose_page(by_yardstick=True)
    assert verdicts.sentence().startswith("Marjoram 100, run 1 at 4")
    assert "% of rated delivered" in verdicts.sentence()


def test_undo_takes_a_mark_back_and_redo_puts_it_again(qtbot, window, bench):
    live = start(qtbot, window, bench.session.yard.loads()[-1], 10)
    QTest.keyClick(window.stack.current_view(), Qt.Key.Key_X)
    window.actions_by_name["Undo"].trigger()
    assert bench.session.yard.marks(live.run_id) == []
    assert window.notice.text == "Undone: Mark “Odd”."
    window.actions_by_name["Redo"].trigger()
    assert len(bench.session.yard.marks(live.run_id)) == 1


def test_a_reading_that_does_not_read_is_kept_in_its_field(qtbot, window, bench):
    live = start(qtbot, window, bench.session.yard.loads()[-1], 10)
    view = window.stack.current_view()
    QTest.keyClick(view, Qt.Key.Key_Space)
    field = QApplication.focusWidget()
    QTest.keyClicks(field, "140")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert field.text() == "140"
    assert view.running.reading_panel.error_line.text() == "SOC: “140” is not a valid number."
    assert bench.session.yard.readings(live.run_id) == []
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert QApplication.focusWidget() is view


def test_a_reading_is_stamped_at_its_first_digit(qtbot, window, bench):
    live = start(qtbot, window, bench.session.yard.loads()[-1], 60)
    view = window.stack.current_view()
    QTest.keyClick(view, Qt.Key.Key_Space)
    field = QApplication.focusWidget()
    before = live.elapsed_s()
    QTest.keyClicks(field, "9")
    after = live.now_s()
    qtbot.waitUntil(lambda: live.elapsed_s() > after + 90, timeout=60_000)
    QTest.keyClicks(field, "3")
    QTest.keyClick(field, Qt.Key.Key_Return)
    (reading,) = bench.session.yard.readings(live.run_id)
    assert reading.value == 93
    assert before <= reading.time_s <= after + 60


def test_stopping_by_hand_keeps_the_run(qtbot, window, bench):
    live = start(qtbot, window, bench.session.yard.loads()[-1], 60)
    qtbot.waitUntil(lambda: live.elapsed_s() > 30, timeout=60_000)
    window.actions_by_name["Stop the run"].trigger()
    qtbot.waitUntil(lambda: bench.live is None, timeout=60_000)
    run = bench.session.yard.runs()[0]
    assert (run.id, run.state, run.conditions.end_reason) == (
        live.run_id, "finished", "stopped by hand",
    )  # fmt: skip
    assert bench.session.yard.trace(run.id).columns[Quantity.POWER].max() > 40
    assert window.notice.action_button.text() == "See its ledger"
    worked_out(qtbot, window)
    by_name(window.stack.current_view(), "See its ledger").click()
    assert window.rail.current == "ledger" and window.notice.text == ""


def test_a_run_left_before_its_turn_comes_is_not_recorded(qtbot, window, bench):
    yard = bench.session.yard
    assert bench.start_run(plan_for_load(bench.session.station, yard.meters()[0], yard.loads()[-1]))
    run_id = bench.live.run_id
    bench.leave_runs()
    at_rest(qtbot, window)
    assert bench.live is None and [run.id for run in bench.interrupted()] == [run_id]
    assert yard.first_and_last_sample_s(yard.main_recording(run_id).id) is None


def test_a_profile_of_ones_own_is_offered_used_and_missed_when_gone(qtbot, window, bench):
    folder = user_profile_folder()
    folder.mkdir(parents=True, exist_ok=True)
    mine, spoilt = folder / "my_meter.toml", folder / "spoilt.toml"
    mine.write_text('name = "My own meter"\n[direct.power]\nquery = "MEAS:POW?"\n')
    spoilt.write_text("name = ")
    seen = {}

    def meter(dialog):
        dialog.name.setText("Own")
        dialog.link.setCurrentIndex(dialog.link.findData("scpi"))
        dialog.profile.setCurrentIndex(dialog.profile.findText("My own meter"))
        seen["not offered"] = dialog.not_offered.text()
        dialog.address.setText("TCPIP::127.0.0.1::1::SOCKET")
        dialog.accept_button.click()

    try:
        in_dialog(meter, MeterDialog)
        window.actions_by_name["Add a meter…"].trigger()
    finally:
        spoilt.unlink()
    assert seen["not offered"].startswith("Not offered: spoilt.toml is not TOML")
    own = bench.session.yard.meters()[-1]
    assert own.profile == "my_meter" and profile_named("my_meter").name == "My own meter"
    mine.unlink()
    bench.start_run(plan_for_load(bench.session.station, own, bench.session.yard.loads()[-1]))
    assert window.notice.text.startswith("Own cannot be read: there is no profile my_meter in")
    assert bench.live is None and bench.session.yard.runs() == []


def test_a_real_meter_that_does_not_answer_is_told_and_nothing_is_lost(qtbot, window, bench):
    def meter(dialog):
        dialog.name.setText("Wired")
        dialog.link.setCurrentIndex(dialog.link.findData("scpi"))
        dialog.accept_button.click()
        assert (
            dialog.wrong_label.text() == "A VISA address looks like TCPIP::192.0.2.7::5025::SOCKET."
        )
        dialog.address.setText("TCPIP::127.0.0.1::1::SOCKET")
        dialog.accuracy.setText("rubbish")
        dialog.accept_button.click()
        assert "should look like" in dialog.wrong_label.text()
        dialog.accuracy.setText("0.5% + 0.1 W")
        dialog.accept_button.click()

    in_dialog(meter, MeterDialog)
    window.actions_by_name["Add a meter…"].trigger()
    wired = bench.session.yard.meters()[-1]
    assert (wired.reading_share, wired.floor_w) == (0.005, 0.1)
    bench.start_run(plan_for_load(bench.session.station, wired, bench.session.yard.loads()[1]))
    qtbot.waitUntil(lambda: "No meter answers" in window.notice.text, timeout=60_000)
    window.go_to(RUN)
    assert "does not answer" in window.stack.current_view().running.watch_label.text()
    bench.live.stop()
    qtbot.waitUntil(lambda: bench.live is None, timeout=60_000)
    assert bench.session.yard.runs()[0].state == "finished"


def test_live_figures_open_their_budgets(qtbot, window, bench):
    live = start(qtbot, window, bench.session.yard.loads()[-1], 600)
    qtbot.waitUntil(lambda: live.delivered_wh > 3, timeout=60_000)
    view = window.stack.current_view()
    view.running.show_figures()
    assert view.running.energy_figure.within_button.text().startswith(
        "± "
    ) and view.running.energy_figure.within_button.isVisibleTo(view)
    assert not view.running.elapsed_figure.within_button.isVisibleTo(view)
    said = []

    def read(dialog):
        said.extend(label.text() for label in dialog.findChildren(QLabel))
        dialog.accept()

    for figure, name in (
        (view.running.energy_figure, "So far: "),
        (view.running.power_figure, "Power: "),
    ):
        said.clear()
        in_dialog(read, BudgetDialog)
        figure.within_button.click()
        assert said[0].startswith(name) and "Meter gain, common" in said
