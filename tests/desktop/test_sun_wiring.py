"""Before panels are connected: the array check in the window, and the dialogs it asks with."""

from dataclasses import replace

import pytest
from conftest_helpers import FENNEL
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.sun.array_check import Connect
from yardtoll.desktop.dialogs.panels import ArrayDialog
from yardtoll.desktop.dialogs.site import SiteDialog
from yardtoll.desktop.views.sun.view import WIRING
from yardtoll.review.sun.wiring import measured_words, wiring_page
from yardtoll.store.records import Accessory, Receiving, Site, SolarArray

ARRAY = SolarArray(
    id=1, name="Pair", series=2, module_w=200, voc_v=24.2, vmp_v=20.1, isc_a=10.6, imp_a=9.95
)
SITE = Site(latitude=43.0, longitude=-88.0, coldest_c=-30, hottest_c=38)


def claims(*volts, amps=None, watts=None, lowest=12.0):
    made = [Claim(kind="solar_v_max", value=v, source=f"source {v:g}") for v in volts]
    made += [Claim(kind="solar_v_min", value=lowest, source="manual")]
    for kind, value in (("solar_a", amps), ("solar_w", watts)):
        if value is not None:
            made.append(Claim(kind=kind, value=value, source="manual"))
    return made


def texts(widget):
    return " ".join(found.text() for found in widget.findChildren(QLabel))


class TestWiring:
    def test_the_safer_of_two_claims_decides_and_both_are_drawn(self):
        page = wiring_page([ARRAY], claims(150, 50), SITE)
        # By hand: 2 × 24.2 × (1 + 0.0029 × 55) = 56.1 V on the record's morning.
        assert page.verdict is Connect.NEVER
        assert page.headline == "Never connect it: 56.1 V in the cold is over 50 V (source 50)"
        assert [(c.limits.highest_v, c.decides) for c in page.checks] == [(50, True), (150, False)]
        assert page.checks[1].check.connect is Connect.OK
        assert page.facts[0][1].startswith("The claims disagree: 50 V by the source 50, 150 V")
        assert page.voc_v[0] == pytest.approx(56.12, abs=0.01) and page.air_c[0] == -30

    def test_over_panelled_is_allowed_and_explained(self):
        page = wiring_page([ARRAY], claims(60, amps=10, watts=300), SITE)
        assert page.verdict is Connect.OVER_PANELLED
        said = " ".join(text for _, text in page.facts)
        assert "10.6 A of 10 A: the input takes no more" in said
        assert "400 W of 300 W: over-panelled, which is allowed" in said

    def test_too_low_in_the_heat(self):
        page = wiring_page([ARRAY], claims(150, lowest=60), SITE)
        assert page.verdict is Connect.TOO_LOW and page.headline.startswith("It would not start")

    def test_what_is_not_known_is_said(self):
        assert "is not claimed" in wiring_page([ARRAY], [], SITE).headline
        bare = wiring_page([ARRAY], claims(60), Site())
        assert any("record low is not noted; -20 °C is assumed" in text for _, text in bare.facts)
        assert "No panels yet" in wiring_page([], claims(60), SITE).headline
        swapped = replace(ARRAY, vmp_v=30.0)
        assert "swapped" in wiring_page([swapped], claims(60), SITE).headline

    def test_mixed_strings_are_pointed_at(self):
        short = replace(ARRAY, id=2, name="Single", series=1)
        (sign, said) = wiring_page([ARRAY, short], claims(60), SITE).facts[-2]
        assert sign == "!" and "20.1 V against 40.2 V, 50 % apart" in said
        same = replace(ARRAY, id=2, name="Other pair", vmp_v=20.5)
        assert wiring_page([ARRAY, same], claims(60), SITE).facts[-2][0] == "·"

    @pytest.mark.parametrize(
        ("accessories", "said"),
        [
            ((Accessory(name="Solar adapter"),), "is on hand"),
            ((Accessory(name="Solar adapter", present=False),), "was missing"),
            ((), "is not noted"),
        ],
    )
    def test_the_adapter(self, accessories, said):
        receiving = Receiving(station_id=1, accessories=accessories)
        assert said in wiring_page([ARRAY], claims(60), SITE, receiving).facts[-1][1]

    def test_a_measured_voltage_tells_how_many_are_in_series(self):
        page = wiring_page([ARRAY], claims(60), SITE)
        words, wrong = measured_words(page, 48.0, 25)
        assert not wrong and words.startswith(
            "48.4 V are expected of 2 in series at 25 °C: 48 V fit"
        )
        words, wrong = measured_words(page, 24.0, 25)
        assert wrong and "24 V look like 1 panel in series" in words
        words, wrong = measured_words(page, 36.0, 25)
        assert wrong and "fit no whole number" in words
        words, wrong = measured_words(page, 72.0, 25)
        assert wrong and "look like 3 panels in series" in words
        # A hot panel gives less: by hand 2 × 24.2 × (1 − 0.0029 × 40) = 42.8 V.
        assert measured_words(page, 42.8, 65)[1] is False
        assert measured_words(page, 42.8, 300)[1] is True

    def test_typing_it_in_the_window(self, sun):
        assert sun.shown == WIRING and sun.headline.text().startswith("It may be connected")
        panel = sun.wiring
        panel.measured_v.setValue(19.5)
        assert "look like 1 panel" in panel.said.text() and panel.said.property("role") == "bad"
        panel.measured_v.setValue(39.0)
        assert "fit. Check the polarity" in panel.said.text()
        assert "these plugs are not switches" in texts(panel)
        before = panel.window_of_volts.answer
        QTest.keyClick(panel.window_of_volts, Qt.Key.Key_Right)
        assert before.startswith("at -29 °C: 45.3 V") and panel.window_of_volts.answer != before

    def test_another_array_of_the_bench(self, demo, sun):
        demo.bench.session.choose_station(FENNEL)
        sun.first_array.setCurrentIndex(1)
        sun.arrays_chosen()
        assert sun.headline.text() == "Never connect it: 78.4 V in the cold is over 60 V (label)"
        assert "Take a panel out of the series" in texts(sun.wiring)


