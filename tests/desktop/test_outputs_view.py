"""The stop Outputs: lines typed, captures taken in, a scope, ports pressed, powers held."""

import shutil

import numpy as np
import pytest
from conftest_helpers import (
    FENNEL,
    SORREL,
    TANSY,
    drop,
    held_elsewhere,
    in_dialog,
    start_plan,
    worked_out,
)
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from scipy.io import wavfile
from tests.records import EXAMPLES

from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.planning.loads import MixPart
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.dialogs.channels import ChannelsDialog
from yardtoll.desktop.dialogs.entry import EntryDialog
from yardtoll.desktop.dialogs.instrument import InstrumentDialog
from yardtoll.desktop.dialogs.records import VoidDialog
from yardtoll.desktop.dialogs.scope import ScopeDialog
from yardtoll.desktop.views.outputs.view import OutputsView
from yardtoll.desktop.views.stop import OUTPUTS, RUN
from yardtoll.desktop.widgets.optional_number import OptionalNumber
from yardtoll.running.plan import RunPlan
from yardtoll.store.records import Meter, Station


@pytest.fixture
def outputs(demo) -> OutputsView:
    demo.bench.session.choose_station(TANSY)
    demo.go_to(OUTPUTS)
    return demo.stack.current_view()


def settle(qtbot, demo):
    qtbot.waitUntil(lambda: not demo.jobs.busy, timeout=60_000)
    worked_out(qtbot, demo)


def type_into(dialog, **values):
    for key, text in values.items():
        field = dialog.input(key)
        if isinstance(field, OptionalNumber):
            field.field.setText(text)
        elif hasattr(field, "findData"):
            field.setCurrentIndex(field.findData(text))
        else:
            field.setText(text)


def add_line(view, key, **values):
    """Add a line as typed; what the form says first where it is refused."""
    view.choose_test(key)

    def fill(dialog):
        type_into(dialog, **values)
        dialog.accept_button.click()

    in_dialog(fill, EntryDialog)
    view.buttons["line"].click()


def test_every_tab_says_what_it_is_for_and_warns(outputs):
    for key, test in outputs.tests.items():
        outputs.choose_test(key)
        assert outputs.tabs[key].isChecked() and outputs.headline.text()
        assert any(outputs.words.texts()), test.title
    outputs.choose_test("transfer_time")
    texts = " ".join(outputs.words.texts())
    assert "never a bare probe" in texts and "proves what its own supply bridged" in texts
    assert outputs.headline.text() == "Transfer: not tried yet"


def test_a_try_is_typed_edited_removed_and_undone(qtbot, demo, outputs):
    yard, before = demo.bench.session.yard, len(demo.bench.session.yard.runs(TANSY))
    refused = []

    def fill(dialog):
        dialog.accept_button.click()
        refused.append(dialog.wrong_label.text())
        type_into(dialog, appliance="Kettle", started="started", peak_w="1,5 kg")
        dialog.accept_button.click()
        refused.append(dialog.wrong_label.text())
        type_into(dialog, peak_w="1190", soc_percent="88")
        dialog.accept_button.click()

    outputs.choose_test("appliances")
    in_dialog(fill, EntryDialog)
    outputs.buttons["line"].click()
    settle(qtbot, demo)
    assert refused[0] == "Appliance is missing." and "unit" in refused[1]
    assert outputs.headline.text() == "Ran 1 of 1: Kettle"
    assert len(yard.runs(TANSY)) == before + 1 and outputs.table.rowCount() == 1

    def trips(dialog):
        type_into(dialog, started="tripped", inrush_w="3000")
        dialog.accept_button.click()

    in_dialog(trips, EntryDialog)
    QTest.keyClick(outputs.table, Qt.Key.Key_Return)
    settle(qtbot, demo)
    assert outputs.headline.text() == "Ran 0 of 1; not Kettle"
    assert "1810 W of surge were missing" in " ".join(outputs.words.texts())
    QTest.keyClick(outputs.table, Qt.Key.Key_Delete)
    settle(qtbot, demo)
    assert (
        outputs.table.rowCount() == 0
        and "no appliance tried yet" in " ".join(outputs.words.texts()).lower()
    )
    for _ in range(3):
        demo.undo()
    settle(qtbot, demo)
    # The line and the run that came with it were one step.
    assert len(yard.runs(TANSY)) == before


