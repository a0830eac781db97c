"""Recharges and idle tests in the window, and what a station's runs say together."""

import re
from dataclasses import replace

import numpy as np
import pytest
from conftest_helpers import loads_found, pass_checks, worked_out
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from tests.runs import shown_of, with_in, with_out, with_run, words_of

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.discharge.display_audit import DisplayAudit, TimeLeftError
from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.methods import Outlet
from yardtoll.core.methods.sources import SUN
from yardtoll.desktop.views.ledger.charts import LedgerCharts
from yardtoll.desktop.views.stop import LEDGER, PLAN
from yardtoll.review.analysis import analyse_run
from yardtoll.review.conformance import judged_claims
from yardtoll.review.display_words import audit_words
from yardtoll.review.pages import run_caption, run_page
from yardtoll.review.station.cycle import cycle_of
from yardtoll.review.station.repeats import repeats_of
from yardtoll.review.station.runs import station_runs
from yardtoll.store.records import Conditions, Reading, ReadingKind


def test_the_demo_station_closes_its_cycle(analysed):
    runs = station_runs(list(analysed.values()))
    assert sorted(p.number for p in runs.ac.points) == [2, 3, 4, 7]
    cycle = cycle_of(analysed[4], runs)
    assert (cycle.discharge.run.number, cycle.charges) == (4, (analysed[5],))
    assert cycle_of(analysed[5], runs).discharge.run.number == 4
    assert cycle_of(analysed[3], runs).charges == ()  # it was not the next thing charged
    page = run_page(analysed[4], runs)
    assert page.headline == "Of every 100 Wh from the wall, 85 reach the load"
    assert abs(page.ledger.imbalance_wh) < 1e-9
    # The station's truth: 17 W overhead, seen at the outlet ÷ 1.052.
    assert runs.ac.split.p0_w.value == pytest.approx(17 / 1.052, rel=0.1)
    assert runs.ac.split.p0_w.u < 3 and runs.ac.idle_not_used
    assert abs(runs.ac.idle.idle_w - 17) <= runs.ac.idle.idle_w_expanded
    assert runs.ac.idle.store.basis == "the fitted store and 5 % for conversion"
    assert runs.dc.points == () and runs.dc.split is None


def test_a_recharges_page_names_its_ratios(analysed):
    runs = station_runs(list(analysed.values()))
    page = run_page(analysed[5], runs)
    assert page.headline.startswith("2240 Wh drawn in 2 h 36 min, 80 % after 1 h 1")
    figures = shown_of(page)
    assert figures["Drawn"].startswith("2240 ± 13")
    assert figures["Round trip, run 4 delivered ÷ drawn"] == "84.66 ± 0.49 %"
    assert "Charge efficiency, fitted store ÷ drawn" in figures
    first = words_of(page)[0]
    assert first.startswith("Ramp-in ") and "then taper" in first
    assert page.notices == () and run_caption(analysed[5]) == "Run 5 · 2240 ± 13 Wh drawn"
    alone = run_page(analysed[5])
    assert alone.ledger is None
    assert "Charge efficiency, rated ÷ drawn" in shown_of(alone)


def test_more_out_than_in_is_said(analysed):
    little = with_in(analysed[5], drawn_wh=1500.0)
    page = run_page(little, station_runs([*list(analysed.values())[:4], little]))
    assert any("is more than the 1500.0 Wh drawn" in notice for notice in page.notices)
    assert "an input that was not measured" in page.ledger.tolls[0].evidence


def test_many_phases_are_summed(analysed):
    phases = analysed[5].outcome.result.phases * 3
    page = run_page(with_in(analysed[5], phases=phases))
    assert words_of(page)[0].startswith("The power changes 8 times: ramp-in ")


def test_watts_set_are_held_against_those_drawn(analysed):
    fixed = Conditions(size="fixed")
    page = run_page(with_run(analysed[5], target_w=700.0, conditions=fixed))
    assert "700 W were set, 1388 W were drawn." in page.notices
    kept = with_run(analysed[5], target_w=1400.0, conditions=fixed)
    assert run_page(kept).notices == ()


