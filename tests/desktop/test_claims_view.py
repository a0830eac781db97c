"""Claims in the real window: pasted, added, contradicted, received."""

import re
from dataclasses import replace

import pytest
from conftest_helpers import by_name, in_dialog
from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QPushButton

from yardtoll.desktop.actions.files import import_stations_into
from yardtoll.desktop.dialogs.claims import ClaimDialog, PasteDialog
from yardtoll.desktop.dialogs.receiving import ReceivingDialog
from yardtoll.desktop.views.stop import CLAIMS
from yardtoll.store.records import Receiving, Station


def words(view):
    return [found.text() for found in view.findChildren(QLabel)]


def stored(view):
    return view.bench.session.yard.claims(view.bench.session.station.id)


def paste(view, text, untick=()):
    def fill(dialog):
        assert dialog.focusWidget() is dialog.text
        dialog.text.setPlainText(text)
        for row in range(dialog.table.rowCount()):
            if dialog.table.item(row, 1).text() in untick:
                dialog.table.item(row, 0).setCheckState(Qt.CheckState.Unchecked)
        fill.said = dialog.said.text()
        dialog.accept_button.click()
        fill.wrong = dialog.wrong_label.text()

    in_dialog(fill, PasteDialog)
    by_name(view, "Paste a text…").click()
    return fill


def test_the_ratings_of_a_new_station_are_its_first_claims(claims):
    assert [(c.kind, c.value, c.source) for c in stored(claims)] == [
        ("rated_wh", 1000, "label"), ("continuous_w", 1200, "label"),
    ]  # fmt: skip
    assert claims.headline.text() == "2 claims for Clover 1k; nothing contradicts"
    claims.bench.session.undo()  # one step for all of it
    assert claims.bench.session.station is None


def test_each_tick_says_what_it_keeps_to_those_who_hear_it(qtbot):
    dialog = PasteDialog(1, [])
    qtbot.addWidget(dialog)
    dialog.show()
    dialog.text.setPlainText("Capacity: 1000 Wh")
    found = QAccessible.queryAccessibleInterface(dialog.table)
    names = [found.child(i).text(QAccessible.Text.Name) for i in range(found.childCount())]
    assert "Keep Rated energy 1000 Wh" in names


def test_a_pasted_listing_is_confirmed_and_contradictions_are_explained(claims):
    told = paste(
        claims,
        "Capacity: 1100 Wh\nSolar input: 12–60 V, 10 A\nWall + solar: 700 W\nAC charging: 500 W\n"
        "Weight: 25 lb\nColour: blue 5 kg lighter",
        untick=("Weight",),
    )
    assert "Not understood" not in told.said or "Colour" in told.said
    kinds = [c.kind for c in stored(claims)]
    assert kinds[2:] == [
        "rated_wh", "solar_v_min", "solar_v_max", "solar_a", "combined_in_w", "recharge_w",
    ]  # fmt: skip
    said = " ".join(words(claims))
    assert "label says 1000 Wh, listing says 1100 Wh" in said
    claims.bench.session.undo()
    assert len(stored(claims)) == 2


def test_a_rating_without_a_source_gets_that_of_the_listing(claims):
    session = claims.bench.session
    for rating in stored(claims):
        session.put_without_undo(replace(rating, source="", note="Looked at twice"))
    paste(claims, "Capacity: 1000 Wh\nAC output 1100 W continuous")
    told = [(c.kind, c.value, c.source) for c in stored(claims)]
    assert told == [
        ("rated_wh", 1000, "listing"),
        ("continuous_w", 1200, ""),
        ("continuous_w", 1100, "listing"),
    ]
    assert stored(claims)[0].note == "Looked at twice"
    session.undo()
    assert [(c.value, c.source) for c in stored(claims)] == [(1000, ""), (1200, "")]


