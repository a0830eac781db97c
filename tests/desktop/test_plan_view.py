"""Planning in the real window: mixes, checks, overriding, plans kept, what a run teaches."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from conftest_helpers import by_name, in_dialog, loads_found, pass_checks, worked_out
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel
from tests.records import METER, STATION

from yardtoll.core.methods import METHODS
from yardtoll.core.methods.cautions import LOCAL_FIRST
from yardtoll.core.planning.loads import LoadSetting, Mix, MixPart
from yardtoll.desktop.dialogs.gear import CircuitDialog, CordDialog, LoadDialog, parse_settings
from yardtoll.desktop.dialogs.panels import ArrayDialog
from yardtoll.desktop.dialogs.site import SiteDialog
from yardtoll.desktop.views.plan.model import (
    Choices,
    Surroundings,
    input_w,
    plan_page,
    run_plan,
    target_w,
)
from yardtoll.desktop.views.stop import LEDGER, PLAN, YARD
from yardtoll.review.learned_watts import learned_from
from yardtoll.store.records import (
    Accessory,
    Load,
    Receiving,
    Site,
    SolarArray,
)
from yardtoll.store.site_time import now as now_here

HEATER = Load(
    id=1, name="Heater", settings=(LoadSetting(name="low", watts=200.0),),
    cold_share=0.1,
)  # fmt: skip
MIX = Mix(
    parts=(MixPart(name="Heater", setting="low", count=1, watts=200.0),), total_w=200.0, off_w=0.0
)
NOW = datetime(2026, 5, 14, 10, tzinfo=UTC)


def choices(method="capacity_ac", size=None, **changes):
    about = METHODS[method]
    given = {"station": STATION, "meter": METER, "mix": MIX, "soc": about.soc, **changes}
    return Choices(method=about, size=about.size(size or ""), **given)


def page(method="capacity_ac", size=None, around=None, **changes):
    return plan_page(choices(method, size, **changes), around or Surroundings(loads=(HEATER,)), NOW)


class TestModel:
    def test_hours_back_recharge_and_money(self):
        site = Site(price_per_kwh=0.2, currency="EUR")
        found = page(around=Surroundings(loads=(HEATER,), site=site))
        assert found.headline.startswith("About 4 h 2") and "be back at 14:" in found.headline
        assert found.basis.startswith("0.20 C · 8")
        assert found.facts[0].startswith("Recharge after it: about 2 h")
        assert found.facts[1] == "1.10 kWh from the wall, 0.22 EUR"

    def test_a_moment_to_come_moves_every_time_that_is_said(self):
        around = Surroundings(loads=(HEATER,))
        later = page(around=around, starts_at=NOW + timedelta(days=1, hours=12))
        assert " from Fri 15 May 22:00 – be back at Sat 02:" in later.headline
        # By hand: at least 825 Wh at 200 W are 4 h 7 min.
        assert page(around=around).headline.endswith("be back at 14:07")
        assert "settled by Sat 0" in later.facts[0]

    @pytest.mark.parametrize(
        ("method", "size", "watts"),
        [("capacity_ac", "0.2c", 200), ("capacity_ac", "rated", 800), ("overload", "150", 1200),
         ("hold", "15min", 800), ("capacity_ac", "fixed", 321), ("idle_ac", None, None)],
    )  # fmt: skip
    def test_targets(self, method, size, watts):
        assert target_w(choices(method, size, asked_w=321.0)) == watts

    def test_sources_of_a_recharge(self):
        array = SolarArray(name="A", series=2, module_w=100, voc_v=24, vmp_v=20, isc_a=5, imp_a=5)
        around = Surroundings(arrays=(array,))
        powers = {m: input_w(choices(m), around) for m in METHODS if m.startswith("recharge")}
        assert powers == {
            "recharge_wall": 500, "recharge_car": 96, "recharge_usb_c": 60, "recharge_sun": 150,
            "recharge_wall_sun": 650,
        }  # fmt: skip

    def test_every_method_can_be_planned(self):
        for method in METHODS:
            found = page(method)
            assert found.expected is not None or method == "recharge_sun"

    def test_a_missing_adapter_stops_the_suns_test_only(self):
        received = Receiving(
            id=1, station_id=1, accessories=(Accessory(name="Solar adapter", present=False),)
        )
        around = Surroundings(loads=(HEATER,), receiving=received)
        assert any("Solar adapter" in g.text for g in page("recharge_sun", around=around).checks)
        assert not any("adapter" in g.text for g in page(around=around).checks)

    def test_a_reason_overrides_what_is_not_hard_and_is_kept(self):
        stopped = page()
        assert stopped.stopped and stopped.can_override and not stopped.can_start
        chosen = choices(reason="  a trial  ")
        found = plan_page(chosen, Surroundings(loads=(HEATER,)), NOW)
        assert found.can_start
        kept = run_plan(chosen, Surroundings(loads=(HEATER,)), found)
        assert kept.conditions.override.reason == "a trial"
        assert "Cautions read?" in kept.conditions.override.checks
        assert (kept.cold_share, kept.load_w) == (pytest.approx(0.1), 200)
        recording = Surroundings(loads=(HEATER,), busy_meters=frozenset({METER.id}))
        busy = page(around=recording, reason="now")
        assert not busy.can_start and not busy.can_override

    def test_what_is_missing_is_said(self):
        said = " ".join(
            g.text for g in page(station=None, meter=None, mix=None, around=Surroundings()).checks
        )
        for words in ("Add the station", "Add a meter", "Add a load"):
            assert words in said


@pytest.fixture
def plan(qtbot, demo):
    demo.bench.session.choose_station(1)
    demo.go_to(PLAN)
    view = demo.stack.current_view()
    loads_found(qtbot, view)
    return view


def choose(qtbot, view, method, size=None):
    view.form.methods.setCurrentIndex(view.form.methods.findData(method))
    if size:
        view.form.sizes.setCurrentIndex(view.form.sizes.findData(size))
    loads_found(qtbot, view)


def test_the_mixer_answers_for_each_school(qtbot, plan):
    assert plan.form.target.text() == "409.6 W"
    assert plan.form.mix.words == "Oil heater, low"
    assert plan.form.mixes.count() == 5
    choose(qtbot, plan, "capacity_ac", "0.1c")
    assert plan.form.target.text() == "204.8 W"
    first = plan.form.mix
    assert abs(first.off_w) < 40
    plan.form.mixes.setCurrentRow(1)
    assert plan.form.mix != first
    choose(qtbot, plan, "hold")
    assert plan.form.mix.total_w <= 1800
    assert "meter: 1800 W" in plan.form.ruled_out.text()


def test_gates_are_opened_one_by_one(plan):
    assert not plan.start_button.isEnabled()
    assert plan.verdict_label.text() == "Not ready: 4 checks open"
    for box in list(plan.checks.boxes.values()):
        QTest.keyClick(box, " ")
    assert plan.verdict_label.text() == "Ready: every check passed"
    assert plan.start_button.isEnabled() and plan.start_button.text() == "Start the run"
    plan.form.settings["floor"].setText("10")
    assert plan.verdict_label.text() == "Not ready: 1 check open"
    plan.form.soc_to.setValue(10)
    assert plan.start_button.isEnabled()


def test_the_meter_is_asked_what_it_reads(qtbot, plan):
    by_name(plan, "Ask the meter what it reads").click()
    qtbot.waitUntil(lambda: plan.meter_read is not None, timeout=60_000)
    assert "zeroed" not in plan.checks.boxes
    assert any("The meter answers and reads 0.00 Wh" in g.text for g in plan.page().checks)
    yard = plan.bench.session.yard
    other = yard.put(replace(yard.meters()[0], id=None, name="Another meter"))
    plan.choose_new(other)
    assert plan.form.meters.currentData() == other
    assert "zeroed" in plan.checks.boxes  # what the first one read says nothing of this one


def test_overriding_needs_a_reason_which_the_run_keeps(qtbot, demo, plan):
    assert not plan.start_button.isEnabled()
    QTest.keyClicks(plan.reason, "only a trial")
    assert plan.start_button.isEnabled() and plan.start_button.text() == "Start anyway"
    plan.start_button.click()
    bench = demo.bench
    qtbot.waitUntil(lambda: bench.live is not None and len(bench.live.samples) > 0, timeout=60_000)
    conditions = bench.live.run.conditions
    assert conditions.override.reason == "only a trial"
    assert conditions.settings["floor"] == "0"
    assert conditions.loads == (MixPart(name="Oil heater", setting="low", count=1, watts=412.0),)
    assert not plan.checks.boxes["charged"].isChecked()  # the next run is confirmed anew


def test_a_recharge_is_planned_and_kept_for_later(qtbot, demo, plan):
    choose(qtbot, plan, "recharge_wall")
    assert plan.headline.text().startswith("About 2 h")
    assert not plan.form.mixes.isVisibleTo(plan)
    plan.keep_button.click()
    yard = demo.bench.session.yard
    planned = [r for r in yard.runs() if r.state == "planned"]
    assert [r.method for r in planned] == ["recharge_wall"]
    demo.go_to(YARD)
    assert "1 planned" in demo.stack.current_view().headline.text()
    demo.open_run(planned[0].id)
    assert demo.stack.current_view() is plan
    assert plan.form.methods.currentData() == "recharge_wall"
    plan.drop_button.click()
    assert all(r.state != "planned" for r in yard.runs())
    demo.actions_by_name["Undo"].trigger()
    assert [r.state for r in yard.runs()].count("planned") == 1


def test_a_plan_for_another_day_stays_there_until_it_is_moved(qtbot, demo, plan):
    form, yard = plan.form, demo.bench.session.yard

    def planned():
        (run,) = [r for r in yard.runs() if r.state == "planned"]
        return datetime.fromisoformat(run.started_at)

    assert form.starts_at() is None and not form.start_at.isVisibleTo(plan)
    form.start.setCurrentIndex(1)
    assert form.start_at.isVisibleTo(plan) and form.starts_at() > datetime.now(UTC)
    at = (now_here() + timedelta(days=2)).replace(second=0, microsecond=0)
    form.start_later(at)
    assert f" from {at:%a %-d %b %H:%M} – be back" in plan.headline.text()
    plan.keep_button.click()
    assert planned() == at and form.starts_at() is None  # the next plan begins anew
    run = next(r for r in yard.runs() if r.state == "planned")
    demo.open_run(run.id)
    assert form.starts_at() == at
    plan.keep_button.click()
    assert planned() == at
    demo.open_run(next(r.id for r in yard.runs() if r.state == "planned"))
    form.start.setCurrentIndex(0)
    plan.keep_button.click()
    assert planned() <= datetime.now(UTC)
    demo.actions_by_name["Undo"].trigger()
    assert planned() == at
    form.start_later(at)
    form.start_at.setDateTime(form.start_at.dateTime().addDays(-3))
    assert form.starts_at() is None  # it has passed: as good as now


def test_a_planned_run_is_started_and_leaves_the_timetable(qtbot, demo, plan):
    plan.keep_button.click()
    yard = demo.bench.session.yard
    (planned,) = [r for r in yard.runs() if r.state == "planned"]
    demo.open_run(planned.id)
    loads_found(qtbot, plan)
    pass_checks(plan)
    plan.start_button.click()
    bench = demo.bench
    qtbot.waitUntil(lambda: bench.live is not None and len(bench.live.samples) > 0, timeout=60_000)
    assert [r.state for r in yard.runs()].count("planned") == 0


def test_a_hold_ends_by_the_clock(qtbot, demo, plan):
    demo.settings.simulated_speed = 600.0
    demo.bench.session.choose_station(3)
    choose(qtbot, plan, "hold", "15min")
    assert plan.form.mix.total_w == pytest.approx(246)
    assert "54 W are missing" in plan.form.ruled_out.text()
    pass_checks(plan)
    plan.start_button.click()
    ended = []
    demo.bench.run_ended.connect(lambda *told: ended.append(told))
    qtbot.waitUntil(lambda: bool(ended), timeout=60_000)
    assert ended[0][1] == "held for 15 min"


def test_a_dc_port_is_discharged_to_its_own_cut_off(qtbot, demo, plan):
    demo.settings.simulated_speed = 3600.0
    demo.bench.session.choose_station(3)
    choose(qtbot, plan, "capacity_dc", "0.2c")
    pass_checks(plan)
    plan.start_button.click()
    ended = []
    demo.bench.run_ended.connect(lambda *told: ended.append(told))
    qtbot.waitUntil(lambda: bool(ended), timeout=60_000)
    assert ended[0][1] == "the outlet switched off"
    run = demo.bench.session.yard.runs()[-1]
    trace = demo.bench.session.yard.trace(run.id)
    volts = trace.columns[next(q for q in trace.columns if q.value == "volts")]
    assert 11 < float(volts.max()) < 13  # three NMC cells in series, not regulated


def test_a_run_teaches_a_load_its_watts(qtbot, demo):
    yard = demo.bench.session.yard
    heater = next(found for found in yard.loads() if found.name == "Oil heater")
    wrong = tuple(replace(s, watts=450.0) if s.name == "low" else s for s in heater.settings)
    demo.bench.session.edit(replace(heater, settings=wrong), "a nameplate")
    worked_out(qtbot, demo)
    run = next(r for r in yard.runs(1) if r.state == "finished" and r.load_id == heater.id)
    demo.open_run(run.id)
    view = demo.stack.current_view()
    assert view.lesson_words.text().startswith("Oil heater, low drew 41")
    view.teach_button.click()
    taught = next(found for found in yard.loads() if found.name == "Oil heater")
    low = taught.settings[0]
    assert low.watts == pytest.approx(411, abs=2) and low.measured
    assert view.lesson.isHidden()
    demo.go_to(LEDGER)
    assert learned_from(yard, demo.bench.analyses.of(run)) is None
    demo.actions_by_name["Undo"].trigger()
    assert not view.lesson.isHidden()


class TestGear:
    def test_settings_are_typed_one_a_line(self):
        found = parse_settings("low 412 W\nhigh: 805\n\n60w")
        assert [(s.name, s.watts) for s in found] == [("low", 412), ("high", 805), ("on", 60)]

    def test_each_kind_of_gear_is_added_and_checked(self, demo):
        yard = demo.bench.session.yard

        def load(dialog):
            QTest.keyClicks(dialog.name, "Kettle")
            dialog.settings.setPlainText("hot")
            dialog.accept_button.click()
            assert dialog.wrong_label.text() == '"hot" should look like "low 412 W".'
            dialog.settings.setPlainText("")
            dialog.accept_button.click()
            assert dialog.wrong_label.text().startswith("Give it at least one setting")
            dialog.high.setValue(1500)
            dialog.low.setValue(500)
            dialog.accept_button.click()

        def circuit(dialog):
            QTest.keyClicks(dialog.name, "Yard post")
            dialog.breaker_a.setValue(20)
            dialog.volts.setValue(120)
            dialog.accept_button.click()

        def cord(dialog):
            QTest.keyClicks(dialog.name, "Blue")
            QTest.keyClicks(dialog.gauge, "thin")
            dialog.accept_button.click()
            assert 'The gauge "thin" should look like' in dialog.wrong_label.text()
            dialog.gauge.setText("1.5 mm²")
            dialog.accept_button.click()

        def array(dialog):
            QTest.keyClicks(dialog.name, "Roof")
            dialog.accept_button.click()
            assert "must be above 0" in dialog.wrong_label.text()
            for box in (dialog.module_w, dialog.voc_v, dialog.vmp_v, dialog.isc_a, dialog.imp_a):
                box.setValue(20)
            dialog.accept_button.click()
            assert "are they swapped?" in dialog.wrong_label.text()
            dialog.vmp_v.setValue(17)
            dialog.accept_button.click()

        def site(dialog):
            dialog.latitude.setText("123")
            dialog.accept_button.click()
            assert dialog.wrong_label.text() == (
                "The latitude must be a figure from -90 to 90, or empty."
            )
            dialog.latitude.setText("−33.9")
            dialog.accept_button.click()

        for fill, kind, action in (
            (load, LoadDialog, "Add a load…"), (circuit, CircuitDialog, "Add a circuit…"),
            (cord, CordDialog, "Add a cord…"), (array, ArrayDialog, "Add an array…"),
            (site, SiteDialog, "The site…"),
        ):  # fmt: skip
            in_dialog(fill, kind)
            demo.actions_by_name[action].trigger()
        assert yard.loads()[-1].spec.range_w == (500, 1500, 10)
        assert yard.circuits()[-1].circuit.limit_w(4) == 1920
        assert yard.cords()[-1].cord.continuous_a == 16
        assert yard.arrays()[-1].name == "Roof" and yard.site().latitude == -33.9
        demo.go_to(YARD)
        rows = demo.stack.current_view().lists["wiring"]
        assert [rows.item(i).text() for i in range(rows.count())][-1] == "The site"


def test_each_caution_is_read_once_and_where_it_is_ticked(qtbot, demo):
    demo.go_to(PLAN)
    view = demo.stack.current_view()

    def lines(place):
        shown = [label.text() for label in place.findChildren(QLabel) if label.isVisible()]
        return [line for text in shown for line in text.split("\n")]

    assert "cautions" in view.checks.boxes
    for caution in (*view.choices().method.cautions, LOCAL_FIRST):
        qtbot.waitUntil(lambda said=caution: lines(view).count(said) == 1)
        assert caution in lines(view.checks)
