"""A recording whose process is stopped for a while, as a suspended computer stops it."""

import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from tests.hardness.hostile_meter import POLLED, HostileMeter

from yardtoll.core.planning.loads import LoadSetting
from yardtoll.store.records import Load, Meter, Station
from yardtoll.store.yard_file import YardFile


def stopped_for(away_s: float) -> str:
    """What is wrong with a recording that was stopped for so long; "" where nothing is."""
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
            [sys.executable, "-m", "yardtoll", "record", str(path), "--station", "Sorrel",
             "--method", "capacity_ac", "--meter", "Meter", "--load", "Lamp"],
            stderr=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            env={**os.environ, "XDG_CONFIG_HOME": str(folder / "config")},
        )  # fmt: skip
        try:
            _until(lambda: meter.lines.count("POW?") > 5)
            os.kill(child.pid, signal.SIGSTOP)
            time.sleep(away_s)
            before = len(meter.lines)
            os.kill(child.pid, signal.SIGCONT)
            _until(lambda: len(meter.lines) > before + 12)
            child.send_signal(signal.SIGINT)
            child.wait(60)
        finally:
            child.kill()
        return _wrong(path, away_s)


def _wrong(path: Path, away_s: float) -> str:
    with YardFile.open(path) as yard:
        (run,) = yard.runs()
        trace = yard.trace(run.id or 0)
    if run.state != "finished" or trace is None:
        return f"the run is {run.state}"
    longest_s = float(np.max(np.diff(trace.time_s)))
    if not away_s - 1 <= longest_s <= away_s + 3:
        return f"a gap of {longest_s:.1f} s for {away_s:.1f} s"
    return "" if np.all(trace.columns["power"] == 100.0) else "a wrong reading"


def _until(done, patience_s: float = 60.0) -> None:  # type: ignore[no-untyped-def]
    give_up = time.monotonic() + patience_s
    while not done():
        if time.monotonic() > give_up:
            raise TimeoutError("it never came")
        time.sleep(0.05)
