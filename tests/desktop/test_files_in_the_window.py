"""Logs and yards in the window: imported, opened, refused, asked for."""

from conftest_helpers import drop, in_dialog, start_plan, worked_out
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMessageBox
from tests.files import open_elsewhere
from tests.records import EXAMPLES

from yardtoll.desktop.actions.import_logs import import_logs
from yardtoll.desktop.actions.records import ask_new_record
from yardtoll.desktop.dialogs.import_log import ImportDialog
from yardtoll.desktop.views.stop import PLAN, RUN
from yardtoll.running.plan import plan_for_load
from yardtoll.store.yard_file import YardFile


class TestImport:
    def test_a_dropped_log_is_shown_mapped_and_kept(self, qtbot, demo):
        seen = {}

        def accept(dialog):
            qtbot.waitUntil(lambda: dialog.preview is not None, timeout=60_000)
            seen["headline"] = dialog.headline.text()
            seen["power"] = dialog.columns["power"].currentText()
            dialog.station.setCurrentIndex(dialog.station.findText("Sorrel 300"))
            dialog.accept_button.click()

        in_dialog(accept, ImportDialog)
        drop(demo, EXAMPLES / "semicolon-decimal-comma.csv")
        qtbot.waitUntil(lambda: "is kept as run 8" in demo.notice.text, timeout=60_000)
        assert len(demo.bench.session.yard.runs()) == 33
        assert seen == {"headline": "238.5 Wh over 1 h 16 min", "power": "P (kW)"}
        assert "is kept as run 8 of Sorrel 300" in demo.notice.text
        assert demo.rail.current == "ledger"
        worked_out(qtbot, demo)

    def test_the_mapping_can_be_put_right(self, qtbot, demo, tmp_path):
        log = tmp_path / "two.csv"
        log.write_text(
            "t,AC power (W),DC power (W)\n" + "".join(f"{i * 60},400,100\n" for i in range(61))
        )
        seen = []

        def change(dialog):
            qtbot.waitUntil(lambda: dialog.preview is not None, timeout=60_000)
            seen.append(dialog.headline.text())
            power = dialog.columns["power"]
            power.setCurrentIndex(power.findText("DC power (W)"))
            qtbot.waitUntil(lambda: dialog.headline.text() != seen[0], timeout=60_000)
            seen.append(dialog.headline.text())
            power.setCurrentIndex(0)
            qtbot.waitUntil(lambda: bool(dialog.wrong_label.text()), timeout=60_000)
            seen.append(dialog.headline.text())
            assert not dialog.accept_button.isEnabled()

        in_dialog(change, ImportDialog)
        import_logs(demo, [log])
        qtbot.waitUntil(lambda: len(seen) == 3, timeout=60_000)
        assert seen == [
            "400.0 Wh over 1 h 00 min",
            "100.0 Wh over 1 h 00 min",
            "two.csv cannot be read this way",
        ]  # fmt: skip
        assert len(demo.bench.session.yard.runs()) == 32

    def test_a_new_station_comes_with_a_log_into_a_new_yard(self, qtbot, window, tmp_path):
        log = tmp_path / "first.csv"
        log.write_bytes((EXAMPLES / "plain-seconds.csv").read_bytes())

        def accept(dialog):
            qtbot.waitUntil(lambda: dialog.preview is not None, timeout=60_000)
            dialog.accept_button.click()
            assert dialog.wrong_label.text() == "Name the new station."
            QTest.keyClicks(dialog.new_name, "Clover")
            dialog.accept_button.click()
            assert dialog.wrong_label.text() == "A new station needs its rated Wh and rated W."
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
        assert len(demo.bench.session.yard.runs()) == 32


class TestOpening:
    def test_a_damaged_yard_leaves_the_open_one(self, qtbot, demo, tmp_path):
        bad = tmp_path / "bad.yard"
        bad.write_text("no yard")
        before = demo.bench
        drop(demo, bad)
        said = "bad.yard is not a yard file; nothing was changed"
        qtbot.waitUntil(lambda: demo.notice.text == said, timeout=20_000)
        assert demo.bench is before

    def test_a_yard_open_elsewhere_is_only_shown(self, qtbot, window, tmp_path):
        YardFile.create(tmp_path / "a.yard", "A").close()
        with open_elsewhere(tmp_path / "a.yard"):
            window.open_yard(tmp_path / "a.yard")
            assert "open in another window" in window.notice.text
            ask_new_record(window, "station")  # must not ask for what cannot be kept
            window.go_to(PLAN)
            assert not window.stack.current_view().start_button.isEnabled()
            window.close_yard()

    def test_closing_goes_back_to_the_first_page_and_remembers(self, demo, tmp_path):
        demo.go_to(RUN)
        demo.close_yard()
        assert demo.stack.current_view() is demo.welcome
        assert demo.settings.recent_yards == [tmp_path / "Demo.yard"]
        demo.open_yard(demo.settings.recent_yards[0])
        assert demo.rail.current == "yard"

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


def test_new_open_and_import_ask_for_files(qtbot, window, tmp_path, monkeypatch):
    """The system's own file dialogs cannot be driven; what they answer is given here."""
    sensitivities = {
        "getSaveFileName": (str(tmp_path / "Fresh"), ""),
        "getOpenFileName": (str(tmp_path / "Fresh.yard"), ""),
        "getOpenFileNames": ([str(tmp_path / "none.csv")], ""),
    }
    for name, answer in sensitivities.items():
        monkeypatch.setattr(f"PySide6.QtWidgets.QFileDialog.{name}", lambda *_, a=answer: a)
    window.actions_by_name["New yard…"].trigger()
    assert window.bench.session.path == tmp_path / "Fresh.yard"
    assert window.settings.last_folder == tmp_path
    window.close_yard()
    window.actions_by_name["Open a yard…"].trigger()
    qtbot.waitUntil(lambda: window.bench is not None, timeout=20_000)
    assert window.bench.session.yard.info().name == "Fresh"
    window.actions_by_name["Import a meter's log…"].trigger()
    qtbot.waitUntil(lambda: "none.csv does not exist" in window.notice.text, timeout=60_000)
    window.actions_by_name["New yard…"].trigger()
    assert window.notice.text == "Fresh.yard is already there; choose another name"
