"""The frame: welcome, stops, finder, notices, undo, sizes, themes."""

import json
import logging
import sys

from conftest_helpers import in_dialog, worked_out
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from yardtoll.desktop.dialogs.records import RunDialog, StationDialog, VoidDialog
from yardtoll.desktop.frame.program_log import report_uncaught, start_logging
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.views.stop import LEDGER
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.store.records import Run, Station


def test_the_first_start_offers_demo_new_import_open(window):
    names = [b.accessibleName() for b in window.welcome.findChildren(type(window.strip.go_button))]
    assert [n.split(".")[0] for n in names] == [
        "The first evening", "Look at the demo yard", "Start a new yard",
        "Import a meter's log", "Open a yard",
    ]  # fmt: skip
    assert not window.rail.isVisible() and not window.strip.isVisible()


def test_the_demo_opens_from_the_first_page(qtbot, window):
    window.welcome.chosen.emit("demo")
    qtbot.waitUntil(lambda: window.bench is not None, timeout=60_000)
    assert [s.name for s in window.bench.session.yard.stations()] == [
        "Fennel 2k", "Tansy 1200", "Sorrel 300",
    ]  # fmt: skip


def test_alt_and_a_number_goes_to_each_stop(qtbot, demo):
    demo.activateWindow()
    qtbot.waitUntil(demo.isActiveWindow, timeout=60_000)
    stops = list(STOPS)
    for index in (5, 4, 3, 2, 1, 0):
        QTest.keyClick(demo, Qt.Key(Qt.Key.Key_1 + index), Qt.KeyboardModifier.AltModifier)
        assert demo.rail.current == stops[index]
    demo.rail.setFocus()
    QTest.keyClick(demo.rail, Qt.Key.Key_Down)
    assert demo.rail.current == "claims"
    QTest.mouseClick(demo.rail.stops[0], Qt.MouseButton.LeftButton)
    assert demo.rail.current == "yard"


def test_the_finder_narrows_and_does(demo):
    demo.open_finder()
    QTest.keyClicks(demo.finder.line, "go verd")
    assert demo.finder.found() == ["Go to Verdicts"] and not demo.finder.nothing.isVisible()
    QTest.keyClicks(demo.finder.line, " zzz")
    assert not demo.finder.found() and demo.finder.nothing.isVisible()
    demo.finder.line.setText("go to")
    shown = demo.finder.found()
    QTest.keyClick(demo.finder.line, Qt.Key.Key_PageDown)
    assert demo.finder.chosen() == shown[-1]
    demo.finder.line.setText("go verd")
    QTest.keyClick(demo.finder.line, Qt.Key.Key_Return)
    assert demo.rail.current == "verdicts"
    assert demo.finder.isHidden()


def test_the_ledger_explains_each_gate(demo):
    demo.go_to(LEDGER)
    view = demo.stack.current_view()
    assert "came from the wall" in view.evidence.text()
    assert "The proportional part of conversion cannot be separated from it" in view.evidence.text()
    for said in (
        "after the gate", "whatever the load", "after the gate", "does not explain",
        "went through the",
    ):  # fmt: skip
        QTest.keyClick(view.toll_strip, Qt.Key.Key_Right)
        assert said in view.evidence.text()
    texts = [found.text() for found in view.findChildren(QLabel)]
    assert any(text.startswith("Meter gain, common, 50%") for text in texts)


def test_a_run_is_edited_voided_and_brought_back(qtbot, demo):
    demo.bench.session.choose_station(3)
    demo.go_to(LEDGER)
    view = demo.stack.current_view()
    run_id = view.run_id

    def window_90(dialog):
        dialog.soc_to.setValue(10)
        dialog.accept_button.click()

    in_dialog(window_90, RunDialog)
    view.edit_button.click()
    worked_out(qtbot, demo)
    assert "100 → 10 %" in view.subtitle.text()
    assert [t.title for t in view.page.ledger.tolls] == ["Outside the window", "Not delivered"]

    def void(dialog):
        dialog.accept_button.click()
        assert dialog.wrong_label.text() == "A void run needs its reason."
        QTest.keyClicks(dialog.reason, "door left open")
        dialog.accept_button.click()

    in_dialog(void, VoidDialog)
    view.void_button.click()
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
        assert dialog.wrong_label.text() == "There is already one called Tansy 1200."
        dialog.name.setText("<b>Fennel</b> & co")
        dialog.rated_wh.setValue(0)
        dialog.accept_button.click()
        assert dialog.wrong_label.text() == "The rated energy must be above 0 Wh."
        dialog.rated_wh.setValue(2000)
        dialog.accept_button.click()

    demo.bench.session.choose_station(1)
    in_dialog(rename, StationDialog)
    demo.actions_by_name["Edit the station…"].trigger()
    assert demo.header.stations.text().startswith("<b>Fennel</b> & co")
    in_dialog(lambda dialog: dialog.remove_button(), StationDialog)
    demo.actions_by_name["Edit the station…"].trigger()
    assert len(demo.bench.session.yard.stations()) == 2
    demo.actions_by_name["Undo"].trigger()
    demo.actions_by_name["Undo"].trigger()
    assert demo.bench.session.yard.get(Station, 1).name == "Fennel 2k"


def test_sizes_theme_and_places_are_remembered(qtbot, window, settings, tmp_path):
    window.choose_theme("night")
    qtbot.waitUntil(lambda: not theme.is_changing)
    assert theme.tokens.name == "night"
    settings.last_folder = tmp_path
    settings.simulated_speed = 600.0
    again = UserSettings(tmp_path / "settings.ini")
    assert (again.preferences.colours, again.last_folder, again.simulated_speed) == (
        "night",
        tmp_path,
        600.0,
    )
    window.choose_theme("day")
    qtbot.waitUntil(lambda: not theme.is_changing)


def test_every_control_has_a_name_for_those_who_cannot_see(demo):
    from PySide6.QtWidgets import QAbstractButton, QComboBox, QLineEdit

    for stop in STOPS:
        demo.go_to(stop)
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
    report_uncaught(window.say)
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


def test_the_menu_holds_what_people_look_for(qtbot, demo):
    menus = {a.text().replace("&", ""): a.menu() for a in demo.menuBar().actions()}
    assert list(menus) == ["File", "Edit", "Station", "Bench", "Run", "View", "Help"]
    held = {name: [a.text() for a in menu.actions() if a.text()] for name, menu in menus.items()}
    assert "Import a meter's log…" in held["File"] and "Quit" in held["File"]
    assert held["Edit"] == ["Undo", "Redo", "Copy", "Find anything…", "Preferences…"]
    assert max(map(len, held.values())) <= 22
    night = next(a for a in menus["View"].actions() if a.text() == "Night colours")
    night.trigger()
    qtbot.waitUntil(lambda: not theme.is_changing)
    assert theme.tokens.name == "night"
    demo.choose_theme("day")
