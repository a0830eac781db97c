"""Every dialog gives back what it was given, unless it was changed; plans and facts in words."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from PySide6.QtCore import Qt
from tests.records import STATION

from yardtoll.core.planning.loads import LoadSetting, MixPart
from yardtoll.desktop.app import make_app
from yardtoll.desktop.dialogs.claims import ClaimDialog
from yardtoll.desktop.dialogs.gear import (
    CircuitDialog,
    CordDialog,
    LoadDialog,
    MeterDialog,
    settings_text,
)
from yardtoll.desktop.dialogs.panels import ArrayDialog
from yardtoll.desktop.dialogs.receiving import USUAL, ReceivingDialog
from yardtoll.desktop.dialogs.site import SiteDialog
from yardtoll.desktop.views.yard.model import load_facts, wiring_rows, yard_page
from yardtoll.running.plan import RunPlan, plan_for_load
from yardtoll.store.records import (
    SIMULATED,
    Accessory,
    Conditions,
    Load,
    Meter,
    Receiving,
    Run,
    RunState,
    Site,
    SolarArray,
    StoredCircuit,
    StoredClaim,
    StoredCord,
)
from yardtoll.store.site_time import system_zone_name
from yardtoll.store.yard_file import YardFile

LOAD = Load(
    id=4, name="Heater", kind="inductive", count=3,
    settings=(LoadSetting(name="low", watts=411.3, measured=True),
              LoadSetting(name="high", watts=805.0)),
    range_low_w=50, range_high_w=150, range_step_w=5, inrush=3.5, power_factor=0.8,
    warm_up_s=90, cold_share=0.12,
)  # fmt: skip
METER = Meter(
    id=2, name="Bench", profile="polled_meter", address="TCPIP::127.0.0.1::5025::SOCKET",
    reading_share=0.005, floor_w=0.2, own_draw_w=1.5, max_w=1800, max_a=15, max_minutes=30,
    place="wall",
)  # fmt: skip


@pytest.fixture(autouse=True)
def _app(qtbot):
    make_app()


class TestRoundTrips:
    @pytest.mark.parametrize(
        ("dialog", "record"),
        [
            (LoadDialog, LOAD),
            (MeterDialog, METER),
            (MeterDialog, replace(METER, address="", max_w=None, max_a=None, max_minutes=None)),
            (MeterDialog, replace(METER, common_share=0.8, step_wh=0.1, phase_deg=0.3,
                                  volts_share=0.005, volts_floor_v=0.1, hertz_floor_hz=0.02)),
            (CircuitDialog, StoredCircuit(id=1, name="Shed", breaker_a=20, volts=230)),
            (CordDialog, StoredCord(id=1, name="Blue", length_m=7.5, gauge="16 AWG", rated_a=13)),
            (CordDialog, StoredCord(id=1, name="Blue", length_m=7.5, gauge="2.5 mm²")),
            (ArrayDialog, SolarArray(id=3, name="Roof", series=2, parallel=2, module_w=200,
                                     voc_v=24.2, vmp_v=20.1, isc_a=10.6, imp_a=9.95)),
        ],
    )  # fmt: skip
    def test_what_is_not_changed_comes_back(self, dialog, record):
        made = dialog(record, set())
        assert made.wrong() == "" and made.record() == record

    def test_a_simulated_meter_stays_one(self):
        record = replace(METER, address=SIMULATED, profile="buffered_meter")
        assert MeterDialog(record, set()).record() == record

    def test_the_site_with_and_without_figures(self):
        site = Site(
            latitude=-33.9,
            longitude=18.4,
            altitude_m=40,
            horizon_deg=5,
            price_per_kwh=0.2,
            currency="EUR",
            temperature_c=21,
            lift_scale="me; two",
            time_zone="Africa/Johannesburg",
            sensor_share=0.03,
        )
        assert SiteDialog(site).record() == site
        # Where none is noted the computer's is offered.
        assert SiteDialog(Site()).record() == replace(Site(), time_zone=system_zone_name())
        dialog = SiteDialog(site)
        dialog.price.setText("cheap")
        assert dialog.wrong() == "The price must be a figure from 0 to 1e+06, or empty."
        dialog.price.setText("")
        dialog.zone.setText("Nowhere/Land")
        assert dialog.wrong() == "“Nowhere/Land” is not a time zone, such as Europe/Lisbon."

    def test_receiving(self):
        record = Receiving(
            id=1, station_id=1, received_on="2026-10-02", price=1149.5, currency="USD",
            soc_percent=31, weight_kg=23.4, lift="two hands", conditioned=True, firmware="2.1",
            accessories=(Accessory(name="Bag", present=False),), note="scratched",
        )  # fmt: skip
        assert ReceivingDialog(record, Site()).record() == record
        odd = replace(record, lift="a crane")
        assert ReceivingDialog(odd, Site()).record().lift == "a crane"

    def test_a_first_receiving_lists_what_methods_need(self):
        dialog = ReceivingDialog(Receiving(station_id=1), Site(currency="EUR"))
        assert [a.name for a in dialog.record().accessories] == list(USUAL)
        assert dialog.record().currency == "EUR" and dialog.record().price is None

    @pytest.mark.parametrize(
        "claim",
        [
            StoredClaim(id=1, station_id=1, kind="rated_wh", value=2048, source="label", note="n"),
            StoredClaim(id=1, station_id=1, kind="ups", value=0.0, source="my own source"),
            StoredClaim(id=1, station_id=1, kind="chemistry", value=None, words="LFP"),
            StoredClaim(id=1, station_id=1, kind="use_c_min", value=-10, condition="UPS mode",
                        text="as printed"),
        ],
    )  # fmt: skip
    def test_claims_of_every_sort(self, claim):
        assert ClaimDialog(claim, 1, [claim]).record() == claim


class TestLoads:
    def test_a_changed_setting_is_no_longer_measured(self):
        dialog = LoadDialog(LOAD, set())
        dialog.settings.setPlainText("low 400\nhigh 805")
        assert [s.measured for s in dialog.record().settings] == [False, False]

    def test_settings_as_text(self):
        assert settings_text(LOAD.settings) == "low 411.3 W\nhigh 805 W"

    def test_facts_in_one_line(self):
        assert load_facts(LOAD) == "3 × low 411.3 W · high 805 W · 50–150 W"
        lamp = Load(name="Lamp", settings=(LoadSetting(name="on", watts=60),))
        assert load_facts(lamp) == "60 W"


class TestPlans:
    def test_part_words(self):
        words = [
            MixPart(name="Lamp", setting=setting, count=count, watts=60.0).words
            for setting, count in (("on", 1), ("on", 4), ("dim", 2), ("", 1))
        ]
        assert words == ["Lamp", "4 × Lamp", "2 × Lamp, dim", "Lamp"]

    def test_a_plan_becomes_a_run_with_all_it_was_made_of(self, tmp_path):
        with YardFile.create(tmp_path / "a.yard", "A") as yard:
            station, load = yard.put(replace(STATION, id=None)), yard.put(replace(LOAD, id=None))
            meter = yard.put(replace(METER, id=None))
            plan = plan_for_load(
                station, meter, load, setting=1, count=2, conditions=Conditions(cord="Thin")
            )
            assert plan.load_w == 1610 and plan.about.key == "capacity_ac"
            run = plan.as_run(yard, RunState.PLANNED, "2026-01-01T10:00:00+00:00")
            assert (run.state, run.origin, run.target_w) == ("planned", "live", 1610)
            assert (run.load_id, run.own_draw_w) == (load.id, 1.5)
            part = MixPart(name="Heater", setting="high", count=2, watts=805.0)
            assert run.conditions == Conditions(
                load="2 × Heater, high", size="fixed", cord="Thin", loads=(part,)
            )
            by_eye = RunPlan(
                station=station, meter=replace(meter, address=""), method="recharge_wall",
                size="as_set", target_w=500, soc=(0.0, 100.0),
                parts=(MixPart(name="a", setting="", count=1, watts=1),
                       MixPart(name="b", setting="", count=1, watts=1)),
            ).as_run(yard, RunState.RUNNING, "2026-01-01T10:00:00+00:00")  # fmt: skip
            assert (by_eye.origin, by_eye.load_id, by_eye.target_w) == ("typed", None, 2)


class TestYardPage:
    NOW = datetime(2026, 5, 14, 12, tzinfo=UTC)

    def test_planned_runs_stand_on_the_timetable(self):
        run = Run(
            id=1, station_id=1, number=1, method="hold", state="planned", origin="live",
            started_at=self.NOW.isoformat(), conditions=Conditions(expected_s=1800),
        )  # fmt: skip
        page = yard_page([STATION], [run], [], (), self.NOW)
        assert page.headline == "no run yet of 1 station; 1 planned"
        (lane,) = page.lanes
        assert lane.subtitle == "1000 Wh · no run yet"
        assert lane.runs[0].caption == "Continuous hold"
        assert lane.runs[0].end - lane.runs[0].start == timedelta(minutes=30)
        assert page.until == lane.runs[0].end and "planned" in lane.runs[0].tip

    def test_wiring_and_site_as_rows(self, tmp_path):
        with YardFile.create(tmp_path / "a.yard", "A") as yard:
            assert [row[1] for row in wiring_rows(yard)] == ["place, price, temperature"]
            yard.put(StoredCircuit(name="Shed", breaker_a=15, volts=120))
            yard.put(StoredCord(name="Blue", length_m=5, gauge="14 AWG"))
            yard.put(SolarArray(name="R", series=2, module_w=200, voc_v=1, vmp_v=1, isc_a=1,
                                imp_a=1))  # fmt: skip
            yard.put(Site(latitude=1.5, longitude=2.5, price_per_kwh=0.2, temperature_c=20))
            assert [row[1] for row in wiring_rows(yard)] == [
                "circuit · 15 A 120 V", "cord · 5 m 14 AWG", "array · 2 × 1 × 200 W",
                "1.5°, 2.5° · 0.2 a kWh · 20 °C",
            ]  # fmt: skip


def test_the_accessory_list_is_edited_in_place():
    record = Receiving(station_id=1, accessories=(Accessory(name="Bag", present=False),))
    dialog = ReceivingDialog(record, Site())
    dialog.accessories.item(0).setCheckState(Qt.CheckState.Checked)
    dialog.more.setText("Cable")
    assert dialog.record().accessories == (
        Accessory(name="Bag"), Accessory(name="Cable"),
    )  # fmt: skip
