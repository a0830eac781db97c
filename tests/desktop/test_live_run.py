"""The run in progress, without a window: pace, forecast, marks, losing the wire, its end."""

import time
from dataclasses import asdict

import pytest

from yardtoll.bench.errors import UnreachableError
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.demo.starter_bench import add_starter_bench
from yardtoll.desktop.app import make_app
from yardtoll.desktop.workbench.live_run import LiveRun
from yardtoll.running.live_figures import live_figures
from yardtoll.running.plan import plan_for_load
from yardtoll.running.simulated_bench import bench_model_for
from yardtoll.store.records import ReadingKind, Run, Station
from yardtoll.store.yard_file import YardFile


@pytest.fixture
def yard(tmp_path):
    with YardFile.create(tmp_path / "a.yard", "A") as yard:
        add_starter_bench(yard)
        yard.put(Station(name="Clover", rated_wh=500, rated_w=800))
        yield yard


@pytest.fixture
def live(qtbot, yard):
    make_app()
    plan = plan_for_load(yard.stations()[0], yard.meters()[0], yard.loads()[0])
    run = plan.begin(yard, simulated_bench=asdict(bench_model_for(plan)))
    made = LiveRun(yard, run, speed=60.0)
    made.session.start()
    qtbot.waitUntil(lambda: len(made.session.samples) > 0, timeout=60_000)
    yield made
    made.session.leave()


def now():
    from datetime import datetime

    return datetime.now().astimezone()


def test_what_is_shown_is_on_disk_first(qtbot, live):
    qtbot.waitUntil(lambda: len(live.session.samples) > 60, timeout=60_000)
    shown = len(live.session.samples)
    assert live.session.yard.trace(live.session.run_id).time_s.size >= shown


def test_the_beginning_is_not_missed_however_fast_the_clock(qtbot, live):
    qtbot.waitUntil(lambda: live.session.delivered_wh > 1, timeout=60_000)
    power = live.session.samples.column(Quantity.POWER)
    assert power[0] == 0 and power.max() > 400  # no load first, then a cold heater


def test_the_pace_changes_while_it_runs(qtbot, live):
    live.session.set_speed(3600)
    before = live.session.elapsed_s()
    # At the old pace this would take five seconds more than is waited for.
    qtbot.waitUntil(lambda: live.session.elapsed_s() - before > 1800, timeout=25_000)
    assert live.session.speed == 3600


def test_figures_of_a_run(qtbot, live):
    qtbot.waitUntil(lambda: live.session.elapsed_s() > 200, timeout=60_000)
    figures = live_figures(live.session, now())
    assert figures.station == "Clover"
    assert figures.headline.startswith("Capacity, AC, run 1 – be back at ")
    assert figures.power_note.startswith("target 400 · ")
    assert "% of 500 rated" in figures.energy_note
    assert "bench clock ×60" in figures.elapsed_note
    assert 0 < figures.share_done < 1
    assert figures.watch.startswith("All quiet") and not figures.watch_is_bad


def test_typed_readings_sharpen_the_forecast(qtbot, live):
    live.session.set_speed(600)
    qtbot.waitUntil(lambda: live.session.elapsed_s() > 600, timeout=60_000)
    assert live.session.forecast().basis.startswith("typical losses")
    live.session.read(ReadingKind.SOC, live.session.simulated_display()[0])
    qtbot.waitUntil(lambda: live.session.elapsed_s() > 2400, timeout=60_000)
    live.session.read(ReadingKind.SOC, live.session.simulated_display()[0])
    assert live.session.forecast().basis == "the display's SOC over this run"
    assert "Hz · display last said " in live_figures(live.session, now()).volts_note


def test_a_wire_that_breaks_is_marked_and_taken_up_again(qtbot, live, monkeypatch):
    lost, found = [], []
    live.lost.connect(lost.append)
    live.found.connect(found.append)
    driver = live.session.instruments[0]
    real, broken = driver.read_new, []

    def flaky():
        if not broken:
            broken.append(True)
            raise UnreachableError("the cable was pulled")
        return real()

    monkeypatch.setattr(driver, "read_new", flaky)
    qtbot.waitUntil(lambda: bool(found), timeout=60_000)
    assert lost == ["the cable was pulled"]
    assert [m.word for m in live.session.yard.marks(live.session.run_id)] == [
        "Meter lost",
        "Meter answers again",
    ]
    before = len(live.session.samples)
    qtbot.waitUntil(lambda: len(live.session.samples) > before, timeout=60_000)


def test_a_disk_that_is_full_stops_the_recording_and_keeps_what_was(qtbot, live, monkeypatch):
    failed = []
    live.failed.connect(failed.append)

    def full(*_):
        raise OSError(28, "No space left on device")

    kept = live.session.yard.trace(live.session.run_id).time_s.size
    monkeypatch.setattr(live.session.yard, "append_samples", full)
    qtbot.waitUntil(lambda: bool(failed), timeout=60_000)
    assert "No space left" in failed[0]
    assert live.session.yard.trace(live.session.run_id).time_s.size >= kept
    assert (
        live.session.yard.get(Run, live.session.run_id).state == "running"
    )  # to be resumed or closed


def test_left_and_resumed_twice_is_one_run_with_two_marks(qtbot, yard, live):
    live.session.leave()
    for _ in range(2):
        time.sleep(0.3)
        again = LiveRun(yard, yard.get(Run, live.session.run_id), speed=60.0)
        before = yard.trace(live.session.run_id).time_s.size
        again.session.resume()
        qtbot.waitUntil(lambda a=again, b=before: len(a.session.samples) > b, timeout=60_000)
        again.session.leave()
    words = [m.word for m in yard.marks(live.session.run_id)]
    assert len(words) == 2 and all(word.startswith("Resumed after a gap") for word in words)
    assert not yard.trace(live.session.run_id).notices


def test_the_same_records_play_the_same_bench(yard):
    meter = yard.meters()[0]
    plan = plan_for_load(yard.stations()[0], meter, yard.loads()[0])
    model = bench_model_for(plan)
    assert model == bench_model_for(plan)
    assert abs(model.meter.gain_error) <= meter.reading_share
    assert abs(model.meter.offset_w) <= meter.floor_w


def test_a_run_tells_itself_at_each_tenth_and_not_at_every_tick(window, monkeypatch):
    from types import SimpleNamespace

    from yardtoll.desktop.frame import bars, run_strip

    told = []
    for module in (run_strip, bars):
        monkeypatch.setattr(module, "announce", lambda _, text, **__: told.append(text))
    figures = SimpleNamespace(
        station="Fennel 2k", method="Capacity, AC, run 5", power=None, energy=None,
        elapsed="0:10:00", share_done=0.05, ends="ends 16:40",
    )  # fmt: skip
    for share in (0.05, 0.06, 0.09, 0.11, 0.12, 0.21):
        figures.share_done = share
        window.strip.show_run(figures)
    assert len(told) == 3 and all("ends 16:40" in text for text in told)
    assert "Fennel 2k" in window.strip.accessibleDescription()
    window.say("The meter is silent.")
    assert told[-1] == "The meter is silent."
