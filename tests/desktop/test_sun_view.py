"""The Sun stop: the coming days and solar runs, driven as a reviewer drives them."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from conftest_helpers import FENNEL, SORREL, TANSY, opened_by, worked_out
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from runs import shown_of
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.sun.limits import Limit
from yardtoll.desktop.views.stop import PLAN
from yardtoll.desktop.views.sun.days_page import parse_hours
from yardtoll.desktop.views.sun.view import DAYS, RUNS
from yardtoll.review.analysis import analyse_run
from yardtoll.review.kinds.solar.figures import lost_to_the_other
from yardtoll.review.kinds.solar.outcome import sunlight_in
from yardtoll.review.kinds.solar.page import solar_page, tracker_words
from yardtoll.review.sheet.build import build_sheet
from yardtoll.review.station.beside import inputs_beside
from yardtoll.review.station.runs import station_runs
from yardtoll.store.records import Reading, ReadingKind, Run, Station
from yardtoll.store.site_time import now


class TestDays:
    def test_a_week_is_worked_out_and_a_day_chosen(self, qtbot, demo, sun):
        sun.choose_page(DAYS)
        qtbot.waitUntil(lambda: sun.days.outlook is not None, timeout=20_000)
        outlook = sun.days.outlook
        assert len(outlook.days) == 7 and outlook.days[0].day == now().date()
        assert f"{outlook.days[0].clear.expected_wh:.0f} Wh" in sun.headline.text()
        assert all(day.clear.peak_w <= 300 for day in outlook.days)  # the claimed input's cap
        QTest.keyClick(sun.days.week, Qt.Key.Key_Down)
        assert sun.days.chosen == 1 and sun.days.sum_line.text().endswith(" Wh")
        lane = sun.days.week.height() / 7
        at = QPoint(60, int(sun.days.week.height() - lane / 2))
        QTest.mouseClick(sun.days.week, Qt.MouseButton.LeftButton, pos=at)
        assert sun.days.chosen == 6
        assert f"{outlook.days[6].day:%-d %B}" in sun.days.day_line.text()

    def test_the_panels_turned_at_other_hours(self, qtbot, sun):
        sun.choose_page(DAYS)
        qtbot.waitUntil(lambda: sun.days.outlook is not None, timeout=20_000)
        first = sun.days.outlook
        assert first.turned.gain_wh > 0 and "Wh against" in sun.days.turn_words.text()
        noon = first.turn_hours[1]
        sun.days.hours.setText(f"{noon}")
        sun.days.hours_changed()
        qtbot.waitUntil(
            lambda: sun.days.outlook is not None and sun.days.outlook.turn_hours == (noon,),
            timeout=20_000,
        )
        sun.days.hours.setText("at dawn")
        sun.days.hours_changed()
        assert "whole numbers" in sun.days.turn_words.text()

    def test_hours_as_typed(self):
        assert parse_hours("9, 12 15;9") == (9, 12, 15) and parse_hours("") == ()
        assert parse_hours("25") is None and parse_hours("9.5") is None
        assert parse_hours("1 2 3 4 5 6 7 8 9") is None

    def test_without_a_place_it_asks_where(self, demo, sun):
        yard = demo.bench.session.yard
        yard.put(replace(yard.site(), latitude=None))
        sun.choose_page(DAYS)
        assert sun.headline.text() == "Where is the bench?"
        shown = [b.text() for b in sun.empty_buttons.values() if b.isVisibleTo(demo)]
        assert shown == ["Enter the bench's place…"]

    def test_a_day_is_planned_for_its_window(self, qtbot, demo, sun):
        sun.choose_page(DAYS)
        qtbot.waitUntil(lambda: sun.days.outlook is not None, timeout=20_000)
        sun.days.choose_day(2)
        (begins, ends), *_ = sun.days.outlook.days[2].window
        assert sun.days.plan_button.text() == f"Plan it for {begins:%A %-H:%M}"
        sun.days.plan_button.click()
        plan = demo.stack.current_view()
        assert plan.form.starts_at() == begins
        plan.keep_button.click()
        (kept,) = [r for r in demo.bench.session.yard.runs() if r.state == "planned"]
        assert (kept.method, datetime.fromisoformat(kept.started_at)) == ("recharge_sun", begins)
        # Within the window it is planned for now, and once it is over there is none to come.
        for moment in (begins + (ends - begins) / 2, ends):
            sun.days.now = moment
            sun.days.choose_day(2)
            assert sun.days.plan_button.text() == "Plan a solar run" and sun.days.start is None

    def test_planning_from_here_checks_the_panels(self, qtbot, demo, sun):
        sun.choose_page(DAYS)
        sun.days.plan_button.click()
        plan = demo.stack.current_view()
        assert plan.form.chosen_method.key == "recharge_sun"
        checks = {check.key: check for check in plan.page().checks}
        assert "45.3 V at most" in checks["panels"].text and not checks["panels"].stops
        assert checks["open circuit"].stops and checks["open circuit"].by_hand
        demo.bench.session.choose_station(FENNEL)
        demo.go_to(PLAN)
        plan.choose_method("recharge_sun")
        plan.form.panels.setCurrentIndex(1)
        check = {check.key: check for check in plan.page().checks}["panels"]
        assert check.stops and check.hard and "never connect it: 78.4 V" in check.text


class TestSolarRun:
    def test_the_run_its_reasons_and_its_figures(self, demo, sun):
        sun.choose_page(RUNS)
        assert "the battery was nearly full" in sun.headline.text()
        panel = sun.solar
        shares = dict(panel.page.shares)
        assert shares[Limit.CAP] > 0.15 and shares[Limit.SHADE] > 0.01 and shares[Limit.FULL] > 0.2
        words = panel.words.text()
        assert "Shade: " in words and "95 % back in " in words and "clouds passed" in words
        assert "inside the claimed 12–50 V" in words
        figures = {f.title: f.brief for f in panel.page.figures}
        run = panel.chart.run  # the sun of the day: figures differ with the season
        assert figures["Harvested"].startswith(f"{run.harvest_wh:.1f} ± ")
        assert figures["Expected"] == f"{run.expected_wh:.0f} Wh"
        assert "Station's cap" in figures and "Of the nameplate, at 1000 W/m²" in figures
        assert panel.chart.answer.count(" · ") == 2
        panel.chart.set_marker((run.recoveries[0].start_s + 120) / run.duration_s)
        assert panel.chart.answer.endswith("shade")

    def test_a_log_whose_power_begins_late_is_drawn_within_its_chart(self, sun):
        """Its first minutes hold irradiance alone; times count from the log's first sample."""
        sun.choose_page(RUNS)
        chart = sun.solar.chart
        run = chart.run
        assert run.time_s[0] == 0
        late = replace(run, time_s=run.time_s + 900, spans=())
        chart.show_run(late, datetime(2026, 6, 1, 9, 0, tzinfo=UTC))
        chart.set_marker(1.0)
        shown = datetime(2026, 6, 1, 9, 0, tzinfo=UTC) + timedelta(seconds=late.time_s[-1])
        assert chart.answer.startswith(f"{shown:%H:%M} · {run.power_w[-1]:.0f} W")
        points = chart.points(late.power_w)
        assert points[0][0] > chart.area.left() and points[-1][0] <= chart.area.right()

    def test_few_samples_are_drawn_where_they_stand(self, sun):
        sun.choose_page(RUNS)
        chart = sun.solar.chart
        watts = np.array([10.0, 20.0, 30.0])
        few = replace(
            chart.run, time_s=np.array([0.0, 600, 3600]), power_w=watts, spans=(),
            expected_w=None, clear_w=None,
        )  # fmt: skip
        chart.show_run(few, datetime(2026, 6, 1, 9, 0, tzinfo=UTC))
        left, width = chart.area.left(), chart.area.width()
        xs = [x for x, _ in chart.points(watts)]
        assert xs == pytest.approx([left, left + width / 6, left + width])

    def test_every_figure_with_an_uncertainty_opens_its_budget(self, sun):
        sun.choose_page(RUNS)
        said = []
        for figure in sun.solar.page.figures:
            if figure.budget is None:
                assert figure.title == "Expected"
                continue
            made = next(b for b in sun.solar.findChildren(QPushButton) if b.text() == figure.shown)
            said += opened_by(made.click)
            assert f"{figure.title}: {figure.shown}" in said
        assert "Meter gain, common" in said

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
            sun.headline.text() == "100 % of what the sun allowed: nothing but the sun held it back"
        )
        words = sun.solar.words.text()
        assert "Together with run 3" in words and "capped at 150 W" in words
        assert "run 3 (Recharge from the wall) yields; the sun lost nothing" in words
        assert not sun.solar.tracker.isVisibleTo(demo)  # this one follows at once
        found = station_runs(demo.bench.analyses.all_of(demo.bench.session.station_runs()))
        solar = next(a for a in found.analyses if sunlight_in(a) is not None)
        (pair,) = inputs_beside(solar, found)
        # The same sun on a station that gives way to the wall: half of it is lost.
        mine, wall = pair.pair.powers_w
        powers = np.array([mine / 2, np.where(mine > 0, 150 - mine / 2, wall)])
        half = replace(pair, pair=replace(pair.pair, powers_w=powers))
        lost = lost_to_the_other(solar, sunlight_in(solar), half)
        assert lost == pytest.approx(sunlight_in(solar).run.harvest_wh / 2, rel=0.15)

    def test_which_panels_fed_it_is_an_edit_that_undo_takes_back(self, qtbot, demo, sun):
        sun.choose_page(RUNS)
        before = sun.solar.page
        sun.first_array.setCurrentIndex(2)  # the small panel: 100 W
        sun.arrays_chosen()
        worked_out(qtbot, demo)
        assert demo.bench.session.yard.get(Run, sun.run_id).conditions.arrays == (3,)
        assert "Small folding panel, 100 W" in sun.solar.subtitle.text()
        demo.bench.session.undo()
        worked_out(qtbot, demo)
        assert sun.solar.page.figures == before.figures

    def test_the_sheet_tells_of_it(self, demo, sun):
        yard = demo.bench.session.yard
        sheet = build_sheet(yard, yard.get(Station, TANSY))
        at = [figure.title for figure in sheet.results].index("Performance ratio")
        figure, how = sheet.results[at].shown, sheet.results[at].how
        run = sunlight_in(sun.bench.analyses.of(yard.runs(TANSY)[-1])).run
        assert figure.startswith(f"{100 * run.performance:.1f} ± ") and figure.endswith(" %")
        assert how.startswith(f"{run.harvest_wh:.0f} Wh in run 4, Folding pair")
        assert "irradiance measured" in how and "Meter gain, common" in [
            line.name for line in sheet.results[at].budget.lines
        ]
        (claim,) = [c for c in sheet.claims if c.title == "Solar input power"]
        assert (
            claim.word == "meets"
            and "(300 W, at least, −5 %)" in claim.sentence
            and "sustained over 5 minutes" in claim.sentence
        )

    def test_how_the_sensor_lay(self, qtbot, demo, sun):
        sun.choose_page(RUNS)
        before = shown_of(sun.solar.page)["Expected"]
        assert sun.plane_choice.isVisibleTo(demo)
        sun.plane_choice.setCurrentIndex(1)
        sun.plane_chosen()
        worked_out(qtbot, demo)
        assert shown_of(sun.solar.page)["Expected"] != before
        demo.bench.session.undo()
        worked_out(qtbot, demo)
        assert shown_of(sun.solar.page)["Expected"] == before

    def test_stations_without_solar_runs(self, demo, sun):
        demo.bench.session.choose_station(FENNEL)
        sun.choose_page(RUNS)
        assert sun.headline.text() == "No solar run yet"
        asked = []
        sun.plan_asked.connect(lambda: asked.append("plan"))
        sun.empty_buttons["plan"].click()
        assert asked == ["plan"]

    def test_without_a_sensor_and_without_a_site(self, demo, sun):
        yard = demo.bench.session.yard
        run = next(r for r in yard.runs(TANSY) if r.method == "recharge_sun")
        bare = replace(run, conditions=replace(run.conditions, arrays=(99,)))
        found = analyse_run(yard, bare)
        assert sunlight_in(found).arrays[0].id == 1  # one that is not there gives way to the first
        yard.put(replace(yard.site(), latitude=None))
        by_sensor = analyse_run(yard, run)
        light = sunlight_in(by_sensor)
        assert light.run.performance > 0.5 and "Where is the bench" in light.missing
        page = solar_page(by_sensor, station_runs([by_sensor]), [])
        assert "Where is the bench?" in page.subtitle and page.days[0][4] == "–"

    def test_typed_irradiance_stands_for_a_sensor(self, demo, sun, tmp_path):
        yard = demo.bench.session.yard
        run = next(r for r in yard.runs(TANSY) if r.method == "recharge_sun")
        main, logger = yard.recordings(run.id)
        logged = yard.samples(logger)
        parts = [(replace(main, id=None), yard.samples(main))]  # the logger's is left out
        new = yard.keep_run(replace(run, id=None, number=9), parts)
        assert sunlight_in(analyse_run(yard, new)).light == "clear sky"
        for at in range(0, int(logged.time_s[-1]), 1800):
            value = float(np.interp(at, logged.time_s, logged.columns[Quantity.IRRADIANCE]))
            yard.put(
                Reading(run_id=new.id, time_s=at, kind=ReadingKind.IRRADIANCE.value, value=value)
            )
        found = analyse_run(yard, new)
        assert sunlight_in(found).light == "typed"
        by_sensor = sunlight_in(analyse_run(yard, run)).run.expected_wh
        assert sunlight_in(found).run.expected_wh == pytest.approx(by_sensor, rel=0.1)
