"""Figures of the trade, noted as a person would and put into the window, come out as they should.

Common practice, no source: the values are those that every reviewer knows by heart.
"""

from dataclasses import replace
from datetime import datetime

import pytest
from conftest_helpers import in_dialog

from yardtoll.core.claims.kinds import Claim
from yardtoll.desktop.dialogs.noted_run import NotedRunDialog
from yardtoll.review.analysis import analyse_run
from yardtoll.review.kinds import kind_of
from yardtoll.review.station.runs import station_runs
from yardtoll.store.records import Meter, Run, Station


@pytest.fixture
def add(qtbot, demo):
    """Adds a run of a station of so many Wh from notes; its figures, as shown."""
    session = demo.bench.session
    stations = {}

    def made(rated_wh, method, text, own_draw_w=0.0, hour=10):
        if rated_wh not in stations:
            new = Station(name=f"Station of {rated_wh:g}", rated_wh=rated_wh, rated_w=1000)
            stations[rated_wh] = session.add(new, "Add a station")
        station = stations[rated_wh]
        meter = None
        if own_draw_w:
            meter = session.add(
                Meter(name="Plug-in", profile="", address="", reading_share=0.01, floor_w=0.5,
                      own_draw_w=own_draw_w), "Add a meter",
            )  # fmt: skip
        session.choose_station(station.id)

        def fill(dialog):
            dialog.method.setCurrentIndex(dialog.method.findData(method))
            if meter is not None:
                dialog.meter.setCurrentIndex(dialog.meter.findData(meter.id))
            dialog.editor.set_text(text)
            if dialog.editor.notes.clock_s is None:
                dialog.began.show_clock(datetime(2026, 5, 14, hour))
            dialog.accept_button.click()
            assert not dialog.wrong_label.isVisible(), dialog.wrong_label.text()

        in_dialog(fill, NotedRunDialog)
        demo.actions_by_name["Add a run from notes…"].trigger()
        run = session.yard.runs(station.id)[-1]
        return analyse_run(session.yard, session.yard.get(Run, run.id))

    return made


def percent(analysis, key):
    return round(100 * analysis.figures[key].value, 1)


DELIVERED = [
    (2048, "capacity_ac", "1830 Wh", 1830, 89.4),
    (2048, "capacity_ac", "1830 of 2048 Wh at 410 W, 2024", 1830, 89.4),
    (4500, "capacity_ac", "1.87 + 1.87 kWh", 3740, 83.1),
    (1536, "capacity_dc", "1407 Wh", 1407, 91.6),
    (1536, "capacity_ac", "1243 Wh", 1243, 80.9),
    (2000, "capacity_dc", "1669 Wh at 8 A on 13.5 V", 1669, 83.5),
]


def test_delivered_of_rated(add):
    for rated_wh, method, text, delivered_wh, share in DELIVERED:
        found = add(rated_wh, method, text)
        assert found.energy_out.delivered_wh == delivered_wh, text
        assert percent(found, "usable_ratio") == pytest.approx(share, abs=0.051), text


def test_a_window_and_the_recharge_of_it(add, demo):
    out = add(2048, "capacity_ac", "1560 Wh from 100 to 10 %")
    assert (out.run.soc_from, out.run.soc_to) == (100, 10)
    assert percent(out, "usable_ratio_window") == 84.6 and percent(out, "usable_ratio") == 76.2
    back = add(2048, "recharge_wall", "1947 Wh 10 to 100 %", hour=16)
    assert back.energy_in.drawn_wh == 1947
    yard = demo.bench.session.yard
    runs = [analyse_run(yard, run) for run in yard.runs(back.station.id)]
    page = kind_of(back.run.method).page(back, station_runs(runs), [])
    trip = next(figure for figure in page.figures if figure.key == "round_trip")
    assert round(100 * trip.value, 1) == 80.1


def test_a_figure_copied_from_another_run_shows(add, demo):
    add(2048, "capacity_ac", "10:00 on 0 Wh 410 W\n14:28 off 1830 Wh")

    def look(dialog):
        dialog.editor.set_text("10:00 on 0 Wh 410 W\n14:28 off 1830 Wh")
        assert "copied?" in dialog.editor.shown_beside(2)
        dialog.reject()

    in_dialog(look, NotedRunDialog)
    demo.actions_by_name["Add a run from notes…"].trigger()


def test_a_meters_own_draw_is_watts_times_hours_and_no_watt_hours(add):
    found = add(299.5, "capacity_ac", "254 Wh, 300 W for 50 min", own_draw_w=2.0)
    assert found.figures["own_draw_wh"].value == pytest.approx(1.7, abs=0.05)
    assert percent(found, "usable_ratio") == 85.4


def test_idle_by_two_looks_at_the_display(add):
    found = add(1280, "idle_ac", "22:00 100 %\n08:00 85 %")
    assert found.figures["idle_w"].value == pytest.approx(19.2)
    assert round(found.own_use.idle.percent_per_hour, 2) == 1.5


