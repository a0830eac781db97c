"""The frame: welcome, stops, finder, notices, importing, opening, undo, themes."""

import json
import logging
import sys
from pathlib import Path

import pytest
from conftest_helpers import drop, in_dialog, start_plan, worked_out
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QMessageBox, QPushButton

from yardtoll.desktop.asking_records import ask_new_record
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.dialogs.import_log import ImportDialog
from yardtoll.desktop.dialogs.observation import ObservationDialog
from yardtoll.desktop.dialogs.records import RunDialog, StationDialog, VoidDialog, YardstickDialog
from yardtoll.desktop.log_file import start_logging, tell_uncaught
from yardtoll.desktop.log_import import import_logs
from yardtoll.desktop.run_plan import plan_for_load
from yardtoll.desktop.settings import UserSettings
from yardtoll.desktop.stops import LEDGER, PLAN, RUN, STOPS, VERDICTS
from yardtoll.desktop.theme.theme import theme
from yardtoll.store.records import Run, Station
from yardtoll.store.yard_file import YardFile

EXAMPLES = Path(__file__).parents[2] / "examples"


def test_the_first_start_offers_demo_new_import_open(window):
    names = [b.accessibleName() for b in window._welcome.findChildren(type(window.strip._go))]
    assert [n.split(".")[0] for n in names] == [
        "Look at the demo yard", "Start a new yard", "Import a meter's log", "Open a yard",
    ]  # fmt: skip
    assert not window.rail.isVisible() and not window.strip.isVisible()


def test_the_demo_opens_from_the_first_page(qtbot, window):
    window._welcome.chosen.emit("demo")
    qtbot.waitUntil(lambda: window.bench is not None, timeout=60_000)
    assert [s.name for s in window.bench.session.yard.stations()] == [
        "Fennel 2k", "Tansy 1200", "Sorrel 300",
    ]  # fmt: skip


def test_alt_and_a_number_goes_to_each_stop(qtbot, demo):
    demo.activateWindow()
    qtbot.waitUntil(demo.isActiveWindow, timeout=60_000)
    for index in (5, 4, 3, 2, 1, 0):
        QTest.keyClick(demo, Qt.Key(Qt.Key.Key_1 + index), Qt.KeyboardModifier.AltModifier)
        assert demo.stack.currentWidget().title == STOPS[index]
    demo.rail.setFocus()
    QTest.keyClick(demo.rail, Qt.Key.Key_Down)
    assert demo.stack.currentWidget().title == "Claims"
    QTest.mouseClick(demo.rail, Qt.MouseButton.LeftButton, pos=QPoint(40, 34))
    assert demo.stack.currentWidget().title == "Yard"


def test_the_finder_narrows_and_does(demo):
    demo.open_finder()
    QTest.keyClicks(demo.finder._line, "go verd")
    assert [text.split("  ")[0] for text in demo.finder.found()] == ["Go to Verdicts"]
    QTest.keyClick(demo.finder._line, Qt.Key.Key_Return)
    assert demo.stack.currentWidget().title == "Verdicts"
    assert demo.finder.isHidden()


def test_each_demo_stations_verdict(qtbot, demo):
    """One meets, one is too close to call, one fails: the demo's promise."""
    demo.go_to(VERDICTS)
    view = demo.stack.currentWidget()
    view.choose_page(by_stick=True)
    headlines = {}
    for station in demo.bench.session.yard.stations():
        demo.bench.session.choose_station(station.id)
        headlines[station.name] = view._headline.text()
    assert headlines == {
        "Fennel 2k": "≥ 85 % of rated: 3 meet it",
        "Tansy 1200": "≥ 85 % of rated: 2 are too close to call",
        "Sorrel 300": "≥ 85 % of rated: 2 fall short",
    }