def test_the_reviewers_own_appliances_are_offered(qtbot, demo, outputs):
    seen = {}

    def fill(dialog):
        line = dialog.input("appliance")
        seen["offered"] = {
            line.completer().model().index(i, 0).data()
            for i in range(line.completer().model().rowCount())
        }
        line.setText("Table saw")
        line.editingFinished.emit()
        seen["inrush"] = dialog.input("inrush_w").value()
        line.setText("Pond pump")
        dialog.reject()

    outputs.choose_test("appliances")
    in_dialog(fill, EntryDialog)
    outputs.buttons["line"].click()
    assert {"Table saw", "Kettle", "Pond pump", "Heat gun"} <= seen["offered"]
    assert seen["inrush"] == 5400


def test_a_scopes_file_is_taken_in_and_shown(qtbot, demo, outputs, tmp_path):
    def fill(dialog):
        assert not {"volts_v", "thd_percent", "shape"} & set(dialog._inputs)
        type_into(dialog, load_w="410")
        dialog.accept_button.click()

    outputs.choose_test("waveform_ac")
    demo.bench.session.choose_station(SORREL)
    demo.go_to(OUTPUTS)
    in_dialog(fill, EntryDialog)
    drop(demo, EXAMPLES / "outputs" / "scope.csv")
    qtbot.waitUntil(lambda: outputs.table.rowCount() == 4, timeout=60_000)
    settle(qtbot, demo)
    yard = demo.bench.session.yard
    run = yard.runs(SORREL)
    shown = [outputs.table.item(r, 0).text() for r in range(4)]
    assert "410 W" in shown and outputs.picture.scene() is not None
    kept = [r for one in run for r in yard.recordings(one.id) if r.name == "scope.csv"]
    assert len(kept) == 1 and yard.samples(kept[0]).time_s.size > 100

    bad = tmp_path / "bad.csv"
    bad.write_text("no curve at all\n")
    drop(demo, bad)
    qtbot.waitUntil(lambda: "bad.csv" in demo.notice.text, timeout=60_000)
    assert outputs.table.rowCount() == 4


def test_how_the_page_is_split_is_remembered(qtbot, demo, outputs):
    demo.bench.session.choose_station(FENNEL)
    outputs.choose_test("waveform_ac")
    usual = outputs.split.sizes()
    outputs.split.setSizes([800, 90])
    outputs.split.splitterMoved.emit(800, 1)
    assert outputs.split.sizes()[1] < usual[1] - 20
    again = OutputsView(demo.bench)
    again.resize(outputs.size())
    again.show()
    again.choose_test("waveform_ac")
    kept = again.split.sizes()
    again.close()
    assert abs(kept[1] - outputs.split.sizes()[1]) <= 10


def test_the_form_asks_only_for_what_belongs_to_the_choice(qtbot, demo, outputs):
    shown = []

    def fill(dialog):
        for by in ("scope", "frames", "stayed_on"):
            type_into(dialog, by=by)
            shown.append([k for k in dialog._inputs if dialog.rows.isRowVisible(dialog.input(k))])
        type_into(dialog, gap_ms="12", device="computer", stayed="on")
        dialog.accept_button.click()

    outputs.choose_test("transfer_time")
    in_dialog(fill, EntryDialog)
    outputs.buttons["line"].click()
    settle(qtbot, demo)
    common = ["way", "load_w", "by"]
    assert shown == [
        [*common, "gap_ms", "within_ms"], [*common, "frames_dark", "fps"],
        [*common, "device", "stayed"],
    ]  # fmt: skip
    # What does not belong to the choice is not kept either.
    assert set(outputs._entries[0].fields) == {*common, "device", "stayed"}


