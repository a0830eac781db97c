"""What a run cannot be trusted for, how it ended and how a claim is read: said by the reviewer,
kept, and taken back by undo.
"""

import numpy as np
import pytest
from conftest_helpers import drop, in_dialog, worked_out
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.desktop.dialogs.claims import ClaimDialog
from yardtoll.desktop.dialogs.explain import ExplainDialog
from yardtoll.desktop.dialogs.import_log import ImportDialog
from yardtoll.desktop.dialogs.noted_run import NotedRunDialog
from yardtoll.desktop.dialogs.records import RunDialog
from yardtoll.desktop.views.stop import LEDGER, SHEET, VERDICTS
from yardtoll.review.sheet.build import build_sheet
from yardtoll.store.records import Run, Station

TANSY = 2


def a_log(tmp_path, watts=330.0, wh=1180.0):
    """A log of a whole discharge of the demo's middle station, with one wild sample."""
    t = np.arange(0, wh / watts * 3600 + 600, 10.0)
    p = np.where((t > 60) & (t < wh / watts * 3600), watts + np.arange(t.size) % 3 / 10, 0.0)
    p[100] = 9000
    path = tmp_path / "odd.csv"
    path.write_text(
        "time (s),Power (W)\n" + "\n".join(f"{a:g},{b:g}" for a, b in zip(t, p, strict=True))
    )
    return path


@pytest.fixture
def odd(qtbot, demo, tmp_path):
    """The Ledger at an imported run that cannot be trusted yet."""
    demo.bench.session.choose_station(TANSY)

    def accept(dialog):
        qtbot.waitUntil(lambda: dialog.preview is not None, timeout=60_000)
        dialog.station.setCurrentIndex(dialog.station.findText("Tansy 1200"))
        dialog.meter.setCurrentIndex(dialog.meter.findText("Bench meter ±(0.5 % + 0.2 W)"))
        dialog.ended_by.setCurrentIndex(dialog.ended_by.findData(EndedBy.BATTERY.value))
        dialog.accept_button.click()

    in_dialog(accept, ImportDialog)
    drop(demo, a_log(tmp_path))
    qtbot.waitUntil(lambda: "is kept as run" in demo.notice.text, timeout=60_000)
    worked_out(qtbot, demo)
    demo.go_to(LEDGER)
    return demo.stack.current_view()


def newest(demo):
    return max(demo.bench.session.yard.runs(TANSY), key=lambda run: run.id)


def pass_row(qtbot, demo, number):
    """The row of the yardstick that this run is in."""
    demo.go_to(VERDICTS)
    view = demo.stack.current_view()
    view.choose_page(by_yardstick=True)
    worked_out(qtbot, demo)
    return next(row for row in view.page.rows if f"Run {number} " in row.row.title)


def test_a_doubt_is_told_explained_and_taken_back(qtbot, demo, odd):
    run = newest(demo)
    assert run.ended_by == "battery"
    assert odd.explain_button.isVisibleTo(demo)
    banner = " ".join(text.text() for text in odd.findChildren(QLabel))
    assert "1 wild sample of up to 9000 W left out" in banner
    row = pass_row(qtbot, demo, run.number)
    assert row.row.word == "cannot be judged"
    assert "ingle wild samples were left out: explain it, or test again" in row.sentence

    def explain(dialog):
        (field,) = dialog.fields.values()
        QTest.keyClicks(field, "x")
        dialog.accept_button.click()
        assert dialog.wrong_label.text().startswith("Say in a few words")
        field.setText("the heat gun's switch bounced")
        dialog.accept_button.click()

    demo.open_run(run.id)
    in_dialog(explain, ExplainDialog)
    odd.explain_button.click()
    worked_out(qtbot, demo)
    assert demo.bench.session.yard.get(Run, run.id).explained == {
        "spike": "the heat gun's switch bounced"
    }
    banner = " ".join(text.text() for text in odd.findChildren(QLabel))
    assert "because the heat gun's switch bounced" in banner
    assert pass_row(qtbot, demo, run.number).row.word == "meets"
    sheet = build_sheet(demo.bench.session.yard, demo.bench.session.yard.get(Station, TANSY))
    assert "the heat gun's switch bounced" in str(sheet)
    demo.actions_by_name["Undo"].trigger()
    worked_out(qtbot, demo)
    assert demo.bench.session.yard.get(Run, run.id).explained == {}
    assert pass_row(qtbot, demo, run.number).row.word == "cannot be judged"