def test_nothing_doubtful_is_ticked_and_nothing_impossible_is_kept(claims):
    def fill(dialog):
        dialog.text.setPlainText("Surge: 500 W\nContinuous: 2000 W")
        ticks = [dialog.table.item(r, 0).checkState() for r in range(dialog.table.rowCount())]
        fill.ticks = [t is Qt.CheckState.Checked for t in ticks]
        dialog.accept_button.click()
        fill.first = dialog.wrong_label.text()
        for row in range(dialog.table.rowCount()):
            dialog.table.item(row, 0).setCheckState(Qt.CheckState.Checked)
        dialog.accept_button.click()
        fill.second = dialog.wrong_label.text()
        dialog.text.clear()
        dialog.accept_button.click()
        fill.third = dialog.wrong_label.text()

    in_dialog(fill, PasteDialog)
    by_name(claims, "Paste a text…").click()
    assert fill.ticks == [False, False]
    assert fill.first == "Tick at least one claim, or cancel."
    assert fill.second.startswith("The surge power is below the continuous power")
    assert fill.third == "No claim was read yet: paste a text first."
    assert len(stored(claims)) == 2


def test_a_claim_by_hand_is_checked_kept_edited_and_removed(claims):
    def add(dialog):
        dialog.kind.setCurrentIndex(dialog.kind.findData("solar_v_max"))
        dialog.accept_button.click()
        assert dialog.wrong_label.text() == "Solar input volts, highest is 0 V; it must be above 0."
        dialog.value.setValue(60)
        QTest.keyClicks(dialog.condition, "at 25 °C")
        dialog.source.setCurrentText("manual")
        dialog.accept_button.click()

    def reversed_window(dialog):
        dialog.kind.setCurrentIndex(dialog.kind.findData("solar_v_min"))
        dialog.value.setValue(90)
        dialog.source.setCurrentText("manual")
        dialog.accept_button.click()
        reversed_window.said = dialog.wrong_label.text()

    in_dialog(add, ClaimDialog)
    by_name(claims, "Add a claim…").click()
    kept = stored(claims)[-1]
    assert (kept.kind, kept.value, kept.condition) == ("solar_v_max", 60, "at 25 °C")
    in_dialog(reversed_window, ClaimDialog)
    by_name(claims, "Add a claim…").click()
    assert "wrong way round" in reversed_window.said

    def edit(dialog):
        dialog.value.setValue(58)
        dialog.accept_button.click()

    in_dialog(edit, ClaimDialog)
    name = "Solar input volts, highest: 60 V (at 25 °C), manual"
    by_name(claims, name).click()
    assert stored(claims)[-1].value == 58
    in_dialog(lambda dialog: dialog.remove_button(), ClaimDialog)
    by_name(claims, name.replace("60", "58")).click()
    assert len(stored(claims)) == 2


def test_runs_can_be_held_against_another_sources_rating(claims):
    paste(claims, "Capacity: 1100 Wh")
    by_name(claims, "Hold runs against 1100 Wh").click()
    station = claims.bench.session.station
    assert (station.rated_wh, station.source) == (1100, "listing")
    assert any("runs are compared with this" in b.text() for b in claims.findChildren(QPushButton))
    assert claims.bench.session.yard.get(Station, station.id).rated_w == 1200


def test_receiving_flags_what_is_missing(claims):
    def fill(dialog):
        dialog.price.setValue(500)
        dialog.weight.setValue(11.5)
        for row in range(dialog.accessories.count()):
            if dialog.accessories.item(row).text() == "Solar adapter":
                dialog.accessories.item(row).setCheckState(Qt.CheckState.Unchecked)
        dialog.more.setFocus()
        QTest.keyClicks(dialog.more, "Carry bag")
        QTest.keyClick(dialog.more, Qt.Key.Key_Return)
        dialog.lift.setCurrentIndex(dialog.lift.findData("one hand"))
        dialog.accept_button.click()

    paste(claims, "Weight: 11 kg")
    in_dialog(fill, ReceivingDialog)
    by_name(claims, "As received…").click()
    said = words(claims)
    assert any(
        w.startswith("Missing: Solar adapter, needed for Recharge from the sun") for w in said
    )
    assert any("paid 500" in w and "+4.5% against the claim" in w for w in said)
    kept = claims.bench.session.yard.receiving(claims.bench.session.station.id)
    assert [a.name for a in kept.accessories][-1] == "Carry bag" and kept.lift == "one hand"