def test_a_sound_card_asks_for_its_scale(qtbot, demo, outputs, tmp_path):
    rate = 8000
    time_s = np.arange(rate) / rate
    path = tmp_path / "card.wav"
    wavfile.write(path, rate, (0.5 * np.sin(2 * np.pi * 60 * time_s) * 32767).astype(np.int16))

    def fill(dialog):
        type_into(dialog, load_w="0", full_scale_v="340")
        dialog.accept_button.click()

    outputs.choose_test("waveform_ac")
    runs_before = demo.bench.session.station_runs()
    in_dialog(fill, EntryDialog)
    outputs.file_asked.emit(outputs.tests["waveform_ac"], None, path)
    qtbot.waitUntil(
        lambda: len(demo.bench.session.station_runs()) > len(runs_before), timeout=60_000
    )
    settle(qtbot, demo)
    # Half of 340 V is the peak: 120.2 V r.m.s.
    assert outputs.headline.text() == "Pure sine; 120.2 V"


def test_the_simulated_scope_gives_curves_and_gaps(qtbot, demo, outputs):
    def capture(dialog):
        dialog.scope.setCurrentIndex(dialog.scope.count() - 1)
        dialog.load_w.setValue(600)
        dialog.accept_button.click()

    def keep(dialog):
        dialog.accept_button.click()

    for key in ("waveform_ac", "transfer_time"):
        outputs.choose_test(key)
        rows = outputs.table.rowCount()
        in_dialog(capture, ScopeDialog)
        outputs.buttons["scope"].click()
        in_dialog(keep, EntryDialog)
        qtbot.waitUntil(lambda n=rows: outputs.table.rowCount() == n + 1, timeout=60_000)
        settle(qtbot, demo)
    assert outputs.headline.text().startswith("Worst gap") and "by scope" in (
        outputs.headline.text()
    )
    assert outputs.table.item(0, 1).text() == "600 W"


def test_a_scope_that_does_not_answer_is_told(qtbot, demo, outputs):
    demo.bench.session.yard.put(
        Meter(name="Away", profile="scope", address="TCPIP::127.0.0.1::1::SOCKET",
              reading_share=0.0, floor_w=0.0)
    )  # fmt: skip

    def capture(dialog):
        dialog.scope.setCurrentIndex(dialog.scope.findText("Away"))
        assert not dialog.load_w.isVisibleTo(dialog)
        dialog.accept_button.click()

    in_dialog(capture, ScopeDialog)
    outputs.choose_test("waveform_ac")
    outputs.buttons["scope"].click()
    qtbot.waitUntil(lambda: "no scope answers" in demo.notice.text.lower(), timeout=60_000)


def test_a_port_is_pressed_and_its_watts_typed(qtbot, demo, outputs):
    demo.bench.session.choose_station(FENNEL)
    outputs.choose_test("port_power")
    outputs.new_run_asked.emit(outputs.tests["port_power"])
    settle(qtbot, demo)
    seen = []

    def fill(dialog):
        seen.append((dialog.input("port").text(), dialog.input("together").value()))
        type_into(dialog, watts_w="99", sink_w="140")
        dialog.accept_button.click()

    where, _, name = outputs.ports.sockets()[1]
    in_dialog(fill, EntryDialog)
    press = QMouseEvent(
        QMouseEvent.Type.MouseButtonPress, where.center(), QPointF(0, 0),
        Qt.MouseButton.LeftButton, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier,
    )  # fmt: skip
    outputs.ports.mousePressEvent(press)
    outputs.sets.setCurrentIndex(1)
    in_dialog(fill, EntryDialog)
    QTest.keyClick(outputs.ports, Qt.Key.Key_Return)
    settle(qtbot, demo)
    assert seen == [(name, 0.0), (name, 1.0)] and name == "USB-C 2"
    assert outputs.table.rowCount() == 2