def test_yardstick_and_rule_are_chosen_and_undone(qtbot, demo):
    demo.go_to(VERDICTS)
    demo.bench.session.choose_station(2)
    view = demo.stack.currentWidget()
    view._tabs[True].click()
    view._yardstick.setCurrentIndex(1)
    view._yardstick.activated.emit(1)
    assert view._headline.text() == "≥ 80 % of rated: 2 meet it"
    demo.actions_by_name["Undo"].trigger()
    assert "85 %" in view._headline.text()
    view._rule.setCurrentIndex(1)
    view._rule.activated.emit(1)
    assert view._headline.text() == "≥ 85 % of rated: 1 meets it, 1 falls short"

    def stick(dialog):
        QTest.keyClicks(dialog.name, "Mine")
        dialog.limit.setValue(70)
        dialog.accept_button.click()

    in_dialog(stick, YardstickDialog)
    ask_new_record(demo, "yardstick")
    assert demo.bench.session.yard.yardsticks()[-1].limit_ratio == pytest.approx(0.7)


def test_copying_a_verdict_and_opening_its_evidence(demo):
    demo.go_to(VERDICTS)
    view = demo.stack.currentWidget()
    view._copy.click()
    assert QApplication.clipboard().text() == view.sentence()
    view.setFocus()
    QTest.keyClick(view._rails, Qt.Key.Key_Down)
    QTest.keyClick(view._rails, Qt.Key.Key_Up)
    QTest.keyClick(view._rails, Qt.Key.Key_Return)
    assert demo.stack.currentWidget().title == "Ledger"


def row_named(view, title):
    index = next(i for i, row in enumerate(view.page.rows) if row.row.title == title)
    view._rails.choose(index)
    return view.chosen


def test_claims_open_their_budget_and_plan_what_is_missing(qtbot, demo):
    demo.bench.session.choose_station(1)
    demo.go_to(VERDICTS)
    view = demo.stack.currentWidget()
    assert view._headline.text() == "4 claims are met, 3 fall short; 23 not tested"
    row_named(view, "Wall charging time")
    shown = []

    def budget(dialog):
        shown.extend(found.text() for found in dialog.findChildren(QLabel))
        next(b for b in dialog.findChildren(QPushButton) if b.text() == "Copy as text").click()
        dialog.accept()

    in_dialog(budget, BudgetDialog)
    QTest.keyClick(view._rails, Qt.Key.Key_B)
    assert "Display step" in shown and "±½ point at either end" in shown
    assert "Display step (±½ point at either end), type B" in QApplication.clipboard().text()
    row_named(view, "Continuous power")
    assert view._plan.isVisibleTo(demo) and not view._evidence.isVisibleTo(demo)
    view._plan.click()
    plan = demo.stack.currentWidget()
    assert (plan.title, plan.form.chosen_method.key) == ("Plan", "hold")


def test_what_was_seen_settles_a_yes_or_no(qtbot, demo):
    demo.bench.session.choose_station(1)
    demo.go_to(VERDICTS)
    view = demo.stack.currentWidget()
    row_named(view, "Pure sine")

    def seen(dialog):
        QTest.keyClicks(dialog.words, "on a scope")
        dialog.accept_button.click()

    in_dialog(seen, ObservationDialog)
    QTest.keyClick(view._rails, Qt.Key.Key_O)
    assert row_named(view, "Pure sine").row.word == "meets"
    demo.undo()
    assert row_named(view, "Pure sine").row.word == "not tested"
    demo.redo()

    def gone(dialog):
        assert dialog.words.text() == "on a scope"
        dialog._remove()

    in_dialog(gone, ObservationDialog)
    row_named(view, "Pure sine")
    view._note.click()
    assert row_named(view, "Pure sine").row.word == "not tested"


def test_a_yardstick_of_money(qtbot, demo):
    def stick(dialog):
        QTest.keyClicks(dialog.name, "Cheap")
        dialog.basis.setCurrentIndex(dialog.basis.findData("price_per_wh"))
        assert dialog.limit.suffix() == " per Wh"
        dialog.limit.setValue(0.5)
        dialog.accept_button.click()

    in_dialog(stick, YardstickDialog)
    ask_new_record(demo, "yardstick")
    made = demo.bench.session.yard.yardsticks()[-1]
    assert (made.limit_ratio, made.basis) == (0.5, "price_per_wh")