def test_a_recharge_is_foretold_for_other_sources(analysed):
    claims = [Claim(kind="solar_w", value=600), Claim(kind="car_in_v", value=24)]
    (words,) = [w for w in words_of(run_page(analysed[5], claims=claims)) if "elsewhere" in w]
    # 2240 Wh at 24 V × 8 A are 11.7 h; the taper below 192 W takes its own time on top.
    assert re.search(r"car socket at 192 W 12 h \d\d min", words) and "sun at 600 W 4 h" in words
    assert "wall at" not in words
    weak = replace(analysed[5], recorded=())
    assert not any("elsewhere" in w for w in words_of(run_page(weak, claims=claims)))


def test_an_idle_page(analysed):
    page = run_page(analysed[6])
    assert page.headline.startswith("1") and "nothing plugged in" in page.headline
    assert shown_of(page)["Idle draw"].endswith("W") and page.ledger is None


def test_repeats_are_put_together_and_other_loads_are_not(analysed):
    delivered_wh = analysed[3].energy_out.delivered_wh
    again = with_run(with_out(analysed[3], delivered_wh=delivered_wh + 30), number=9)
    runs = station_runs([*analysed.values(), again])
    figures = repeats_of(analysed[3], runs)
    assert figures.count == 2 and figures.spread_wh == pytest.approx(30)
    assert repeats_of(analysed[2], runs) is None
    page = run_page(analysed[3], runs)
    assert "2 runs at this load" in shown_of(page)
    assert any("differs from its repeats" in notice for notice in page.notices)


def through_dc(run, number=None):
    """The same discharge through the DC port."""
    changes = {"id": number, "number": number} if number else {}
    made = with_run(run, method="capacity_dc", **changes)
    energy_out = replace(made.energy_out, outlet=Outlet.DC)
    return replace(made, outcome=replace(made.outcome, energy_out=energy_out))


def test_dc_beside_ac_is_explained(analysed):
    port = through_dc(with_out(analysed[3], delivered_wh=1950.0))
    runs = station_runs([*analysed.values(), port])
    (words,) = [w for w in words_of(run_page(port, runs)) if w.startswith("DC")]
    assert words.startswith("DC delivers 3% more than AC in run 3")
    less = with_out(port, delivered_wh=1700.0)
    assert any("10% less" in w and "cut-off" in w for w in words_of(run_page(less, runs)))


def test_what_the_audit_says():
    audit = DisplayAudit(
        gain=0.98, offset_w=3.0, soc=(),
        time_left=(TimeLeftError(s=0, shown_s=3240, true_s=3000),),
        reserve_wh=100.0, reserve_s=900.0,
    )  # fmt: skip
    assert list(audit_words(audit)) == [
        "The display's W: gain -2.0 %, offset +3.0 W to the meter.",
        "Its time left: 54 min promised, 50 min given (-7.4 %).",
        "After it first said 0 %, 100 Wh more came in 15 min: a hidden reserve.",
    ]
    nothing = replace(audit, gain=None, offset_w=-0.02)
    assert next(audit_words(nothing)) == "The display's W: +0.0 W to the meter on the mean."


def test_the_curve_answers_what_it_would_deliver(qtbot, demo):
    worked_out(qtbot, demo)
    demo.bench.session.choose_station(1)
    demo.go_to(LEDGER)
    view = demo.stack.current_view()
    assert view.charts.power.isVisibleTo(view) and not view.charts.curve.isVisibleTo(view)
    view.charts.title("curve").click()
    assert view.charts.curve.isVisibleTo(view) and not view.charts.power.isVisibleTo(view)
    curve = view.charts.curve
    assert curve.answer.startswith("at 1000 W: 18")
    QTest.keyClick(curve, Qt.Key.Key_Right)
    assert curve.answer.startswith("at 1020 W")
    QTest.mousePress(curve, Qt.MouseButton.LeftButton, pos=QPoint(curve.width() - 16, 60))
    assert curve.answer.startswith("at 2000 W") and curve.accessibleDescription() == curve.answer
    demo.bench.session.choose_station(3)
    assert "Wh" in curve.answer
    view.charts.title("power").click()
    assert view.charts.power.isVisibleTo(view)


def start(qtbot, demo, method, size=None):
    demo.go_to(PLAN)
    plan = demo.stack.current_view()
    plan.form.methods.setCurrentIndex(plan.form.methods.findData(method))
    if size:
        plan.form.sizes.setCurrentIndex(plan.form.sizes.findData(size))
    loads_found(qtbot, plan)
    pass_checks(plan)
    plan.start_button.click()
    qtbot.waitUntil(
        lambda: demo.bench.live is not None and len(demo.bench.live.samples) > 0, timeout=60_000
    )
    return demo.bench.live


