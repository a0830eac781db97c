"""The demo yard: an invented reviewer's bench, its runs played by the simulated bench.

Nothing in it is typed in: each run is read over the simulated meter's wire with a fixed seed. The
finished yard is kept in the user's cache, so that only the first demo takes its time.
"""

import json
import shutil
import sqlite3
import tempfile
import zlib
from collections.abc import Callable, Iterable
from dataclasses import asdict, dataclass, replace
from datetime import UTC, date, datetime, time, timedelta
from pathlib import Path

import platformdirs

from yardtoll import __version__
from yardtoll.bench.profile import shipped_profiles
from yardtoll.bench.scpi_meter import ScpiMeter
from yardtoll.bench.simulated.clock import VirtualClock
from yardtoll.bench.simulated.models import BenchModel, LoadModel, MeterModel, StationModel
from yardtoll.bench.simulated.scpi_server import SimulatedBench
from yardtoll.core.discharge import analyse_log
from yardtoll.desktop.live_run import CUTOFF_WORD, new_run
from yardtoll.store.errors import YardError
from yardtoll.store.records import SIMULATED, Load, Mark, Meter, Reading, RunState, Station
from yardtoll.store.schema import SCHEMA_VERSION
from yardtoll.store.yard_file import YardFile

DEMO_NAME = "Heron Lane yard"
COPY_NAME = "Demo.yard"
RECIPE = 3
"""Raised when the demo's content changes, so that an older copy in the cache is not used."""
_CHUNK_S = 1800.0
_LONGEST_S = 40 * 3600.0
_READ_EVERY_S = 3600.0

Progress = Callable[[str, float | None], None]


@dataclass(frozen=True)
class DemoRun:
    """One run of the demo: days before today, clock hour, which load, and its story."""

    station: str
    days_ago: int
    hour: float
    load: str
    stopped_at_s: float | None = None
    void_reason: str = ""


STATIONS: dict[str, tuple[Station, StationModel]] = {
    "fennel": (
        Station(name="Fennel 2k", rated_wh=2048, rated_w=2000, chemistry="LFP", source="label"),
        StationModel(
            store_wh=2046,
            overhead_w=17,
            proportional=0.052,
            ohmic_per_w=1.2e-5,
            rated_w=2000,
            sag_ratio=0.012,
            display_bend=1.06,
        ),
    ),
    "tansy": (
        Station(name="Tansy 1200", rated_wh=1229, rated_w=1200, chemistry="LFP", source="manual"),
        StationModel(
            store_wh=1134,
            overhead_w=5,
            proportional=0.062,
            ohmic_per_w=2.0e-5,
            rated_w=1200,
            sag_ratio=0.018,
            display_bend=1.02,
        ),
    ),
    "sorrel": (
        Station(name="Sorrel 300", rated_wh=288, rated_w=300, chemistry="NMC", source="box"),
        StationModel(
            store_wh=270,
            overhead_w=7.5,
            proportional=0.075,
            ohmic_per_w=9e-5,
            rated_w=300,
            sag_ratio=0.05,
            display_bend=1.15,
        ),
    ),
}

LOADS = {
    "lamps": Load(name="Work lamps, two", watts=60),
    "lamps_four": Load(name="Work lamps, four", watts=120),
    "heater_low": Load(name="Oil heater, low", watts=412),
    "heater_mid": Load(name="Oil heater, middle", watts=805),
    "heater_high": Load(name="Oil heater, high", watts=1210),
    "kettle_plate": Load(name="Hot plate, dial at 3", watts=246),
}

METER = Meter(
    name="Bench meter",
    profile="buffered_meter",
    address=SIMULATED,
    reading_share=0.005,
    floor_w=0.2,
    max_w=1800,
)
METER_TRUTH = MeterModel(gain_error=0.0017, offset_w=-0.05)

RUNS = (
    DemoRun("fennel", 4, 9.0, "heater_low", 4600, "stopped early: the wall charger was plugged in"),
    DemoRun("fennel", 4, 13.5, "heater_low"),
    DemoRun("fennel", 3, 9.25, "heater_mid"),
    DemoRun("fennel", 2, 10.0, "heater_high"),
    DemoRun("sorrel", 3, 14.0, "lamps"),
    DemoRun("sorrel", 2, 15.0, "lamps_four"),
    DemoRun("tansy", 2, 8.5, "kettle_plate"),
    DemoRun("tansy", 1, 9.0, "heater_low"),
)


def fresh_demo(folder: Path | None = None, progress: Progress = lambda *_: None) -> Path:
    """A new copy of the demo yard, its runs in the days before today.

    Args:
        folder: where to put it; a new temporary folder by default.
        progress: told how far the first making is; may raise to stop it.
    """
    template = _template(progress)
    folder = folder or Path(tempfile.mkdtemp(prefix="yardtoll-demo-"))
    copy = folder / COPY_NAME
    shutil.copy2(template, copy)
    _move_to_today(copy)
    return copy