def test_the_ledger_explains_each_gate(demo):
    demo.go_to(LEDGER)
    view = demo.stack.currentWidget()
    assert "came from the wall" in view._evidence.text()
    for said in ("whatever the load", "at three loads", "does not explain", "went through the"):
        QTest.keyClick(view._strip, Qt.Key.Key_Right)
        assert said in view._evidence.text()
    texts = [found.text() for found in view.findChildren(QLabel)]
    assert any(text.startswith("Meter gain, ±0.5 % of") for text in texts)


def test_a_run_is_edited_voided_and_brought_back(qtbot, demo):
    demo.bench.session.choose_station(3)
    demo.go_to(LEDGER)
    view = demo.stack.currentWidget()
    run_id = view._run_id

    def window_90(dialog):
        dialog.soc_to.setValue(10)
        dialog.accept_button.click()

    in_dialog(window_90, RunDialog)
    view._edit.click()
    worked_out(qtbot, demo)
    assert "100 → 10 %" in view._subtitle.text()
    assert [t.title for t in view._page.ledger.tolls] == ["Outside the window", "Not delivered"]

    def void(dialog):
        dialog.accept_button.click()
        assert dialog._wrong.text() == "A void run needs its reason."
        QTest.keyClicks(dialog.reason, "door left open")
        dialog.accept_button.click()

    in_dialog(void, VoidDialog)
    view._void.click()
    yard = demo.bench.session.yard
    assert yard.get(Run, run_id).void_reason == "door left open"
    demo.actions_by_name["Undo"].trigger()
    assert yard.get(Run, run_id).state == "finished"
    demo.actions_by_name["Undo"].trigger()
    assert yard.get(Run, run_id).soc_to == 0


def test_a_station_is_edited_removed_and_undone(demo):
    def rename(dialog):
        dialog.name.setText("Tansy 1200")
        dialog.accept_button.click()
        assert dialog._wrong.text() == "There is already one called Tansy 1200."
        dialog.name.setText("<b>Fennel</b> & co")
        dialog.rated_wh.setValue(0)
        dialog.accept_button.click()
        assert dialog._wrong.text() == "The rated energy must be above 0 Wh."
        dialog.rated_wh.setValue(2000)
        dialog.accept_button.click()

    demo.bench.session.choose_station(1)
    in_dialog(rename, StationDialog)
    demo.actions_by_name["Edit the station…"].trigger()
    assert demo.header._stations.text().startswith("<b>Fennel</b> & co")
    in_dialog(lambda dialog: dialog._remove(), StationDialog)
    demo.actions_by_name["Edit the station…"].trigger()
    assert len(demo.bench.session.yard.stations()) == 2
    demo.actions_by_name["Undo"].trigger()
    demo.actions_by_name["Undo"].trigger()
    assert demo.bench.session.yard.get(Station, 1).name == "Fennel 2k"