def test_a_promise_of_the_display(add):
    found = add(1280, "capacity_ac", "10:00 on 300 W 0.9 h left\n10:50 off")
    (promise,) = found.outcome.audit.time_left
    assert round(100 * promise.share, 1) == -7.4
    said = " ".join(kind_of(found.run.method).remarks(found))
    assert "54 min promised, 50 min given (-7.4 %)" in said


def test_hours_from_a_car_socket(add):
    found = add(4500, "recharge_wall", "4500 Wh in 4 h, 0 to 100 %")
    for volts, hours in ((12, "37 h 30 min"), (24, "18 h 45 min")):
        claims = [Claim(kind="car_in_v", value=volts), Claim(kind="car_in_a", value=10)]
        page = kind_of(found.run.method).page(found, station_runs([found]), claims)
        said = " ".join("".join(map(str, sentence)) for sentence in page.words)
        assert f"car socket at {10 * volts} W {hours}" in said


def test_hours_at_constant_power(add):
    found = add(1280, "recharge_wall", "800 W ran 1 h 36 min, 0 to 100 %")
    assert found.energy_in.drawn_wh == pytest.approx(1280)


def test_a_day_in_the_sun_by_notes(add, demo):
    found = add(2048, "recharge_sun", "11:00 on 0 Wh 310 W 20% in series\n12:00 345 Wh 330 W\n"
                "12:30 rewired in parallel 352 W\n13:10 shade on 60 W\n13:12 shade off 349 W\n"
                "14:00 1010 Wh 90% off")  # fmt: skip
    said = " ".join(kind_of(found.run.method).remarks(found))
    assert "Shade took it from 352 to 60 W for 2 min; then 349 W (99 %)." in said
    assert "352 W in parallel, 330 W in series" in said
    yard = demo.bench.session.yard
    array = yard.arrays()[0]
    conditions = replace(found.run.conditions, arrays=(array.id,))
    run = yard.put(replace(found.run, conditions=conditions))
    said = " ".join(kind_of(run.method).remarks(analyse_run(yard, run)))
    share = 100 * 352 / array.power_stc_w
    assert f"At most 352 W were noted, {share:.0f} % of {array.power_stc_w:.0f} W" in said


def test_a_hold_and_its_overload_by_notes(add):
    found = add(2048, "overload", "10:00 on 1000 W\n10:15 1100 W\n10:16:20 tripped, error 4\n"
                "10:16:20 off")  # fmt: skip
    said = " ".join(kind_of(found.run.method).remarks(found))
    # The rating of the station here is 1000 W.
    assert "Over the rating: 1100 W (110 %) for 80 s, then it tripped." in said


def test_heaters_in_voltage_lowering_mode_follow_the_square(add, demo):
    found = add(4500, "hold", "10:00 120 V\n10:01 on 2400 W 100.8 V\n10:31 off 2400 W 100.8 V")
    yard = demo.bench.session.yard
    conditions = replace(found.run.conditions, settings={"voltage_lowering": "on"})
    run = yard.put(replace(found.run, target_w=3400.0, conditions=conditions))
    said = " ".join(kind_of(run.method).remarks(analyse_run(yard, run)))
    # 120·√(2400 ÷ 3400)
    assert "Loads of 3400 W at 120.0 V drew 2400 W at 100.8 V" in said
    assert "the square law would give 100.8 V" in said


def test_two_meters_on_one_load_add_up_each_with_its_own_limits(qtbot, demo):
    session = demo.bench.session
    session.choose_station(2)
    plugs = [
        session.add(
            Meter(name=f"Plug {n}", profile="", address="", reading_share=0.01, floor_w=0.0,
                  own_draw_w=own_w), "Add a meter",
        ) for n, own_w in ((1, 1.0), (2, 2.0))
    ]  # fmt: skip

    def fill(dialog):
        dialog.meter.setCurrentIndex(dialog.meter.findData(plugs[0].id))
        dialog.editor.set_text("22:00 on 0 Wh\n23:00 120 Wh 120 W\n02:00 off 480 Wh")
        dialog.further.setCurrentIndex(dialog.further.findData(plugs[1].id))
        dialog.accept_button.click()
        assert "Of the second meter" in dialog.wrong_label.text()
        dialog.further_editor.set_text("22:00 0 Wh\n23:01 101 Wh\n02:01 400 Wh")
        dialog.accept_button.click()
        assert not dialog.wrong_label.isVisible(), dialog.wrong_label.text()

    in_dialog(fill, NotedRunDialog)
    demo.actions_by_name["Add a run from notes…"].trigger()
    yard = session.yard
    run = next(run for run in yard.runs(2) if run.origin == "typed")
    found = analyse_run(yard, run)
    assert found.figures["own_draw_wh"].value == pytest.approx(12, abs=0.1)
    assert found.energy_out.delivered_wh == pytest.approx(892, abs=0.2)
    assert not found.notices
    names = [line.name for line in found.energy_out.budget.lines]
    assert any("Meter 1 gain" in name for name in names) and any("Meter 2" in n for n in names)