def test_a_recharge_is_recorded_and_finds_its_own_end(qtbot, demo):
    demo.bench.session.choose_station(3)
    demo.settings.simulated_speed = 3600.0
    live = start(qtbot, demo, "recharge_wall")
    ended = []
    demo.bench.run_ended.connect(lambda *told: ended.append(told))
    shown = demo.stack.current_view().running.headline.text()
    assert shown.startswith("Recharge from the wall")
    qtbot.waitUntil(lambda: bool(ended), timeout=90_000)
    assert "has taken nothing for" in ended[0][1]
    yard = demo.bench.session.yard
    assert "Charged" in [m.word for m in yard.marks(live.run_id)]
    found = analyse_run(yard, yard.get(type(live.run), live.run_id))
    assert found.energy_in.drawn_wh > 280 and found.main_figure.budget is not None
    worked_out(qtbot, demo)
    demo.open_run(live.run_id)
    assert "Wh drawn in" in demo.stack.current_view().headline.text()


def test_an_idle_test_needs_its_two_readings(qtbot, demo):
    demo.bench.session.choose_station(3)
    demo.settings.simulated_speed = 3600.0
    live = start(qtbot, demo, "idle_ac", "5h")
    view = demo.stack.current_view()
    assert "Read the display now" in view.running.watch_label.text()
    live.read(ReadingKind.SOC, 100)
    qtbot.waitUntil(lambda: live.elapsed_s() > 4 * 3600, timeout=60_000)
    assert live.forecast().remaining_s <= 3600
    live.read(ReadingKind.SOC, live.simulated_display()[0])
    ended = []
    demo.bench.run_ended.connect(lambda *told: ended.append(told))
    qtbot.waitUntil(lambda: bool(ended), timeout=60_000)
    assert ended[0][1] == "held for 5 h 00 min"
    yard = demo.bench.session.yard
    run = yard.get(type(live.run), live.run_id)
    assert analyse_run(yard, run).figures["idle_w"].value > 0
    for reading in yard.readings(run.id)[1:]:
        yard.put(replace(reading, withdrawn=True))
    assert "at its start and at its end" in analyse_run(yard, run).problem


def test_a_charging_display_is_held_against_the_meter(demo, analysed):
    yard, run = demo.bench.session.yard, analysed[5].run
    at_s = analysed[5].energy_in.result.start_s + 1800
    for kind, value in ((ReadingKind.INPUT_W, 1350), (ReadingKind.TIME_LEFT, 3600)):
        yard.put(Reading(run_id=run.id, time_s=at_s, kind=kind.value, value=value))
    found = analyse_run(yard, run)
    words = " ".join(words_of(run_page(found)))
    assert "The display's W: -3" in words and "given (+109.8 %)" in words
    assert found.outcome.audit.soc == ()


def with_power(run, columns):
    """The same outcome beside other samples."""
    (recorded, *_) = run.recorded
    trace = replace(recorded.trace, columns=columns)
    return replace(run, recorded=(replace(recorded, read=lambda: trace),))