def demo_left_running(recent: Iterable[Path]) -> Path | None:
    """The latest demo copy among the yards opened lately in which a run was left going."""
    for path in recent:
        if path.name == COPY_NAME:
            try:
                with YardFile.open(path) as yard:
                    if not yard.read_only and yard.unfinished_runs():
                        return path
            except YardError:
                continue
    return None


def build_demo(path: Path, today: date, progress: Progress = lambda *_: None) -> None:
    """Play every run of the demo on the simulated bench and keep it in a new yard."""
    with YardFile.create(path, DEMO_NAME) as yard:
        stations = {key: yard.put(station) for key, (station, _) in STATIONS.items()}
        loads = {key: yard.put(load) for key, load in LOADS.items()}
        meter = yard.put(METER)
        for number, run in enumerate(RUNS):
            progress(f"Playing run {number + 1} of {len(RUNS)}", number / len(RUNS))
            _play(
                yard, run, stations[run.station], loads[run.load], meter, today, seed=100 + number
            )


def _play(
    yard: YardFile,
    plan: DemoRun,
    station: Station,
    load: Load,
    meter: Meter,
    today: date,
    seed: int,
) -> None:
    """One run from load-on to cut-off, over the wire."""
    truth = STATIONS[plan.station][1]
    model = BenchModel(
        seed=seed, station=truth, load=LoadModel(watts=load.watts, on_s=70.0), meter=METER_TRUTH
    )
    run = new_run(yard, station, meter, load, (100.0, 0.0), model)
    assert run.id is not None
    clock = _HandClock()
    with (
        SimulatedBench(model, clock) as bench,
        ScpiMeter(bench.resource, shipped_profiles()["buffered_meter"]) as wire,
    ):
        last = plan.stopped_at_s or _LONGEST_S
        while clock.at_s < last:
            clock.at_s = min(clock.at_s + _CHUNK_S, last)
            block = wire.read_new()
            yard.append_samples(run.id, block.time_s, block.columns)
            state = bench.truth()
            if state.shut_off_s is None and clock.at_s % _READ_EVERY_S == 0:
                soc = truth.display_soc(state.left_wh)
                yard.put(Reading(run_id=run.id, time_s=clock.at_s - 1, kind="soc", value=soc))
            if state.shut_off_s is not None and clock.at_s > state.shut_off_s + 60:
                break
    yard.merge_samples(run.id)
    trace = yard.trace(run.id)
    assert trace is not None
    span = analyse_log(trace).span
    start = datetime.combine(today, time(), UTC) + timedelta(days=-plan.days_ago, hours=plan.hour)
    yard.put(Mark(run_id=run.id, time_s=span.start_s + 540, word="Fan on"))
    if not span.no_cutoff:
        yard.put(Mark(run_id=run.id, time_s=span.cutoff_s, word=CUTOFF_WORD))
    yard.put(
        replace(
            run,
            state=(RunState.VOID if plan.void_reason else RunState.FINISHED).value,
            void_reason=plan.void_reason,
            origin="demo",
            started_at=start.isoformat(timespec="milliseconds"),
            ended_at=(start + timedelta(seconds=float(trace.time_s[-1]))).isoformat(),
        )
    )


class _HandClock(VirtualClock):
    """A bench clock moved by hand, as fast as the wire carries."""

    def __init__(self) -> None:
        self.at_s = 0.0
        super().__init__(now_s=lambda: self.at_s)


def _template(progress: Progress) -> Path:
    """The demo yard in the user's cache, made when it is not there yet."""
    cache = Path(platformdirs.user_cache_dir("yardtoll"))
    cache.mkdir(parents=True, exist_ok=True)
    recipe = json.dumps([RECIPE, SCHEMA_VERSION, __version__, [asdict(r) for r in RUNS]])
    template = cache / f"demo-{zlib.crc32(recipe.encode()):08x}.yard"
    if not template.exists():
        with tempfile.TemporaryDirectory(dir=cache) as folder:
            made = Path(folder) / "demo.yard"
            build_demo(made, datetime.now().astimezone().date(), progress)
            # Whole or not at all: another window may be making the same one.
            made.replace(template)
    return template


def _move_to_today(path: Path) -> None:
    """Shift all runs by whole days so that the last was yesterday."""
    newest = min(run.days_ago for run in RUNS)
    with sqlite3.connect(path) as raw:
        latest = raw.execute("SELECT max(started_at) FROM run").fetchone()[0]
        today = datetime.now().astimezone().date()
        days = (today - timedelta(days=newest) - datetime.fromisoformat(latest).date()).days
        for run_id, *times in raw.execute("SELECT id, started_at, ended_at FROM run").fetchall():
            moved = [(datetime.fromisoformat(t) + timedelta(days=days)).isoformat() for t in times]
            raw.execute("UPDATE run SET started_at=?, ended_at=? WHERE id=?", (*moved, run_id))
    raw.close()