class TestImport:
    def test_a_dropped_log_is_shown_mapped_and_kept(self, qtbot, demo):
        seen = {}

        def accept(dialog):
            qtbot.waitUntil(lambda: dialog.preview is not None, timeout=60_000)
            seen["headline"] = dialog._headline.text()
            seen["power"] = dialog._columns["power"].currentText()
            dialog.station.setCurrentIndex(dialog.station.findText("Sorrel 300"))
            dialog.accept_button.click()

        in_dialog(accept, ImportDialog)
        drop(demo, EXAMPLES / "semicolon-decimal-comma.csv")
        qtbot.waitUntil(lambda: "is kept as run 3" in demo.notice.text, timeout=60_000)
        assert len(demo.bench.session.yard.runs()) == 12
        assert seen == {"headline": "238.5 Wh over 1 h 16 min", "power": "P (kW)"}
        assert "is kept as run 3 of Sorrel 300" in demo.notice.text
        assert demo.stack.currentWidget().title == "Ledger"
        worked_out(qtbot, demo)

    def test_the_mapping_can_be_put_right(self, qtbot, demo, tmp_path):
        log = tmp_path / "two.csv"
        log.write_text(
            "t,AC power (W),DC power (W)\n" + "".join(f"{i * 60},400,100\n" for i in range(61))
        )
        seen = []

        def change(dialog):
            qtbot.waitUntil(lambda: dialog.preview is not None, timeout=60_000)
            seen.append(dialog._headline.text())
            power = dialog._columns["power"]
            power.setCurrentIndex(power.findText("DC power (W)"))
            qtbot.waitUntil(lambda: dialog._headline.text() != seen[0], timeout=60_000)
            seen.append(dialog._headline.text())
            power.setCurrentIndex(0)
            qtbot.waitUntil(lambda: bool(dialog._wrong.text()), timeout=60_000)
            seen.append(dialog._headline.text())
            assert not dialog.accept_button.isEnabled()

        in_dialog(change, ImportDialog)
        import_logs(demo, [log])
        qtbot.waitUntil(lambda: len(seen) == 3, timeout=60_000)
        assert seen == [
            "400.0 Wh over 1 h 00 min",
            "100.0 Wh over 1 h 00 min",
            "two.csv does not read like this",
        ]  # fmt: skip
        assert len(demo.bench.session.yard.runs()) == 11

    def test_a_new_station_comes_with_a_log_into_a_new_yard(self, qtbot, window, tmp_path):
        log = tmp_path / "first.csv"
        log.write_bytes((EXAMPLES / "plain-seconds.csv").read_bytes())

        def accept(dialog):
            qtbot.waitUntil(lambda: dialog.preview is not None, timeout=60_000)
            dialog.accept_button.click()
            assert dialog._wrong.text() == "Name the new station."
            QTest.keyClicks(dialog.new_name, "Clover")
            dialog.accept_button.click()
            assert dialog._wrong.text() == "A new station needs its rated Wh and rated W."
            dialog.new_wh.setValue(288)
            dialog.new_w.setValue(300)
            dialog.accept_button.click()

        in_dialog(accept, ImportDialog)
        drop(window, log)
        qtbot.waitUntil(
            lambda: window.bench is not None and bool(window.bench.session.yard.runs()),
            timeout=60_000,
        )
        assert (tmp_path / "first.yard").exists()
        assert window.bench.session.station.name == "Clover"
        worked_out(qtbot, window)

    def test_a_bad_file_is_one_sentence_and_changes_nothing(self, qtbot, demo, tmp_path):
        bad = tmp_path / "photo.csv"
        bad.write_bytes(b"\x89PNG\r\n\x1a\n\x00\x00")
        drop(demo, bad)
        qtbot.waitUntil(lambda: bool(demo.notice.text), timeout=60_000)
        assert demo.notice.text.startswith("photo.csv is not a text log")
        assert demo.notice.text.endswith("Nothing was imported.")
        assert len(demo.bench.session.yard.runs()) == 11


class TestOpening:
    def test_a_damaged_yard_leaves_the_open_one(self, demo, tmp_path):
        bad = tmp_path / "bad.yard"
        bad.write_text("no yard")
        before = demo.bench
        drop(demo, bad)
        assert demo.notice.text == "bad.yard is not a yard file; nothing was changed"
        assert demo.bench is before

    def test_a_yard_open_elsewhere_is_only_shown(self, qtbot, window, tmp_path):
        with YardFile.create(tmp_path / "a.yard", "A") as first:
            window.open_yard(first.path)
            assert "open in another window" in window.notice.text
            ask_new_record(window, "station")  # must not ask for what cannot be kept
            window.go_to(PLAN)
            assert not window.stack.currentWidget().start_button.isEnabled()
            window.close_yard()

    def test_closing_goes_back_to_the_first_page_and_remembers(self, demo, tmp_path):
        demo.go_to(RUN)
        demo.close_yard()
        assert demo.stack.currentWidget() is demo._welcome
        assert demo.settings.recent_yards == [tmp_path / "Demo.yard"]
        demo.open_yard(demo.settings.recent_yards[0])
        assert demo.stack.currentWidget().title == "Yard"

    def test_leaving_a_run_asks(self, qtbot, demo):
        bench = demo.bench
        yard = bench.session.yard
        plan = plan_for_load(yard.stations()[2], yard.meters()[0], yard.loads()[0])
        start_plan(qtbot, demo, plan)

        def press(text):
            return lambda box: next(b for b in box.buttons() if b.text() == text).click()

        in_dialog(press("Keep it running"), QMessageBox)
        demo.close_yard()
        assert demo.bench is bench
        in_dialog(press("Leave it"), QMessageBox)
        demo.close_yard()
        assert demo.bench is None
        demo.open_yard(tmp := demo.settings.recent_yards[0])
        assert tmp.exists() and len(demo.bench.interrupted()) == 1