def test_undo_takes_an_imported_run_back_and_leaves_the_station(qtbot, demo, odd):
    run = newest(demo)
    demo.actions_by_name["Undo"].trigger()
    worked_out(qtbot, demo)
    yard = demo.bench.session.yard
    assert run.id not in [kept.id for kept in yard.runs(TANSY)]
    assert "Tansy 1200" in [station.name for station in yard.stations()]
    demo.actions_by_name["Redo"].trigger()
    worked_out(qtbot, demo)
    assert run.id in [kept.id for kept in yard.runs(TANSY)]


def test_undo_takes_a_typed_run_back(qtbot, demo):
    yard = demo.bench.session.yard
    before = {run.id for run in yard.runs()}

    def fill(dialog):
        dialog.text.setPlainText("10:32 0 Wh\n14:50 1.046 kWh")
        dialog.accept_button.click()

    in_dialog(fill, NotedRunDialog)
    demo.actions_by_name["Add a run from notes…"].trigger()
    worked_out(qtbot, demo)
    assert len(yard.runs()) == len(before) + 1
    demo.actions_by_name["Undo"].trigger()
    worked_out(qtbot, demo)
    assert {run.id for run in yard.runs()} == before and len(yard.stations()) == 3


def test_a_recharge_is_edited_and_what_ended_a_discharge_is_said(qtbot, demo):
    yard = demo.bench.session.yard
    demo.bench.session.choose_station(TANSY)
    recharge = next(run for run in yard.runs(TANSY) if run.method == "recharge_wall")
    demo.open_run(recharge.id)
    view = demo.stack.current_view()

    def from_three(dialog):
        dialog.soc_from.setValue(100)
        dialog.soc_to.setValue(3)
        dialog.accept_button.click()
        assert "rise" in dialog.wrong_label.text()
        dialog.soc_from.setValue(3)
        dialog.soc_to.setValue(100)
        dialog.accept_button.click()

    in_dialog(from_three, RunDialog)
    view.edit_button.click()
    worked_out(qtbot, demo)
    assert yard.get(Run, recharge.id).soc_from == 3

    discharge = next(run for run in yard.runs(TANSY) if run.method == "capacity_ac")
    demo.open_run(discharge.id)

    def by_hand(dialog):
        dialog.ended_by.setCurrentIndex(dialog.ended_by.findData(EndedBy.HAND.value))
        dialog.accept_button.click()

    in_dialog(by_hand, RunDialog)
    view.edit_button.click()
    worked_out(qtbot, demo)
    assert yard.get(Run, discharge.id).ended_by == "hand"
    demo.actions_by_name["Undo"].trigger()
    assert yard.get(Run, discharge.id).ended_by == ""


def test_how_a_claim_is_read_is_shown_changed_and_named_on_the_sheet(qtbot, demo):
    demo.bench.session.choose_station(1)
    demo.go_to(VERDICTS)
    view = demo.stack.current_view()
    at = next(i for i, r in enumerate(view.page.rows) if r.row.title == "Wall charging power")
    view.rails.choose(at)
    assert view.chosen.row.word == "meets"
    assert "nominal, −5 % / +10 %" in view.chosen.sentence

    def at_least(dialog):
        dialog.limit.setCurrentIndex(dialog.limit.findData("at_least"))
        dialog.minus.setValue(0)
        dialog.plus.setValue(0)
        dialog.accept_button.click()

    in_dialog(at_least, ClaimDialog)
    QTest.keyClick(view.rails, Qt.Key.Key_R)
    worked_out(qtbot, demo)
    row = next(r for r in view.page.rows if r.row.title == "Wall charging power")
    assert row.row.word == "too close to call" and "as read here" in row.sentence
    sheet = build_sheet(demo.bench.session.yard, demo.bench.session.station)
    (claim,) = [c for c in sheet.claims if c.title == "Wall charging power"]
    assert "as read here" in claim.sentence
    demo.actions_by_name["Undo"].trigger()
    worked_out(qtbot, demo)
    row = next(r for r in view.page.rows if r.row.title == "Wall charging power")
    assert row.row.word == "meets"


def test_times_on_the_sheet_are_the_sites(demo):
    demo.bench.session.choose_station(TANSY)
    demo.go_to(SHEET)
    sheet = build_sheet(demo.bench.session.yard, demo.bench.session.station)
    assert dict(sheet.method)["Times"] == "of the site, America/Chicago"