def test_budgets_pictures_and_copies(qtbot, demo, outputs):
    demo.bench.session.choose_station(FENNEL)
    outputs.choose_test("waveform_ac")
    said = []

    def read(dialog):
        said.append(dialog.windowTitle())
        dialog.accept()

    for i in range(3):
        outputs.picture_tabs[i].click()
        assert outputs.picture.scene().title == outputs.picture_tabs[i].text()
    in_dialog(read, BudgetDialog)
    next(w for w in outputs.figures.shown if w.accessibleName() == "Volts: ±").click()
    # Its ± is not known; how it came about is.
    in_dialog(read, BudgetDialog)
    told = "THD: how it is worked out"
    next(w for w in outputs.figures.shown if w.accessibleName() == told).click()
    assert said == ["Where the ± comes from", "How it is worked out"]
    outputs.table.copy()
    assert QApplication.clipboard().text().startswith("Load\tVolts\tFrequency\tTHD\tShape\tFrom")
    outputs.picture.copy()
    assert not QApplication.clipboard().pixmap().isNull()


def test_the_instrument_and_a_void(qtbot, demo, outputs):
    demo.bench.session.choose_station(FENNEL)
    outputs.choose_test("pass_through_steps")

    def choose(dialog):
        dialog.meter.setCurrentIndex(1)  # the bench meter
        dialog.accept_button.click()

    in_dialog(choose, InstrumentDialog)
    outputs.run_actions["instrument"].trigger()
    settle(qtbot, demo)
    assert "±" in " ".join(outputs.figures.texts())

    def void(dialog):
        dialog.reason.setText("the wall was off")
        dialog.accept_button.click()

    in_dialog(void, VoidDialog)
    outputs.run_actions["void"].trigger()
    settle(qtbot, demo)
    assert "This run is void: the wall was off." in outputs.words.texts()
    assert outputs.run_actions["void"].text() == "Take the void back"


def test_powers_held_are_found_and_their_trips_noted(qtbot, demo, outputs):
    demo.bench.session.choose_station(FENNEL)
    settle(qtbot, demo)
    outputs.choose_test("held")
    assert outputs.headline.text().startswith("Tripped at 2411 W, 121 % of rated")
    assert outputs.runs.count() == 2
    texts = " ".join(outputs.words.texts())
    assert "it showed E21, came back switched off and on" in texts
    add_line(outputs, "held", step_w="2200", error_code="E4")
    settle(qtbot, demo)
    assert "At 2200 W it showed E4." in outputs.words.texts()
    outputs.run_actions["ledger"].trigger()
    assert demo.rail.current == "ledger"
    demo.bench.session.choose_station(TANSY)
    demo.go_to(OUTPUTS)
    assert "by lowering its volts to 100.8 V" in outputs.headline.text()


def test_a_test_of_power_shows_seconds_and_ends_by_one_key(qtbot, demo):
    yard = demo.bench.session.yard
    station, meter = yard.get(Station, FENNEL), yard.meters()[1]
    part = MixPart(name="Heat guns", setting="", count=1, watts=2100.0)
    plan = RunPlan(
        station=station, meter=meter, method="overload", size="105", parts=(part,),
        target_w=2100.0, soc=(100, 50), cold_share=0.0,
    )  # fmt: skip
    demo.bench.settings.simulated_speed = 60
    start_plan(qtbot, demo, plan)
    demo.go_to(RUN)
    view = demo.stack.current_view()
    assert not view.running.energy_figure.isVisibleTo(
        view
    ) and view.running.step_figure.isVisibleTo(view)
    qtbot.waitUntil(lambda: " · next 1" in view.running.step_figure.note.text(), timeout=60_000)
    assert view.running.share_figure.accessibleName().startswith("Share of the rating: 10")
    run_id = demo.bench.live.run_id
    QTest.keyClick(view, Qt.Key.Key_1)
    qtbot.waitUntil(lambda: demo.bench.live is None, timeout=60_000)
    run = next(r for r in yard.runs(FENNEL) if r.id == run_id)
    assert run.ended_by == EndedBy.TRIP.value and run.state == "finished"
    assert any(m.ends_run and m.word == "Tripped" for m in yard.marks(run_id))
    assert "It is kept." in demo.notice.text and "What ended it" not in demo.notice.text