def test_two_inputs_at_once_are_put_side_by_side(qtbot, analysed):
    wall = analysed[5]
    power = wall.trace.columns[Quantity.POWER]
    t = wall.trace.time_s
    sun_w = np.where((t > 1200) & (t < 4200), 300 + 100 * np.sin(t / 300), 0.0)
    capped = np.where(sun_w > 0, np.minimum(power, 1500 - sun_w), power)
    on_wall = with_power(wall, {**wall.trace.columns, Quantity.POWER: capped})
    sun = with_power(
        with_run(wall, id=99, number=9, method="recharge_sun"), {Quantity.POWER: sun_w}
    )
    by_sun = replace(sun.energy_in, source=SUN, by_sun=True)
    sun = replace(sun, outcome=replace(sun.outcome, energy_in=by_sun))
    runs = station_runs([on_wall, sun])
    (words,) = [w for w in words_of(run_page(on_wall, runs)) if w.startswith("Together with")]
    assert words.startswith("Together with run 9 (Recharge from the sun) for 50 min: run 5 (")
    assert "the sum is capped at 1500 W" in words
    assert "run 5 (Recharge from the wall) yields by" in words
    closed = station_runs([analysed[4], on_wall, sun])
    page = run_page(on_wall, closed)
    assert (
        page.ledger.start_title == "From wall and sun" and page.ledger.start_kind is EnergyKind.WALL
    )
    assert page.ledger.start_wh == pytest.approx(2 * wall.energy_in.drawn_wh)
    assert shown_of(page)["Drawn from wall and sun"].endswith(" Wh")
    discharge = run_page(analysed[4], closed)
    assert discharge.headline.startswith("Of every 100 Wh from wall and sun, 42")
    claims = [Claim(kind="combined_in_w", value=1450), Claim(kind="recharge_w", value=1000)]
    both, alone = judged_claims(closed, claims)
    assert both.standing.value == "meets" and both.finding.runs == (5, 9)
    assert both.finding.value == pytest.approx(1500, rel=0.01)
    lines = both.finding.budget.lines
    # Of one meter, but its AC and its DC range share no gain: 1208 W and 292 W in quadrature.
    gain = np.hypot.reduce([line.u for line in lines if line.of_gain])
    assert gain == pytest.approx(0.005 * np.hypot(1208, 292) / np.sqrt(3), rel=0.02)
    (again,) = [line.u for line in lines if line.repeats_help]
    assert again == pytest.approx(0.005 * both.finding.value, rel=0.02)
    assert alone.standing.value == "not_tested"  # never alone, so nothing is said of it alone
    charts = LedgerCharts()
    qtbot.addWidget(charts)
    charts.resize(600, 300)
    charts.show_run(on_wall, runs)
    charts.title("shares").click()
    shares = charts.shares
    assert shares.isVisibleTo(charts) and not charts.power.isVisibleTo(charts)
    assert re.fullmatch(
        r"0:4\d:\d\d · 1\d\d\d W \+ \d+ W = 1500.0 ± 7.9 W · wall \d\d%, sun \d\d%", shares.answer
    )
    before = shares.grab().toImage()
    QTest.keyClick(shares, Qt.Key.Key_Right)
    assert shares.grab().toImage() != before and shares.accessibleDescription() == shares.answer
    QTest.mousePress(shares, Qt.MouseButton.LeftButton, pos=QPoint(shares.width() - 16, 60))
    assert shares.answer.startswith("2:")
    charts.show_run(sun, station_runs([sun]))  # alone it has nothing to stand beside
    assert not shares.isVisibleTo(charts) and charts.power.isVisibleTo(charts)


def test_the_dc_port_pays_tolls_of_its_own(analysed):
    """A converter with 3 W overhead on a store of 1980 Wh, through three loads."""
    runs = list(analysed.values())
    for number, watts in ((11, 40.0), (12, 80.0), (13, 150.0)):
        hours = 1980 / (watts + 3)
        made = with_out(
            analysed[3], delivered_wh=watts * hours, duration_s=3600 * hours, mean_w=watts
        )
        made = through_dc(made, number)
        energy_out = replace(made.energy_out, mean_sq_w2=None)
        runs.append(replace(made, outcome=replace(made.outcome, energy_out=energy_out)))
    found = station_runs(runs)
    assert found.dc.split.p0_w.value == pytest.approx(3, rel=1e-6)
    assert found.dc.split.euro_efficiency is None and len(found.ac.points) == 4
    page = run_page(runs[-1], found)
    overhead = next(toll for toll in page.ledger.tolls if toll.title == "Overhead")
    assert overhead.energy_wh == pytest.approx(3 * 1980 / 153, rel=1e-6)
    words = " ".join(words_of(page))
    assert "From 3 DC runs: usable store 1980" in words
    assert "The DC port's overhead is 3" in words and "the inverter's 16.2 ± " in words


def test_any_two_charges_have_a_time_between_them(qtbot, demo):
    worked_out(qtbot, demo)
    demo.bench.session.choose_station(1)
    demo.open_run(next(r.id for r in demo.bench.session.yard.runs(1) if r.number == 5))
    between = demo.stack.current_view().between
    assert between.isVisibleTo(demo) and "±" in between.within.text()
    whole = between.answer.text()
    between.low.setValue(20)
    between.high.setValue(80)
    assert between.answer.text() != whole and between.answer.text().startswith("0:5")
    between.high.setValue(10)
    assert between.answer.text() == "10 % is not above 20 %."
    demo.open_run(next(r.id for r in demo.bench.session.yard.runs(1) if r.number == 4))
    assert not between.isVisibleTo(demo)
