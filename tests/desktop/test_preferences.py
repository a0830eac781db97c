"""Preferences: kept, in force at once, and used where they belong."""

import wave
from dataclasses import replace
from datetime import date, datetime, time, timedelta

import pytest
from conftest_helpers import at_rest, in_dialog
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from yardtoll.core.region import INTERNATIONAL
from yardtoll.desktop.actions.earlier_day import EarlierDayDialog
from yardtoll.desktop.actions.preferences import ask_preferences, use_preferences
from yardtoll.desktop.dialogs.preferences import PAGES, PreferencesDialog
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.views.stop import LEDGER, PLAN, RUN, VERDICTS, YARD
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.workbench import bell
from yardtoll.desktop.workbench.bell import Bell, write_alarm
from yardtoll.desktop.workbench.preferences import Preferences
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.store.backups import backup_folder
from yardtoll.store.shown_region import show_for
from yardtoll.store.yard_file import YardFile


@pytest.fixture(autouse=True)
def afterwards():
    yield
    show_for(INTERNATIONAL)
    if QApplication.instance() is not None:
        theme.apply("day")


def test_every_preference_is_kept_between_starts(tmp_path):
    chosen = Preferences(
        region="us", clock="24", currency="CHF", decimal_sign=",", colours="contrast",
        text_percent=150, sounds=False, notices=False, quiet_from="22:00", quiet_until="07:00",
        rule="simple", repeatability=0.012, yards_folder=str(tmp_path), backup_days=7,
    )  # fmt: skip
    UserSettings(tmp_path / "s.ini").preferences = chosen
    assert UserSettings(tmp_path / "s.ini").preferences == chosen


def test_preferences_spoilt_by_hand_fall_back(tmp_path):
    (tmp_path / "s.ini").write_text(
        "[General]\ntext_percent=9000\nbackup_days=-4\nsounds=perhaps\nrepeatability=often\n"
    )
    found = UserSettings(tmp_path / "s.ini").preferences
    assert (found.text_percent, found.backup_days) == (200, 0)
    assert found.repeatability == Preferences().repeatability


def test_the_dialog_gives_back_what_it_was_given(qtbot):
    given = Preferences(
        region="europe", clock="12", quiet_from="21:30", quiet_until="06:15", text_percent=125
    )
    dialog = PreferencesDialog(given, INTERNATIONAL)
    qtbot.addWidget(dialog)
    assert dialog.preferences() == given
    for row in range(len(PAGES)):
        dialog.pages.setCurrentRow(row)
    dialog.is_quiet.setChecked(False)
    assert dialog.preferences().quiet_from == ""


def test_region_with_a_clock_and_currency_of_ones_own():
    region = Preferences(region="us", clock="24", currency="CAD").shown_region(INTERNATIONAL)
    assert region.fahrenheit and not region.twelve_hours and region.currency == "CAD"
    assert Preferences().shown_region(INTERNATIONAL) == INTERNATIONAL


@pytest.mark.parametrize(
    ("at", "quiet"), [("23:00", True), ("06:59", True), ("07:00", False), ("12:00", False)]
)
def test_quiet_hours_go_over_midnight(at, quiet):
    prefers = Preferences(quiet_from="22:00", quiet_until="07:00")
    assert prefers.is_quiet(time.fromisoformat(at)) is quiet


def test_text_grows_by_a_key_and_every_stop_is_made_anew(demo):
    demo.go_to(LEDGER)
    before = demo.stack.current_view().fontMetrics().height()
    for _ in range(3):
        demo.actions_by_name["Larger text"].trigger()
    assert demo.settings.preferences.text_percent == 150
    assert demo.rail.current == LEDGER
    assert demo.stack.current_view().fontMetrics().height() > 1.3 * before
    demo.actions_by_name["Usual text size"].trigger()
    assert demo.settings.preferences.text_percent == 100


def test_preferences_are_asked_for_and_used(qtbot, demo):
    def choose(dialog: PreferencesDialog) -> None:
        dialog.colours.setCurrentIndex(dialog.colours.findData("contrast"))
        dialog.days.setValue(3)
        dialog.accept()

    in_dialog(choose, PreferencesDialog)
    ask_preferences(demo, "look")
    qtbot.waitUntil(lambda: not theme.is_changing)
    assert theme.tokens.name == "contrast"
    assert demo.settings.preferences.backup_days == 3


def test_a_new_yard_begins_with_the_preferred_rule(window, tmp_path):
    wanted = replace(window.settings.preferences, rule="simple", repeatability=0.02)
    use_preferences(window, wanted)
    window.new_yard(tmp_path / "mine.yard")
    info = window.bench.session.yard.info()
    assert (info.rule, info.repeatability) == ("simple", 0.02)
    window.go_to(VERDICTS)
    assert window.stack.current_view().rule_choice.currentText().startswith("Simple")


class Player:
    """Notes what would be heard and shown."""

    def __init__(self, monkeypatch):
        self.heard, self.shown = 0, []
        monkeypatch.setattr(bell, "play_alarm", self.play)
        monkeypatch.setattr(bell, "_show_note", self.shown.append)

    def play(self):
        self.heard += 1


