"""The region: one choice, seen wherever a temperature, a weight, a time or a number is shown."""

from dataclasses import replace

import pytest
from conftest_helpers import TANSY, worked_out
from PySide6.QtWidgets import QDialog, QLabel

from yardtoll.core.region import INTERNATIONAL, REGIONS
from yardtoll.desktop.actions.preferences import REGION_PAGE, ask_preferences
from yardtoll.desktop.dialogs.claims import ClaimDialog
from yardtoll.desktop.dialogs.preferences import PreferencesDialog
from yardtoll.desktop.dialogs.receiving import ReceivingDialog
from yardtoll.desktop.dialogs.site import SiteDialog
from yardtoll.desktop.views.stop import CLAIMS, LEDGER, PLAN, SHEET
from yardtoll.desktop.widgets.basics import number_box
from yardtoll.report.sheet.render import sheet_html, sheet_text
from yardtoll.review.sheet.build import build_sheet
from yardtoll.store.records import Receiving, Site
from yardtoll.store.shown_region import keep_as_written, show_for


@pytest.fixture(autouse=True)
def afterwards():
    yield
    show_for(INTERNATIONAL)
    keep_as_written(())


@pytest.fixture
def choose(monkeypatch, demo):
    def choose(key):
        def accept(dialog):
            dialog.regions.setCurrentIndex(dialog.regions.findData(key))
            return QDialog.DialogCode.Accepted

        monkeypatch.setattr(PreferencesDialog, "exec", accept)
        ask_preferences(demo, REGION_PAGE)

    return choose


def words_on(window):
    return " | ".join(
        found.text() for found in window.stack.current_view().findChildren(QLabel) if found.text()
    )


def test_the_choice_is_kept_and_seen_at_once(demo, choose):
    demo.go_to(CLAIMS)
    assert " kg" in words_on(demo) and " lb" not in words_on(demo)
    choose("us")
    assert demo.settings.preferences.region == "us"
    assert " lb" in words_on(demo) and " kg" not in words_on(demo)
    demo.go_to(PLAN)
    assert "48 °F is within 32–104 °F." in words_on(demo)
    assert demo.stack.current_view().form.temperature.placeholderText() == "°F"


def test_a_decimal_comma_everywhere_but_in_names(qtbot, demo, choose):
    session = demo.bench.session
    session.edit(replace(session.station, name="Fennel 2.5"), "Name")
    worked_out(qtbot, demo)
    demo.go_to(LEDGER)
    assert "Wh" in words_on(demo)
    choose("europe")
    said = words_on(demo)
    figures = [text for text in said.split(" | ") if "Wh" in text]
    assert any("," in text for text in figures)
    assert not [t for t in figures if any(f"{n}." in t and f"{n}. " not in t for n in range(10))]
    assert "Fennel 2,5" not in said
    sheet = build_sheet(session.yard, session.station)
    for text in (sheet_html(sheet), sheet_text(sheet)):
        assert "Fennel 2.5" in text and "Fennel 2,5" not in text
        assert sheet.facts[0].shown.replace(".", ",") in text
    demo.go_to(SHEET)


@pytest.mark.parametrize(
    ("region", "typed", "kept", "shown"),
    [
        ("us", "77", 25, "77"),
        ("us", "25 °C", 25, "77"),
        ("international", "77 F", 25, "25"),
        ("us", "78", 25.56, "78"),
    ],
)
def test_a_box_takes_either_unit(qtbot, region, typed, kept, shown):
    show_for(REGIONS[region])
    box = number_box("Temperature", "°C", -40, 100, 20)
    qtbot.addWidget(box)
    box.lineEdit().selectAll()
    qtbot.keyClicks(box.lineEdit(), typed)
    box.interpretText()
    box.clearFocus()
    assert box.value() == pytest.approx(kept, abs=0.005 if region == "us" else 0.5)
    assert box.cleanText() == shown


@pytest.mark.parametrize(
    ("region", "typed", "value"),
    [("europe", "1,5", 1.5), ("europe", "1.5", 1.5), ("us", "1,5", 1.5), ("us", "1.5", 1.5)],
)
def test_a_box_takes_either_sign(qtbot, region, typed, value):
    show_for(REGIONS[region])
    box = number_box("Volts", "V", 0, 500, 0, 1)
    qtbot.addWidget(box)
    box.lineEdit().selectAll()
    qtbot.keyClicks(box.lineEdit(), typed)
    box.interpretText()
    assert box.value() == value


def test_the_site_in_fahrenheit(qtbot):
    show_for(REGIONS["us"])
    dialog = SiteDialog(Site(coldest_c=-10, hottest_c=40))
    qtbot.addWidget(dialog)
    assert (dialog.coldest.text(), dialog.hottest.text()) == ("14", "104")
    dialog.temperature.setText("21 C")
    dialog.hottest.setText("113")
    assert dialog.wrong() == ""
    kept = dialog.record()
    assert (kept.coldest_c, kept.temperature_c) == (-10, 21)
    assert kept.hottest_c == pytest.approx(45)
    assert kept.currency == "" and "USD" in dialog.currency.placeholderText()
    dialog.hottest.setText("200")
    assert "from -60 to 70 °C" in dialog.wrong()


def test_pounds_taken_for_kilograms_are_seen(qtbot):
    dialog = ReceivingDialog(Receiving(station_id=TANSY), Site(), claimed_kg=12.0)
    qtbot.addWidget(dialog)
    dialog.show()
    dialog.weight.setValue(26.4)
    assert "11.97 kg meant" in dialog.meant.text() and dialog.meant.isVisible()
    dialog.meant.click()
    assert dialog.record().weight_kg == pytest.approx(11.97, abs=0.01)
    assert not dialog.meant.isVisible()
    dialog.weight.setValue(15)
    assert not dialog.meant.isVisible()


@pytest.mark.parametrize(
    ("region", "typed", "value"),
    [("us", "22", 9.979), ("us", "10 kg", 10), ("europe", "22 lb", 9.979)],
)
def test_a_claim_of_a_weight_in_either_unit(qtbot, region, typed, value):
    show_for(REGIONS[region])
    dialog = ClaimDialog(None, 1, [])
    qtbot.addWidget(dialog)
    dialog.kind.setCurrentIndex(dialog.kind.findData("weight_kg"))
    assert dialog.kind.currentText() == f"Weight ({'lb' if region == 'us' else 'kg'})"
    dialog.value.lineEdit().selectAll()
    qtbot.keyClicks(dialog.value.lineEdit(), typed)
    dialog.value.interpretText()
    assert dialog.record().value == pytest.approx(value, abs=6e-4)
    dialog.kind.setCurrentIndex(dialog.kind.findData("usable_wh"))
    dialog.value.setValue(1234.5)
    assert dialog.record().value == 1234.5 and dialog.value.suffix() == " Wh"