class TestDialogs:
    def test_panels_from_the_tables(self, qtbot, demo, monkeypatch):
        from yardtoll.desktop.dialogs.module_table import ModuleTableDialog

        dialog = ModuleTableDialog(demo)
        qtbot.addWidget(dialog)
        qtbot.waitUntil(lambda: dialog.list.count() > 0, timeout=30_000)
        dialog.words.setText("no module has these words")
        assert dialog.list.count() == 0 and "0 found" in dialog.said.text()
        dialog.words.setText("200w")
        assert dialog.list.count() > 0
        dialog.list.setCurrentRow(0)
        dialog.use_row()
        chosen = dialog.chosen
        assert round(chosen.power_w) == 200 and chosen.vmp_v < chosen.voc_v

        array = ArrayDialog(None, set(), demo)
        qtbot.addWidget(array)
        monkeypatch.setattr(ModuleTableDialog, "exec", lambda _: True)
        monkeypatch.setattr(ModuleTableDialog, "chosen", chosen, raising=False)
        monkeypatch.setattr(
            ModuleTableDialog, "__init__", lambda self, parent=None: setattr(self, "chosen", chosen)
        )
        array.choose_from_table()
        made = array.record()
        assert made.voc_v == pytest.approx(chosen.voc_v, abs=0.01)
        assert made.beta_voc == pytest.approx(chosen.beta_voc, abs=5e-5)
        assert array.wrong() == ""

    def test_the_site_keeps_records_and_an_obstacle(self, qtbot):
        dialog = SiteDialog(SITE)
        qtbot.addWidget(dialog)
        dialog.coldest.setText("40")
        assert "swapped" in dialog.wrong()
        dialog.coldest.setText("−25,5")
        for box, value in zip(dialog.obstacle, (60, 120, 35), strict=True):
            box.setValue(value)
        assert dialog.wrong() == ""
        kept = dialog.record()
        assert kept.coldest_c == -25.5 and kept.obstacle_height_deg == 35