@pytest.mark.parametrize(
    ("text", "price", "said"),
    [
        # Common practice, no source.
        ("Capacity: 1512 Wh\nAC output: 2000 W\nSolar input: 800 W", 1299,
         "0.86 a rated Wh, three-way index 1.04"),
        ("Capacity: 1280 Wh", 1100, "0.86 a rated Wh"),
        ("Capacity: 299.5 Wh\nCells: 83.2 Ah at 3.6 V", 0,
         "83.2 Ah × 3.6 V = 299.5 Wh, which fits"),
        ("Capacity: 288 Wh\nCells: 5S, 3.2 V each, 18 Ah", 0,
         "5 × 3.2 V × 18 Ah = 288.0 Wh, which fits"),
    ],
)  # fmt: skip
def test_sums_that_every_reviewer_does(claims, text, price, said):
    session = claims.bench.session
    rated_wh = float(re.search(r"([\d.]+) Wh", text)[1])
    station = session.add(Station(name="Other", rated_wh=rated_wh, rated_w=500), "Add a station")
    session.choose_station(station.id)
    paste(claims, text)
    if price:
        session.add(Receiving(station_id=station.id, price=price), "Receiving")
    assert any(said in words_ for words_ in words(claims)), words(claims)


def test_what_a_window_and_an_inverter_leave_by_the_makers_figures(claims):
    session = claims.bench.session
    station = session.add(Station(name="Other", rated_wh=1700, rated_w=500), "Add a station")
    session.choose_station(station.id)
    for kind, value in (("window_percent", 90), ("inverter_percent", 88)):

        def fill(dialog, kind=kind, value=value):
            dialog.kind.setCurrentIndex(dialog.kind.findData(kind))
            dialog.value.setValue(value)
            dialog.accept_button.click()
            assert not dialog.wrong_label.isVisible(), dialog.wrong_label.text()

        in_dialog(fill, ClaimDialog)
        by_name(claims, "Add a claim…").click()
    # Common practice, no source.
    said = "1700 Wh × 90 % × 88 % = 1346 Wh at the outlet"
    assert any(said in found for found in words(claims)), words(claims)


def test_stations_go_out_and_come_in(qtbot, window, claims, tmp_path, monkeypatch):
    library = tmp_path / "stations.json"

    def bring_in():
        import_stations_into(window, library)
        qtbot.waitUntil(lambda: not window.jobs.busy, timeout=60_000)

    monkeypatch.setattr(
        "PySide6.QtWidgets.QFileDialog.getSaveFileName", lambda *_, **__: (str(library), "")
    )
    window.actions_by_name["Export the stations…"].trigger()
    assert window.notice.text == "1 station written to stations.json, claims included."
    bring_in()
    assert window.notice.text == "0 stations came from stations.json; left as here already: 1."
    window.new_yard(tmp_path / "Other")
    bring_in()
    yard = window.bench.session.yard
    assert [s.name for s in yard.stations()] == ["Clover 1k"] and len(yard.claims(1)) == 2
    window.actions_by_name["Undo"].trigger()
    assert yard.stations() == []
    library.write_text("{broken")
    bring_in()
    assert window.notice.text.endswith("Nothing was imported.")


def test_the_demo_shows_its_contradiction_and_ports(demo):
    demo.bench.session.choose_station(1)
    demo.go_to(CLAIMS)
    view = demo.stack.current_view()
    assert "2 contradictions, 1 of them limits what may be connected" in view.headline.text()
    assert any("Connect nothing beyond 60 V" in text for text in words(view))
    assert "4 AC 120 V · 16.7 A tested" in view.ports.accessibleDescription()


def test_enter_in_a_source_of_ones_own_keeps_the_claim(qtbot, claims):
    before = len(stored(claims))

    def fill(dialog):
        dialog.kind.setCurrentIndex(dialog.kind.findData("solar_v_max"))
        dialog.value.setValue(60)
        line = dialog.source.lineEdit()
        line.selectAll()
        QTest.keyClicks(line, "a talk at the fair")
        QTest.keyClick(line, Qt.Key.Key_Return)
        if dialog.isVisible():
            dialog.reject()

    in_dialog(fill, ClaimDialog)
    by_name(claims, "Add a claim…").click()
    kept = stored(claims)
    assert len(kept) == before + 1 and kept[-1].source == "a talk at the fair"
