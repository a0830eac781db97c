"""`yardtoll record`: a run from a shell, over the real wire, killed and taken up again."""

import os
import re
import signal
import sqlite3
import subprocess
import sys
import time

import numpy as np
import pytest

from yardtoll.bench.simulated.clock import VirtualClock
from yardtoll.bench.simulated.models import BenchModel, LoadModel, StationModel
from yardtoll.bench.simulated.scpi_server import SimulatedBench
from yardtoll.core.planning.loads import LoadSetting
from yardtoll.store.records import SIMULATED, Load, Meter, Station
from yardtoll.store.yard_file import YardFile

TRUTH = StationModel(
    store_wh=50, overhead_w=0, proportional=0, ohmic_per_w=0, rated_w=300, nominal_v=120
)


@pytest.fixture
def path(tmp_path):
    """A yard with one station, a simulated meter and a heater."""
    with YardFile.create(tmp_path / "a.yard", "Bench") as yard:
        yard.put(Station(name="Sorrel 300", rated_wh=288, rated_w=300))
        yard.put(
            Meter(
                name="Simulated", profile="buffered_meter", address=SIMULATED,
                reading_share=0.01, floor_w=0.5,
            )
        )  # fmt: skip
        settings = (LoadSetting(name="low", watts=60), LoadSetting(name="high", watts=150))
        yard.put(Load(name="Heater", settings=settings))
    return tmp_path / "a.yard"


@pytest.fixture
def wired(path):
    """A meter on the loopback, reading a bench of its own at 200 times the pace."""
    bench = SimulatedBench(
        BenchModel(seed=1, station=TRUTH, load=LoadModel(watts=100)), VirtualClock(speed=200)
    )
    with bench, YardFile.open(path) as yard:
        yard.put(
            Meter(
                name="Wired", profile="buffered_meter", address=bench.resource,
                reading_share=0.01, floor_w=0.5,
            )
        )  # fmt: skip
        yard.close()
        yield bench


def begun(path, *arguments):
    """The command in a process of its own."""
    return subprocess.Popen(
        [sys.executable, "-m", "yardtoll", "record", str(path), "--station", "Sorrel 300",
         *arguments],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, env=os.environ.copy(),
    )  # fmt: skip


def wait_for_samples(path, least):
    """Looks into the file beside the program, which alone may write to it."""
    give_up = time.monotonic() + 60
    raw = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
    try:
        while time.monotonic() < give_up:
            (count,) = raw.execute("SELECT total(row_count) FROM recording_block").fetchone()
            if count >= least:
                return
            time.sleep(0.1)
    finally:
        raw.close()
    raise AssertionError("no samples came")


def test_a_run_to_its_end(run, path):
    code, out, err = run(
        "record", path, "--station", "sorrel 300", "--method", "capacity_ac", "--load",
        "heater, high", "--speed", 3600,
    )  # fmt: skip
    assert code == 0
    delivered, within = map(float, re.search(r"Delivered ([\d.]+) ± ([\d.]+) Wh", out).groups())
    assert out.startswith("run 1 of Sorrel 300: ") and "the outlet switched off" in out
    with YardFile.open(path) as yard:
        (kept,) = yard.runs()
        trace = yard.trace(kept.id)
    assert (kept.state, kept.conditions.load, kept.target_w) == ("finished", "Heater, high", 150)
    summed = np.trapezoid(trace.columns["power"], trace.time_s) / 3600
    assert delivered == pytest.approx(summed, abs=within)
    assert "Caution: Keep the vents clear" in err and "Recording run 1" in err


def test_killed_and_taken_up_again_with_the_gap_marked(path, wired):
    process = begun(path, "--meter", "Wired", "--method", "capacity_ac", "--watts", "100")
    wait_for_samples(path, 200)
    process.kill()
    process.communicate()
    with YardFile.open(path) as yard:
        (left,) = yard.unfinished_runs()
        before = yard.trace(left.id).time_s
    again = begun(path, "--resume")
    out, err = again.communicate(timeout=200)
    assert again.returncode == 0 and "Resuming run 1" in err, err
    assert "the outlet switched off" in out
    with YardFile.open(path) as yard:
        (kept,) = yard.runs()
        trace, words = yard.trace(kept.id), [mark.word for mark in yard.marks(kept.id)]
    np.testing.assert_array_equal(trace.time_s[: before.size], before)
    assert kept.state == "finished" and words[-1] == "Cut-off"
    assert words[0].startswith("Resumed after a gap of")
    # The meter went on counting: but for what ran before its first sample, the store is told whole.
    told = float(re.search(r"Delivered ([\d.]+)", out)[1])
    assert told + trace.columns["energy"][0] == pytest.approx(50, rel=0.001)


@pytest.mark.parametrize(
    ("sent", "state", "said"),
    [
        (signal.SIGINT, "finished", "ended: stopped by hand"),
        (signal.SIGTERM, "running", "left unfinished; --resume continues it"),
    ],
)
def test_ctrl_c_finishes_a_run_and_a_request_to_terminate_leaves_it(path, wired, sent, state, said):
    process = begun(path, "--meter", "Wired", "--method", "capacity_ac", "--watts", "100")
    wait_for_samples(path, 200)
    process.send_signal(sent)
    out, err = process.communicate(timeout=60)
    assert process.returncode == 0 and said in out, err
    with YardFile.open(path) as yard:
        (kept,) = yard.runs()
    assert kept.state == state


@pytest.mark.parametrize(
    ("arguments", "code", "words"),
    [
        ((), 2, "give either --method, or --resume"),
        (("--method", "capacity_ac", "--resume"), 2, "give either --method, or --resume"),
        (("--method", "dancing"), 2, '"dancing" is not one of capacity_ac'),
        (("--method", "capacity_ac"), 2, "needs --load or --watts"),
        (("--method", "capacity_ac", "--size", "huge"), 2, '"huge" is not one of 0.2c'),
        (("--method", "capacity_ac", "--load", "Kettle"), 1, 'no load "Kettle"; there are: Heater'),
        (("--method", "capacity_ac", "--load", "Heater, mid"), 1, 'no setting "mid"; it has: low'),
        (("--method", "capacity_ac", "--watts", 9, "--meter", "X"), 1, 'no meter "X"'),
        (("--method", "capacity_ac", "--watts", 9, "--also", "Simulated"), 2, "like METER=ROLE"),
        (("--method", "capacity_ac", "--watts", 9, "--also", "Simulated=sound"), 1,
         "Simulated is simulated"),
        (("--resume",), 1, "no run of Sorrel 300 was left"),
    ],
)  # fmt: skip
def test_what_cannot_be_recorded_is_told_and_nothing_is_begun(run, path, arguments, code, words):
    found, out, err = run("record", path, "--station", "Sorrel 300", *arguments)
    assert (found, out) == (code, "") and words in " ".join(err.split())
    with YardFile.open(path) as yard:
        assert yard.runs() == []


def test_a_station_with_a_run_left_going_is_not_begun_anew(run, path, wired):
    process = begun(path, "--meter", "Wired", "--method", "capacity_ac", "--watts", "100")
    wait_for_samples(path, 5)
    process.kill()
    process.communicate()
    code, _, err = run("record", path, "--station", "Sorrel 300", "--method", "capacity_ac",
                       "--meter", "Wired", "--watts", 100)  # fmt: skip
    assert code == 1 and "run 1 of Sorrel 300 was left unfinished; --resume" in err