def test_sizes_theme_and_places_are_remembered(window, settings, tmp_path):
    window.choose_theme("night")
    assert theme.tokens.name == "night"
    settings.last_folder = tmp_path
    settings.simulated_speed = 600.0
    again = UserSettings(tmp_path / "settings.ini")
    assert (again.theme, again.last_folder, again.simulated_speed) == ("night", tmp_path, 600.0)
    window.choose_theme("day")


def test_every_control_has_a_name_for_those_who_cannot_see(demo):
    from PySide6.QtWidgets import QAbstractButton, QComboBox, QLineEdit

    for index in range(len(STOPS)):
        demo.go_to(index)
    unnamed = [
        widget
        for kind in (QAbstractButton, QComboBox, QLineEdit)
        for widget in demo.findChildren(kind)
        if widget.objectName() not in ("qt_spinbox_lineedit",)
        and not (widget.accessibleName() or getattr(widget, "text", str)())
        and widget.window() is demo
    ]
    assert unnamed == []


def test_what_nobody_caught_is_told_and_logged(window, monkeypatch, caplog, capsys):
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    tell_uncaught(window.say)
    error = ValueError("the bench is upside down")
    sys.excepthook(ValueError, error, None)
    assert window.notice.text.startswith(
        "Something went wrong that should not have: the bench is upside down. What is recorded"
    )
    assert caplog.records[-1].message == "uncaught"
    assert "ValueError" in capsys.readouterr().err


def test_the_log_is_one_json_object_a_line(tmp_path):
    root = logging.getLogger()
    before = list(root.handlers)
    path = start_logging(tmp_path / "state")
    logging.getLogger("yardtoll.test").warning("lost", extra={"reason": "cable"})
    for handler in [h for h in root.handlers if h not in before]:
        handler.close()
        root.removeHandler(handler)
    told = json.loads(path.read_text().splitlines()[-1])
    assert (told["message"], told["levelname"], told["reason"]) == ("lost", "WARNING", "cable")


def test_the_menu_holds_what_people_look_for(demo):
    texts = [action.text() for action in demo.header.menu.actions() if action.text()]
    assert "Import a meter's log…" in texts and "Undo" in texts and "Quit" in texts
    night = next(a for a in demo.header.menu.actions() if a.text() == "Night colours")
    night.trigger()
    assert theme.tokens.name == "night"
    demo.choose_theme("day")


def test_new_open_and_import_ask_for_files(qtbot, window, tmp_path, monkeypatch):
    """The system's own file dialogs cannot be driven; what they answer is given here."""
    answers = {
        "getSaveFileName": (str(tmp_path / "Fresh"), ""),
        "getOpenFileName": (str(tmp_path / "Fresh.yard"), ""),
        "getOpenFileNames": ([str(tmp_path / "none.csv")], ""),
    }
    for name, answer in answers.items():
        monkeypatch.setattr(f"PySide6.QtWidgets.QFileDialog.{name}", lambda *_, a=answer: a)
    window.actions_by_name["New yard…"].trigger()
    assert window.bench.session.path == tmp_path / "Fresh.yard"
    assert window.settings.last_folder == tmp_path
    window.close_yard()
    window.actions_by_name["Open a yard…"].trigger()
    assert window.bench.session.yard.info().name == "Fresh"
    window.actions_by_name["Import a meter's log…"].trigger()
    qtbot.waitUntil(lambda: "none.csv does not exist" in window.notice.text, timeout=60_000)
    window.actions_by_name["New yard…"].trigger()
    assert window.notice.text == "Fresh.yard is already there; choose another name"