def test_an_alarm_calls_once_and_not_in_quiet_hours(window, monkeypatch):
    player = Player(monkeypatch)
    monkeypatch.setattr(window, "isActiveWindow", lambda: False, raising=False)
    monkeypatch.setattr(bell, "now", lambda: datetime(2026, 5, 1, 23, 30))
    calls = Bell(window, window.settings)
    for text, is_bad in (("all quiet", False), ("the meter is silent", True)):
        calls.watch(text, is_bad=is_bad)
    calls.watch("the meter is silent", is_bad=True)
    assert player.heard == 1
    calls.watch("all quiet", is_bad=False)
    window.settings.preferences = replace(
        window.settings.preferences, quiet_from="22:00", quiet_until="07:00"
    )
    calls.watch("the meter is silent", is_bad=True)
    assert player.heard == 1


def test_the_alarm_is_a_sound_file_others_can_play(tmp_path):
    write_alarm(tmp_path / "alarm.wav")
    with wave.open(str(tmp_path / "alarm.wav")) as file:
        assert file.getframerate() == 22_050
        assert 0.5 < file.getnframes() / file.getframerate() < 1.0
        assert max(file.readframes(2000)) > 0


def test_an_earlier_day_opens_beside_the_yard(qtbot, demo):
    yard = demo.bench.session.yard
    path, names = yard.path, [s.name for s in yard.stations()]
    folder = backup_folder(path)
    folder.mkdir(exist_ok=True)
    on = date.today() - timedelta(days=2)
    yard.copy_to(folder / f"{path.stem} {on.isoformat()}.yard")
    session = demo.bench.session
    session.edit(replace(session.station, name="Renamed since"), "Name")

    def choose(dialog: EarlierDayDialog) -> None:
        dialog.days.setCurrentRow(dialog.days.count() - 1)
        dialog.accept()

    in_dialog(choose, EarlierDayDialog)
    demo.actions_by_name["Go back to an earlier day…"].trigger()
    qtbot.waitUntil(lambda: demo.bench.session.path != path, timeout=30_000)
    assert not list(path.parent.glob("*.partly"))
    opened = demo.bench.session.yard
    assert opened.path.name == f"{path.stem} as of {on.isoformat()}.yard"
    assert [s.name for s in opened.stations()] == names
    kept = YardFile.open(path)
    assert "Renamed since" in [s.name for s in kept.stations()]
    kept.close()


def test_without_a_copy_it_is_said(window, tmp_path):
    # A yard made today: the demo's may have been made before midnight, and has a copy then.
    window.new_yard(tmp_path / "Fresh")
    window.actions_by_name["Go back to an earlier day…"].trigger()
    assert "no copy of an earlier day yet" in window.notice.text


def test_recent_yards_open_from_the_menu_and_can_be_forgotten(qtbot, demo, tmp_path):
    first = demo.bench.session.path
    demo.new_yard(tmp_path / "Second & last.yard")
    menu: QMenu = demo.recent
    menu.aboutToShow.emit()
    texts = [action.text() for action in menu.actions()]
    assert "Second && last" in texts[0] and first.stem in texts[1]
    menu.actions()[1].trigger()
    qtbot.waitUntil(lambda: demo.bench.session.path == first, timeout=20_000)
    next(a for a in menu.actions() if a.text() == "Forget these").trigger()
    menu.aboutToShow.emit()
    assert [a.text() for a in menu.actions()] == ["None yet"]


def test_the_finder_finds_records_and_ranks_by_use(qtbot, demo):
    finder = demo.finder
    demo.open_finder()
    QTest.keyClicks(finder.line, "sorrel run")
    assert finder.found() and all(text.startswith("Sorrel 300, run") for text in finder.found())
    finder.line.setText("Sorrel 300: ")
    assert any("rating" in text.lower() or "energy" in text.lower() for text in finder.found())
    finder.line.setText("preferences alarms")
    assert finder.found() == ["Preferences: alarms"]
    finder.line.setText("colours")
    assert finder.found()[0] != "Night colours"
    finder.line.setText("night colours")
    QTest.keyClick(finder.line, Qt.Key.Key_Return)
    QApplication.processEvents()
    demo.open_finder()
    assert finder.found()[0] == "Night colours"
    finder.line.setText("colours")
    assert finder.found()[0] == "Night colours"
    finder.hide()


def test_stops_that_were_hidden_have_the_colours_of_the_day_when_they_are_seen(qtbot, demo):
    """A change of colours leaves what is hidden alone; nobody may see that."""
    stops = [stop for stop in STOPS if stop not in (PLAN, RUN, YARD)]  # they show the time of day

    def pictures(window):
        made = {}
        for stop in stops:
            window.go_to(stop)
            at_rest(qtbot, window)
            made[stop] = window.stack.grab().toImage()
        return made

    as_day = pictures(demo)
    demo.go_to(RUN)
    for colours in ("night", "contrast", "night"):
        theme.apply(colours)
    as_night = pictures(demo)
    assert not any(as_day[stop] == as_night[stop] for stop in stops)
    demo.show_anew()
    anew = pictures(demo)
    assert [stop for stop in stops if as_night[stop] != anew[stop]] == []