def test_a_yard_that_is_only_shown_offers_nothing_to_change(qtbot, demo, tmp_path):
    copy = tmp_path / "copy.yard"
    shutil.copy(demo.bench.session.path, copy)
    with held_elsewhere(copy):
        demo.open_yard(copy)
        worked_out(qtbot, demo)
        assert demo.bench.session.yard.read_only
        demo.bench.session.choose_station(FENNEL)
        demo.go_to(OUTPUTS)
        view = demo.stack.current_view()
        for key in view.tests:
            view.choose_test(key)
            shown = {
                k for k in ("line", "file", "scope", "plan") if view.buttons[k].isVisibleTo(view)
            }
            assert not shown
            assert not view.run_actions["void"].isVisible()
        view.choose_test("appliances")
        view.table.opened.emit(0)
        view.table.removed.emit(0)
        assert view.table.rowCount() == 5


def test_channels_and_a_divider_are_asked_for(qtbot, demo, outputs, tmp_path):
    time_s = np.arange(4000) / 20_000
    wall, outlet = (s * np.sin(2 * np.pi * 60 * time_s) for s in (1.7, 1.6))
    path = tmp_path / "four.csv"
    rows = [f"{t:.6f},{a:.4f},{b:.4f}" for t, a, b in zip(time_s, wall, outlet, strict=True)]
    path.write_text("Time (s),CH1 (V),CH2 (V)\n" + "\n".join(rows))

    def choose(dialog):
        dialog.amps.setCurrentIndex(dialog.amps.findData("CH1 (V)"))
        dialog.volts.setCurrentIndex(dialog.volts.findData("CH1 (V)"))
        dialog.accept_button.click()
        assert "cannot be both" in dialog.wrong_label.text()
        dialog.amps.setCurrentIndex(0)
        dialog.volts.setCurrentIndex(dialog.volts.findData("CH2 (V)"))
        in_dialog(fill, EntryDialog)
        dialog.accept_button.click()

    def fill(dialog):
        type_into(dialog, load_w="300", divider="100")
        dialog.accept_button.click()

    outputs.choose_test("waveform_ac")
    rows_before = outputs.table.rowCount()
    in_dialog(choose, ChannelsDialog)
    outputs.file_asked.emit(outputs.tests["waveform_ac"], outputs._run(), path)
    qtbot.waitUntil(lambda: outputs.table.rowCount() == rows_before + 1, timeout=60_000)
    settle(qtbot, demo)
    # 160 V at the peak are 113.1 V r.m.s.; the capture itself is kept as the file has it.
    row = outputs.table.rowCount() - 1
    assert float(outputs.table.item(row, 1).text().split()[0]) == pytest.approx(113.1, abs=0.2)
    entry = outputs._entries[row]
    yard = demo.bench.session.yard
    kept = next(r for r in yard.recordings(entry.run_id) if r.id == entry.fields["recording_id"])
    assert np.max(yard.samples(kept).columns[Quantity.VOLTS]) == pytest.approx(1.6, abs=0.01)

    def put_right(dialog):
        type_into(dialog, divider="50")
        dialog.accept_button.click()

    in_dialog(put_right, EntryDialog)
    outputs.table.opened.emit(row)
    settle(qtbot, demo)
    assert float(outputs.table.item(row, 1).text().split()[0]) == pytest.approx(56.6, abs=0.2)


def test_a_table_without_times_asks_for_its_rate(qtbot, demo, outputs, tmp_path):
    path = tmp_path / "bare.csv"
    volts = 170 * np.sin(2 * np.pi * 60 * np.arange(4000) / 20_000)
    path.write_text("\n".join(f"{v:.3f}" for v in volts))

    def rate(dialog):
        dialog.accept_button.click()
        assert "samples a second are needed" in dialog.wrong_label.text()
        dialog.rate.field.setText("20000")
        in_dialog(lambda entry: entry.accept_button.click(), EntryDialog)
        dialog.accept_button.click()

    outputs.choose_test("waveform_ac")
    rows_before = outputs.table.rowCount()
    in_dialog(rate, ChannelsDialog)
    outputs.file_asked.emit(outputs.tests["waveform_ac"], outputs._run(), path)
    qtbot.waitUntil(lambda: outputs.table.rowCount() == rows_before + 1, timeout=60_000)
    settle(qtbot, demo)
    assert outputs.table.item(0, 1).text().startswith("120.")
