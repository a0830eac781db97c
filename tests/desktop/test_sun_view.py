"""The Sun stop: wiring, the coming days and solar runs, driven as a reviewer drives them."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from conftest_helpers import in_dialog, worked_out
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QLabel, QPushButton

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.sun.array_check import Connect
from yardtoll.core.sun.limits import Limit
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.dialogs.panels import ArrayDialog
from yardtoll.desktop.dialogs.site import SiteDialog
from yardtoll.desktop.irradiance_file import beside
from yardtoll.desktop.stops import PLAN, SUN
from yardtoll.desktop.views.sun.days_page import parse_hours
from yardtoll.desktop.views.sun.run_model import solar_page, tracker_words
from yardtoll.desktop.views.sun.view import DAYS, RUNS, WIRING
from yardtoll.desktop.views.sun.wiring_model import measured_words, wiring_page
from yardtoll.review.analysis import analyse_run
from yardtoll.review.sheet import build_sheet
from yardtoll.review.solar_figures import lost_to_the_other
from yardtoll.review.together import inputs_beside, together
from yardtoll.store.errors import LogError
from yardtoll.store.logs.irradiance import MOST_KEPT, read_irradiance
from yardtoll.store.records import Reading, ReadingKind, Receiving, Run, Site, SolarArray, Station

FENNEL, TANSY, SORREL = 1, 2, 3
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


@pytest.fixture
def sun(qtbot, demo):
    worked_out(qtbot, demo)
    demo.bench.session.choose_station(TANSY)
    demo.go_to(SUN)
    return demo.stack.currentWidget()


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
            ([{"name": "Solar adapter", "present": True}], "is on hand"),
            ([{"name": "Solar adapter", "present": False}], "was missing"),
            ([], "is not noted"),
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
        assert sun.shown == WIRING and sun._headline.text().startswith("It may be connected")
        panel = sun.wiring
        panel.measured_v.setValue(19.5)
        assert "look like 1 panel" in panel.said.text() and panel.said.property("role") == "bad"
        panel.measured_v.setValue(39.0)
        assert "fit. Check the polarity" in panel.said.text()
        assert "these plugs are not switches" in texts(panel)
        before = panel.window_of_volts.answer
        QTest.keyClick(panel.window_of_volts, Qt.Key.Key_Right)
        assert before.startswith("at -29 °C: 45.3 V") and panel.window_of_volts.answer != before
        assert not panel.window_of_volts.grab().isNull()

    def test_another_array_of_the_bench(self, demo, sun):
        demo.bench.session.choose_station(FENNEL)
        sun._first.setCurrentIndex(1)
        sun._arrays_chosen()
        assert sun._headline.text() == "Never connect it: 78.4 V in the cold is over 60 V (label)"
        assert "Take a panel out of the series" in texts(sun.wiring)


class TestDays:
    def test_a_week_is_worked_out_and_a_day_chosen(self, qtbot, demo, sun):
        sun.choose_page(DAYS)
        qtbot.waitUntil(lambda: sun.days.outlook is not None, timeout=20_000)
        outlook = sun.days.outlook
        assert len(outlook.days) == 7 and outlook.days[0].day == datetime.now().astimezone().date()
        assert f"{outlook.days[0].clear.expected_wh:.0f} Wh" in sun._headline.text()
        assert all(day.clear.peak_w <= 300 for day in outlook.days)  # the claimed input's cap
        QTest.keyClick(sun.days.week, Qt.Key.Key_Down)
        assert sun.days.chosen == 1 and sun.days._sum.text().endswith(" Wh")
        lane = sun.days.week.height() / 7
        at = QPoint(60, int(sun.days.week.height() - lane / 2))
        QTest.mouseClick(sun.days.week, Qt.MouseButton.LeftButton, pos=at)
        assert sun.days.chosen == 6
        assert f"{outlook.days[6].day:%-d %B}" in sun.days._day.text()
        assert not sun.days.week.grab().isNull()

    def test_the_panels_turned_at_other_hours(self, qtbot, sun):
        sun.choose_page(DAYS)
        qtbot.waitUntil(lambda: sun.days.outlook is not None, timeout=20_000)
        first = sun.days.outlook
        assert first.turned.gain_wh > 0 and "Wh against" in sun.days.turn_words.text()
        noon = first.turn_hours[1]
        sun.days.hours.setText(f"{noon}")
        sun.days._hours_changed()
        qtbot.waitUntil(
            lambda: sun.days.outlook is not None and sun.days.outlook.turn_hours == (noon,),
            timeout=20_000,
        )
        sun.days.hours.setText("at dawn")
        sun.days._hours_changed()
        assert "whole numbers" in sun.days.turn_words.text()

    def test_hours_as_typed(self):
        assert parse_hours("9, 12 15;9") == (9, 12, 15) and parse_hours("") == ()
        assert parse_hours("25") is None and parse_hours("9.5") is None
        assert parse_hours("1 2 3 4 5 6 7 8 9") is None

    def test_without_a_place_it_asks_where(self, demo, sun):
        yard = demo.bench.session.yard
        yard.put(replace(yard.site(), latitude=None))
        sun.choose_page(DAYS)
        assert sun._headline.text() == "Where does the bench stand?"
        shown = [b.text() for b in sun._empty_buttons.values() if b.isVisibleTo(demo)]
        assert shown == ["Say where the bench stands…"]

    def test_planning_from_here_checks_the_panels(self, qtbot, demo, sun):
        sun.choose_page(DAYS)
        sun.days.plan_asked.emit()
        plan = demo.stack.currentWidget()
        assert plan.form.chosen_method.key == "recharge_sun"
        gates = {gate.key: gate for gate in plan.page().gates}
        assert "45.3 V at most" in gates["panels"].text and not gates["panels"].stops
        assert gates["open circuit"].stops and gates["open circuit"].by_hand
        demo.bench.session.choose_station(FENNEL)
        demo.go_to(PLAN)
        plan.choose_method("recharge_sun")
        plan.form.panels.setCurrentIndex(1)
        gate = {gate.key: gate for gate in plan.page().gates}["panels"]
        assert gate.stops and gate.hard and "never connect it: 78.4 V" in gate.text


class TestSolarRun:
    def test_the_run_its_reasons_and_its_figures(self, demo, sun):
        sun.choose_page(RUNS)
        assert "the battery was nearly full" in sun._headline.text()
        panel = sun.solar
        shares = dict(panel.page.shares)
        assert shares[Limit.CAP] > 0.15 and shares[Limit.SHADE] > 0.01 and shares[Limit.FULL] > 0.2
        words = panel.words.text()
        assert "Shade: " in words and "95 % back in " in words and "clouds passed" in words
        assert "inside the claimed 12–50 V" in words
        figures = dict(panel.page.figures)
        run = panel.chart._run  # the sun of the day: figures differ with the season
        assert figures["Harvested"].startswith(f"{run.harvest_wh:.0f} ± ")
        assert figures["Expected"] == f"{run.expected_wh:.0f} Wh"
        assert "Station's cap" in figures and "Of the nameplate, at 1000 W/m²" in figures
        assert panel.chart.answer.count(" · ") == 2
        panel.chart.set_marker((run.recoveries[0].start_s + 120) / run.duration_s)
        assert panel.chart.answer.endswith("shade")
        assert not panel.chart.grab().isNull()

    def test_every_figure_with_an_uncertainty_opens_its_budget(self, sun):
        sun.choose_page(RUNS)
        said = []

        def read(dialog):
            said.extend(label.text() for label in dialog.findChildren(QLabel))
            dialog.accept()

        for name, shown in sun.solar.page.figures:
            if name not in sun.solar.page.budgets:
                assert name == "Expected"
                continue
            made = next(b for b in sun.solar.findChildren(QPushButton) if b.text() == shown)
            in_dialog(read, BudgetDialog)
            made.click()
            assert f"{name}: {shown}" in said
        assert "Meter gain" in said

    def test_the_cost_of_a_slow_tracker(self, sun):
        sun.choose_page(RUNS)
        before = sun.solar.tracker_words.text()
        sun.solar.broken_days.setValue(200)
        assert sun.solar.tracker_words.text() != before
        # By hand: 100 W lost along an exponential of 10 s, 36 times, is 10 Wh a day.
        assert tracker_words(-10 * np.log(0.05), 100.0, 36, 50).startswith(
            "10.0 Wh on such a day, 0.50 kWh a year"
        )

    def test_two_inputs_at_once_and_what_the_sun_lost(self, qtbot, demo, sun):
        demo.bench.session.choose_station(SORREL)
        sun.choose_page(RUNS)
        assert (
            sun._headline.text()
            == "100 % of what the sun allowed: nothing but the sun held it back"
        )
        words = sun.solar.words.text()
        assert "Together with run 3" in words and "capped at 150 W" in words
        assert "run 3 (Recharge from the wall) yields; the sun lost nothing" in words
        assert not sun.solar._tracker.isVisibleTo(demo)  # this one follows at once
        found = together(demo.bench.analyses.all_of(demo.bench.session.station_runs()))
        solar = next(a for a in found.analyses if a.solar is not None)
        (pair,) = inputs_beside(solar, found)
        # The same sun on a station that gives way to the wall: half of it is lost.
        mine, wall = pair.pair.powers_w
        powers = np.array([mine / 2, np.where(mine > 0, 150 - mine / 2, wall)])
        half = replace(pair, pair=replace(pair.pair, powers_w=powers))
        lost = lost_to_the_other(solar, half)
        assert lost == pytest.approx(solar.solar.run.harvest_wh / 2, rel=0.15)

    def test_which_panels_fed_it_is_an_edit_that_undo_takes_back(self, qtbot, demo, sun):
        sun.choose_page(RUNS)
        before = sun.solar.page
        sun._first.setCurrentIndex(2)  # the small panel: 100 W
        sun._arrays_chosen()
        worked_out(qtbot, demo)
        assert demo.bench.session.yard.get(Run, sun._run_id).conditions["arrays"] == [3]
        assert "Small folding panel, 100 W" in sun.solar.subtitle.text()
        demo.bench.session.undo_stack.undo()
        worked_out(qtbot, demo)
        assert sun.solar.page.figures == before.figures

    def test_the_sheet_tells_of_it(self, demo, sun):
        yard = demo.bench.session.yard
        sheet = build_sheet(yard, yard.get(Station, TANSY))
        at = [name for name, _, _ in sheet.results].index("Taken of what the sun allowed")
        _, figure, how = sheet.results[at]
        run = sun.bench.analyses.of(yard.runs(TANSY)[-1]).solar.run
        assert figure.startswith(f"{100 * run.performance:.1f} ± ") and figure.endswith(" %")
        assert how.startswith(f"{run.harvest_wh:.0f} Wh in run 4, Folding pair")
        assert "irradiance measured" in how and "Meter gain" in [
            line.name for line in sheet.budgets[f"result:{at}"].lines
        ]
        (claim,) = [c for c in sheet.claims if c.title == "Solar input power"]
        assert claim.word == "falls short" and "sustained over 5 minutes" in claim.sentence

    def test_how_the_sensor_lay(self, qtbot, demo, sun):
        sun.choose_page(RUNS)
        before = dict(sun.solar.page.figures)["Expected"]
        assert sun._plane.isVisibleTo(demo)
        sun._plane.setCurrentIndex(1)
        sun._plane_chosen()
        worked_out(qtbot, demo)
        assert dict(sun.solar.page.figures)["Expected"] != before
        demo.bench.session.undo_stack.undo()
        worked_out(qtbot, demo)
        assert dict(sun.solar.page.figures)["Expected"] == before

    def test_stations_without_solar_runs(self, demo, sun):
        demo.bench.session.choose_station(FENNEL)
        sun.choose_page(RUNS)
        assert sun._headline.text() == "No solar run yet"
        asked = []
        sun.plan_asked.connect(lambda: asked.append("plan"))
        sun._empty_buttons["plan"].click()
        assert asked == ["plan"]

    def test_without_a_sensor_and_without_a_site(self, demo, sun):
        yard = demo.bench.session.yard
        run = next(r for r in yard.runs(TANSY) if r.method == "recharge_sun")
        bare = replace(run, conditions={**run.conditions, "arrays": [99]})
        trace = yard.trace(run.id)
        found = analyse_run(yard, bare)
        assert found.solar.arrays[0].id == 1  # one that is not there gives way to the first
        yard.put(replace(yard.site(), latitude=None))
        by_sensor = analyse_run(yard, run)
        assert by_sensor.solar.run.performance > 0.5 and "Where does the bench" in (
            by_sensor.solar.missing
        )
        page = solar_page(by_sensor, together([by_sensor]), [])
        assert "Where does the bench stand?" in page.subtitle and page.days[0][4] == "–"
        assert trace is not None

    def test_typed_irradiance_stands_for_a_sensor(self, demo, sun, tmp_path):
        yard = demo.bench.session.yard
        run = next(r for r in yard.runs(TANSY) if r.method == "recharge_sun")
        trace = yard.trace(run.id)
        light = trace.columns.popitem()[1]  # the logger's column, taken out
        new = yard.keep_run(replace(run, id=None, number=9), trace)
        assert analyse_run(yard, new).solar.light == "clear sky"
        for at in range(0, int(trace.time_s[-1]), 1800):
            value = float(light[at])
            yard.put(
                Reading(run_id=new.id, time_s=at, kind=ReadingKind.IRRADIANCE.value, value=value)
            )
        found = analyse_run(yard, new)
        assert found.solar.light == "typed"
        by_sensor = analyse_run(yard, run).solar.run.expected_wh
        assert found.solar.run.expected_wh == pytest.approx(by_sensor, rel=0.1)


class TestIrradianceLog:
    RUN = Run(
        id=1, station_id=1, number=1, method="recharge_sun", state="finished", origin="import",
        started_at="2026-05-20T10:00:00+00:00", ended_at="2026-05-20T14:00:00+00:00",
        meter_id=None, soc_from=0, soc_to=100,
    )  # fmt: skip

    def write(self, tmp_path, head, rows):
        path = tmp_path / "pyranometer.csv"
        path.write_text("\n".join([head, *rows]))
        return path

    def test_a_logger_with_dates_and_kilowatts(self, tmp_path):
        start = datetime(2026, 5, 20, 9, 30, tzinfo=UTC)
        rows = [
            f"{start + timedelta(minutes=i):%Y-%m-%dT%H:%M:%SZ},{0.5 + i / 1000}" for i in range(60)
        ]
        log = read_irradiance(self.write(tmp_path, "time,G (kW/m2)", rows))
        assert log.kilo and log.w_m2[0] == pytest.approx(500)
        kept = beside(self.RUN, log)
        assert kept["name"] == "pyranometer.csv" and isinstance(kept["time_s"], str)

    def test_headless_figures_and_elapsed_time(self, tmp_path):
        rows = [f"{i * 10},{400 + i % 7}" for i in range(50)]
        log = read_irradiance(self.write(tmp_path, "seconds,value", rows))
        assert log.basis is None and log.w_m2.size == 50

    def test_a_long_log_is_thinned(self, tmp_path):
        rows = [f"{i},{500 + (i % 10)}" for i in range(12_000)]
        log = read_irradiance(self.write(tmp_path, "t [s],irradiance", rows))
        assert log.w_m2.size == MOST_KEPT and log.w_m2.mean() == pytest.approx(504.5, abs=0.1)

    def test_what_does_not_fit_is_refused_in_a_sentence(self, tmp_path):
        with pytest.raises(LogError, match="none of the columns .* is one of irradiance"):
            read_irradiance(self.write(tmp_path, "t [s],power (W)", ["0,1", "1,2", "2,3"]))
        with pytest.raises(LogError, match="no sky gives more"):
            read_irradiance(self.write(tmp_path, "t [s],ghi", ["0,100", "1,50000", "2,3"]))
        with pytest.raises(LogError, match="fewer than two"):
            read_irradiance(self.write(tmp_path, "time,ghi", ["2026-05-20T09:30:00Z,100"]))
        rows = [f"2026-06-01T0{i}:00:00Z,{i}00" for i in range(1, 6)]
        late = read_irradiance(self.write(tmp_path, "time,ghi", rows))
        with pytest.raises(LogError, match="do not overlap: the run began"):
            beside(self.RUN, late)

    def test_laid_beside_a_run_in_the_window(self, qtbot, demo, sun, tmp_path, monkeypatch):
        sun.choose_page(RUNS)
        run = demo.bench.session.yard.get(Run, sun._run_id)
        start = datetime.fromisoformat(run.started_at)
        rows = [f"{(start + timedelta(minutes=i)).isoformat()},300" for i in range(300)]
        path = self.write(tmp_path, "time,irradiance", rows)
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
        before = sun.solar.page.figures
        sun._irradiance.click()
        qtbot.waitUntil(lambda: not demo.jobs.busy, timeout=20_000)
        worked_out(qtbot, demo)
        assert sun.solar.page.figures != before
        assert "lies beside run 4" in demo.notice.text
        demo.bench.session.undo_stack.undo()
        worked_out(qtbot, demo)
        assert sun.solar.page.figures == before

    def test_a_damaged_one_is_left_aside(self, demo, sun):
        yard = demo.bench.session.yard
        run = next(r for r in yard.runs(TANSY) if r.method == "recharge_sun")
        for kept in ("no such thing", {"time_s": "??", "w_m2": "??"}, {"time_s": 3}):
            spoilt = replace(run, conditions={**run.conditions, "irradiance": kept})
            assert analyse_run(yard, spoilt).solar.light == "sensor"


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
        dialog._take()
        chosen = dialog.chosen
        assert round(chosen.power_w) == 200 and chosen.vmp_v < chosen.voc_v

        array = ArrayDialog(None, set(), demo)
        qtbot.addWidget(array)
        monkeypatch.setattr(ModuleTableDialog, "exec", lambda _: True)
        monkeypatch.setattr(ModuleTableDialog, "chosen", chosen, raising=False)
        monkeypatch.setattr(
            ModuleTableDialog, "__init__", lambda self, parent=None: setattr(self, "chosen", chosen)
        )
        array._from_table()
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
