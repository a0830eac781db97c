"""Runs that go without a window: several instruments in one run, several runs at once."""

import queue
import time
from dataclasses import replace

import numpy as np
import pytest

from yardtoll.bench.simulated.clock import VirtualClock
from yardtoll.bench.simulated.models import BenchModel, LoadModel, StationModel
from yardtoll.bench.simulated.scpi_server import SimulatedBench
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.planning.loads import MixPart
from yardtoll.review.analysis import analyse_run
from yardtoll.running.plan import RunPlan
from yardtoll.running.session import RunSession, SessionEvents
from yardtoll.store.records import Meter, Run, Station
from yardtoll.store.yard_file import YardFile

SPEED = 900.0
BENCHES = (  # Wh in the store, W of the load; nothing is lost on the way, so that sums are exact
    (60.0, 120.0),
    (45.0, 90.0),
)


class Owner:
    """The thread that owns the runs, as a window or a shell would be."""

    def __init__(self):
        self.posted = queue.SimpleQueue()
        self.ended, self.lost, self.failed = {}, [], []

    def begin(self, yard, plan):
        run = plan.begin(yard)
        events = SessionEvents(
            ended=self.ended.__setitem__, lost=self.lost.append, failed=self.failed.append
        )
        session = RunSession(yard, run, events=events, post=self.posted.put)
        session.start()
        return session

    def until(self, done, patience_s=60.0):
        give_up = time.monotonic() + patience_s
        while not done():
            assert time.monotonic() < give_up, "it never came"
            try:
                self.posted.get(timeout=0.05)()
            except queue.Empty:
                continue


@pytest.fixture
def benches():
    """Two benches, each on its own port of the loopback, not yet under way."""
    made = []
    for store_wh, load_w in BENCHES:
        station = StationModel(
            store_wh=store_wh, overhead_w=0, proportional=0, ohmic_per_w=0, rated_w=300,
            nominal_v=120,
        )  # fmt: skip
        clock = VirtualClock()
        model = BenchModel(seed=1, station=station, load=LoadModel(watts=load_w))
        made.append((SimulatedBench(model, clock).__enter__(), clock))
    yield made
    for bench, _ in made:
        bench.__exit__(None, None, None)


@pytest.fixture
def yard(tmp_path, benches):
    with YardFile.create(tmp_path / "a.yard", "Bench") as made:
        made.put(Station(name="One", rated_wh=60, rated_w=300))
        made.put(Station(name="Two", rated_wh=45, rated_w=300))
        for number, (bench, _) in enumerate(benches, 1):
            made.put(
                Meter(
                    name=f"Meter {number}", profile="buffered_meter", address=bench.resource,
                    reading_share=0.01, floor_w=0.5,
                )
            )  # fmt: skip
        yield made


def plan(yard, number, also=()):
    watts = BENCHES[number][1]
    return RunPlan(
        station=yard.stations()[number],
        meter=yard.meters()[number],
        method="capacity_ac",
        size="fixed",
        parts=(MixPart(name="Lamp", setting="", count=1, watts=watts),),
        also=also,
    )


def test_two_runs_go_at_once_and_each_finds_its_own_end(yard, benches):
    owner = Owner()
    sessions = [owner.begin(yard, plan(yard, number)) for number in range(2)]
    owner.until(lambda: all(session.answering for session in sessions))
    for _, clock in benches:
        clock.set_speed(SPEED)
    owner.until(lambda: len(owner.ended) == 2)
    assert set(owner.ended.values()) == {"the outlet switched off"}
    for session, (store_wh, load_w) in zip(sessions, BENCHES, strict=True):
        kept = yard.get(Run, session.run_id)
        assert kept.state == "finished"
        out = analyse_run(yard, kept).energy_out
        assert out.delivered_wh == pytest.approx(store_wh, rel=0.01)
        assert out.result.duration_s == pytest.approx(3600 * store_wh / load_w, rel=0.01)


def test_a_second_instrument_is_recorded_with_its_role_and_its_clock(yard, benches):
    """It neither ends the run nor adds to what the first one says."""
    owner = Owner()
    _, second = yard.meters()
    session = owner.begin(yard, plan(yard, 0, also=((second, Role.WALL_INPUT),)))
    owner.until(lambda: session.answering)
    for _, clock in benches:
        clock.set_speed(SPEED)
    owner.until(lambda: len(owner.ended) == 1)
    main, beside = yard.recordings(session.run_id)
    assert (main.role, main.meter_id) == ("ac_output", None)
    assert (beside.role, beside.meter_id, beside.instrument) == ("wall_input", second.id, "Meter 2")
    powers = [np.nanmedian(yard.samples(r).columns[Quantity.POWER]) for r in (main, beside)]
    assert powers == [pytest.approx(120, rel=0.02), pytest.approx(90, rel=0.02)]
    analysis = analyse_run(yard, yard.get(Run, session.run_id))
    assert analysis.energy_out.delivered_wh == pytest.approx(60, rel=0.01)


def test_a_second_instrument_that_does_not_answer_is_told_and_the_run_goes_on(yard):
    owner = Owner()
    second = yard.put(replace(yard.meters()[1], address="TCPIP::127.0.0.1::1::SOCKET"))
    session = owner.begin(yard, plan(yard, 0, also=((second, Role.WALL_INPUT),)))
    owner.until(lambda: session.answering and len(session.samples) > 0)
    owner.until(lambda: owner.lost)
    assert session.answering and not session.is_over
    assert "Meter lost: Meter 2" in [mark.word for mark in yard.marks(session.run_id)]
    session.stop()
    owner.until(lambda: owner.ended)
    assert list(owner.ended.values()) == ["stopped by hand"] and not owner.failed


def test_no_window_is_needed(yard):
    """Nothing of this has loaded Qt in a program of its own."""
    import subprocess
    import sys

    said = subprocess.run(
        [sys.executable, "-c", "import sys, yardtoll.running.session, yardtoll.shell.record\n"
         "print([m for m in sys.modules if m.startswith(('PySide6', 'pyqtgraph'))])"],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert said.stdout.strip() == "[]"
