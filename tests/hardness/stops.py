"""A recording whose process is stopped for a while, or under which the computer's clock is set."""

import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
from tests.hardness.hostile_meter import POLLED, HostileMeter

from yardtoll.core.planning.loads import LoadSetting
from yardtoll.store.records import Load, Meter, Station
from yardtoll.store.yard_file import YardFile

_CLOCK = """
import signal, sys, time
import datetime as real
shift_s = [float(sys.argv[1]), float(sys.argv[2])]
true_time = time.time
time.time = lambda: true_time() + shift_s[0]

class Set(real.datetime):
    @classmethod
    def now(cls, tz=None):
        return real.datetime.fromtimestamp(time.time(), tz)

def move(*_):
    shift_s[0] += shift_s[1]

signal.signal(signal.SIGUSR1, move)
from yardtoll.store import site_time, yard_file
from yardtoll.running import session
for module in (site_time, yard_file, session):
    if hasattr(module, "datetime"):
        module.datetime = Set
sys.argv[1:] = sys.argv[3:]
from yardtoll.cli import main
main()
"""
"""A program whose clock differs from the computer's, and is set by so much on a signal."""


def stopped_for(away_s: float) -> str:
    """What is wrong with a recording that was stopped for so long; "" where nothing is."""

    def stop(child: subprocess.Popen[bytes], meter: HostileMeter) -> None:
        os.kill(child.pid, signal.SIGSTOP)
        time.sleep(away_s)

    def go_on(child: subprocess.Popen[bytes]) -> None:
        os.kill(child.pid, signal.SIGCONT)

    return _recorded(["-m", "yardtoll"], stop, go_on, away_s)


def clock_set_by(shift_s: float, at_first_s: float = 0.0, zone: str = "") -> str:
    """What is wrong with a recording under which the clock was set by so much.

    Args:
        at_first_s: how far the program's clock is off from the beginning.
        zone: of the computer.
    """

    def move(child: subprocess.Popen[bytes], meter: HostileMeter) -> None:
        os.kill(child.pid, signal.SIGUSR1)
        time.sleep(1.5)

    program = ["-c", _CLOCK, str(at_first_s), str(shift_s)]
    return _recorded(program, move, lambda _: None, 0.0, zone, shift_s)


def clocks_go_back() -> str:
    """A recording over the hour at which summer time ends, at a bench in Berlin."""
    change = datetime(2026, 10, 25, 1, 0, tzinfo=UTC).timestamp()
    return clock_set_by(0.0, change - time.time() - 4.0, "Europe/Berlin")


def _recorded(
    program: list[str],
    trouble: Callable[[subprocess.Popen[bytes], HostileMeter], None],
    over: Callable[[subprocess.Popen[bytes]], None],
    away_s: float,
    zone: str = "",
    shift_s: float = 0.0,
) -> str:
    with tempfile.TemporaryDirectory(prefix="yardtoll-hardness-") as name, HostileMeter() as meter:
        folder = Path(name)
        profiles = folder / "config" / "yardtoll" / "profiles"
        profiles.mkdir(parents=True)
        (profiles / "hostile.toml").write_text(f'protocol = "scpi"\n{POLLED}', "utf-8")
        path = folder / "s.yard"
        with YardFile.create(path, "S") as yard:
            yard.put(Station(name="Sorrel", rated_wh=300, rated_w=300))
            yard.put(
                Meter(name="Meter", profile="hostile", address=meter.address,
                      reading_share=0.01, floor_w=0.1)
            )  # fmt: skip
            yard.put(Load(name="Lamp", settings=(LoadSetting(name="on", watts=100.0),)))
        child = subprocess.Popen(
            [sys.executable, *program, "record", str(path), "--station", "Sorrel",
             "--method", "capacity_ac", "--meter", "Meter", "--load", "Lamp"],
            stderr=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            env={**os.environ, "XDG_CONFIG_HOME": str(folder / "config"), "TZ": zone or "UTC"},
        )  # fmt: skip
        try:
            _until(lambda: meter.lines.count("POW?") > 5)
            trouble(child, meter)
            before = len(meter.lines)
            over(child)
            _until(lambda: len(meter.lines) > before + 12)
            child.send_signal(signal.SIGINT)
            child.wait(60)
        finally:
            child.kill()
        return _wrong(path, away_s, shift_s)


def _wrong(path: Path, away_s: float, shift_s: float) -> str:
    with YardFile.open(path) as yard:
        (run,) = yard.runs()
        trace = yard.trace(run.id or 0)
    if run.state != "finished" or trace is None:
        return f"the run is {run.state}"
    longest_s = float(np.max(np.diff(trace.time_s)))
    ended = datetime.fromisoformat(run.ended_at or "")
    if not np.all(np.diff(trace.time_s) > 0):
        return "times that do not rise"
    by_clock_s = (ended - datetime.fromisoformat(run.started_at)).total_seconds()
    if abs(by_clock_s - shift_s - trace.time_s[-1]) > 10:
        return f"the clock was not set: {by_clock_s:.0f} s by it"
    if not away_s - 1 <= longest_s <= away_s + 3:
        return f"a gap of {longest_s:.1f} s for {away_s:.1f} s"
    return "" if np.all(trace.columns["power"] == 100.0) else "a wrong reading"


def _until(done, patience_s: float = 60.0) -> None:  # type: ignore[no-untyped-def]
    give_up = time.monotonic() + patience_s
    while not done():
        if time.monotonic() > give_up:
            raise TimeoutError("it never came")
        time.sleep(0.05)
