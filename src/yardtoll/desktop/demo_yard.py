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
from typing import Any

import platformdirs

from yardtoll import __version__
from yardtoll.bench.profile import shipped_profiles
from yardtoll.bench.scpi_meter import ScpiMeter
from yardtoll.bench.simulated.charging import ChargerModel
from yardtoll.bench.simulated.clock import VirtualClock
from yardtoll.bench.simulated.models import (
    BenchModel,
    LoadModel,
    MeterModel,
    Simulation,
    StationModel,
)
from yardtoll.bench.simulated.scpi_server import SimulatedBench
from yardtoll.core.claims.reading.read import read_claims
from yardtoll.core.discharge import analyse_log
from yardtoll.core.methods import METHODS, Flow
from yardtoll.desktop.live_run import CUTOFF_WORD, new_run
from yardtoll.desktop.run_plan import RunPlan, plan_for_load
from yardtoll.store.errors import YardError
from yardtoll.store.records import (
    SIMULATED,
    Load,
    Mark,
    Meter,
    Reading,
    Receiving,
    RunState,
    Site,
    SolarArray,
    Station,
    StoredCircuit,
    StoredClaim,
    StoredCord,
)
from yardtoll.store.schema import SCHEMA_VERSION
from yardtoll.store.yard_file import YardFile

DEMO_NAME = "Heron Lane yard"
COPY_NAME = "Demo.yard"
RECIPE = 5
"""Raised when the demo's content changes, so that an older copy in the cache is not used."""
_CHUNK_S = 1800.0
_LONGEST_S = 40 * 3600.0
_READ_EVERY_S = 3600.0
_CHARGE_CHUNK_S = 300.0
DISPLAY_GAIN = 0.985
"""The displays of the demo show a little less than flows."""

Progress = Callable[[str, float | None], None]


@dataclass(frozen=True)
class DemoRun:
    """One run of the demo: days before today, clock hour, which load, and its story.

    ``method`` other than a capacity run has no load: a charger, or nothing, takes its place.
    """

    station: str
    days_ago: int
    hour: float
    load: str = ""
    setting: int = 0
    count: int = 1
    stopped_at_s: float | None = None
    void_reason: str = ""
    method: str = "capacity_ac"


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


def _load(name: str, *settings: tuple[str, float], **facts: Any) -> Load:
    made = [{"name": words, "watts": watts, "measured": False} for words, watts in settings]
    return Load(name=name, settings=made, **facts)


LOADS = {
    "lamp": _load("Work lamp", ("on", 60.0), count=4, kind="electronic", power_factor=0.95),
    "heater": _load(
        "Oil heater", ("low", 412.0), ("middle", 805.0), ("high", 1210.0), cold_share=0.1
    ),
    "plate": _load("Hot plate", ("dial at 3", 246.0), ("dial at 6", 610.0), cold_share=0.05),
    "gun": _load("Heat gun", ("low", 740.0), ("high", 1480.0), inrush=1.2),
    "pump": _load("Pond pump", ("on", 180.0), kind="inductive", inrush=4.0, power_factor=0.8),
}

METER = Meter(
    name="Bench meter",
    profile="buffered_meter",
    address=SIMULATED,
    reading_share=0.005,
    floor_w=0.2,
    max_w=1800,
    max_a=15,
)
CIRCUIT = StoredCircuit(name="Shed, north wall", breaker_a=15, volts=120)
CORDS = (
    StoredCord(name="Orange, 15 m", length_m=15, gauge="14 AWG", rated_a=15),
    StoredCord(name="Thin brown, 5 m", length_m=5, gauge="18 AWG"),
)
ARRAY = SolarArray(
    name="Folding pair in series",
    series=2,
    parallel=1,
    module_w=200,
    voc_v=24.2,
    vmp_v=20.1,
    isc_a=10.6,
    imp_a=9.95,
)
SITE = Site(
    latitude=43.1,
    longitude=-88.4,
    altitude_m=260,
    horizon_deg=8,
    price_per_kwh=0.17,
    currency="USD",
    temperature_c=19,
)
RECEIVED = {
    "fennel": Receiving(
        station_id=0,
        received_on="2026-10-02",
        price=1149,
        list_price=1399,
        currency="USD",
        firmware="2.1.7",
        soc_percent=31,
        weight_kg=23.4,
        lift="two hands",
        conditioned=True,
        accessories=[
            {"name": "AC charging cord", "present": True},
            {"name": "Car charging cable", "present": True},
            {"name": "Solar adapter", "present": False},
        ],
    ),
    "tansy": Receiving(
        station_id=0,
        received_on="2026-10-20",
        price=640,
        currency="USD",
        soc_percent=58,
        weight_kg=14.1,
        lift="one hand",
        conditioned=True,
        accessories=[{"name": "AC charging cord", "present": True}],
    ),
}
CLAIM_TEXTS: tuple[tuple[str, str, str], ...] = (
    (
        "fennel",
        "label",
        "Rated capacity: 2048 Wh\nRated power: 2000 W\nAC output: 4 outlets, 120 V, 60 Hz, 16.7 A\n"
        "Chemistry: LFP\nSolar input: 11–60 V, 15 A",
    ),
    (
        "fennel",
        "manual",
        "Battery: 16S 3.2 V 40 Ah\nSurge power: 4000 W for 5 s\nUSB-C: 2 × 100 W\n"
        "USB-A: 4 × 12 W\nCar port: 12.6 V, 10 A, 126 W\nDC5521: 2 × 12.6 V, 3 A\n"
        "Total DC output: 160 W shared\nAC input: 1400 W, 15 A\n"
        "Solar input: 11–150 V, 15 A, 600 W\n"
        "UPS: switchover 20 ms\nCharge temperature: 0–45 °C\nWeight: 23.0 kg",
    ),
    (
        "fennel",
        "listing",
        "0–80 % in 58 min\nWall + solar: 1800 W\nPure sine wave\nCycle life: 3500 cycles to 80 % "
        "capacity\nIdle consumption: 15 W (AC on)\nCar charging: 12 V, 8 A",
    ),
    (
        "tansy",
        "manual",
        "Capacity: 1229 Wh\nChemistry: LFP\nAC output: 3 outlets, 120 V, 60 Hz, 1200 W, surge "
        "2400 W\nUSB-C: 1 × 100 W\nUSB-A: 2 × 18 W\nCar port: 13.6 V, 8 A\n"
        "AC charging: 660 W, full in 2.1 h\nSolar input: 12–50 V, 10 A, 300 W\nWeight: 31 lb\n"
        "Battery: 384 Ah, 3.2 V",
    ),
    (
        "sorrel",
        "box",
        "Capacity: 288 Wh (80 Ah 3.6 V)\nChemistry: NMC\nAC output: 2 outlets, 120 V, 60 Hz, "
        "300 W\nPeak: 600 W\nUSB-C: 1 × 60 W\nUSB-A: 2 × 12 W\nCar port: 12 V, 10 A\n"
        "Solar input: 12–30 V, 100 W\nPure sine wave\nWeight: 3.4 kg",
    ),
)
SET_LIKE = {
    "floor": "0",
    "charge_mode": "standard",
    "voltage_lowering": "off",
    "auto_off": "off",
    "ups": "not there",
}
METER_TRUTH = MeterModel(gain_error=0.0017, offset_w=-0.05)

RUNS = (
    DemoRun(
        "fennel",
        4,
        9.0,
        "heater",
        stopped_at_s=4600,
        void_reason="stopped early: the wall charger was plugged in",
    ),
    DemoRun("fennel", 4, 13.5, "heater"),
    DemoRun("fennel", 3, 9.25, "heater", setting=1),
    DemoRun("fennel", 2, 10.0, "heater", setting=2),
    DemoRun("fennel", 2, 13.0, method="recharge_wall"),
    DemoRun("fennel", 2, 20.0, method="idle_ac"),
    DemoRun("sorrel", 3, 14.0, "lamp"),
    DemoRun("sorrel", 2, 15.0, "lamp", count=2),
    DemoRun("tansy", 2, 8.5, "plate"),
    DemoRun("tansy", 1, 9.0, "heater"),
    DemoRun("tansy", 1, 13.0, method="recharge_wall"),
)
CHARGERS = {
    "fennel": ChargerModel(full_w=1385, efficiency=0.915, ramp_s=90, taper_from=0.83, on_s=70.0),
    "tansy": ChargerModel(
        full_w=652, efficiency=0.9, ramp_s=300, taper_from=0.85, hot_at=0.62, hot_s=1500, on_s=70.0
    ),
}


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
        for record in (CIRCUIT, *CORDS, ARRAY, SITE):
            yard.put(record)
        _keep_claims(yard, {key: station.id or 0 for key, station in stations.items()})
        for number, run in enumerate(RUNS):
            progress(f"Playing run {number + 1} of {len(RUNS)}", number / len(RUNS))
            load = loads[run.load] if run.load else None
            _play(yard, run, stations[run.station], load, meter, today, seed=100 + number)


def _keep_claims(yard: YardFile, station_ids: dict[str, int]) -> None:
    """The makers' texts, read as a pasted listing is, and how the stations came."""
    for key, source, text in CLAIM_TEXTS:
        for read in read_claims(text).claims:
            yard.put(
                StoredClaim(
                    station_id=station_ids[key],
                    kind=read.quantity,
                    value=read.value,
                    words=read.words,
                    condition=read.condition,
                    source=source,
                    text=read.text,
                )
            )
    for key, received in RECEIVED.items():
        yard.put(replace(received, station_id=station_ids[key]))


def _play(
    yard: YardFile,
    demo_run: DemoRun,
    station: Station,
    load: Load | None,
    meter: Meter,
    today: date,
    seed: int,
) -> None:
    """One run from its start to its end, over the wire."""
    truth = STATIONS[demo_run.station][1]
    plan = _plan_of(demo_run, station, load, meter)
    charges = plan.about.flow is Flow.IN
    model = BenchModel(
        seed=seed,
        station=truth,
        load=LoadModel(watts=plan.load_w, on_s=70.0),
        meter=METER_TRUTH,
        charger=CHARGERS[demo_run.station] if charges else None,
        start_share=plan.soc[0] / 100,
    )
    run = new_run(yard, plan, model)
    assert run.id is not None
    clock = _HandClock()
    with (
        SimulatedBench(model, clock) as bench,
        ScpiMeter(bench.resource, shipped_profiles()["buffered_meter"]) as wire,
    ):
        last = demo_run.stopped_at_s or plan.chosen_size.hold_s or _LONGEST_S
        chunk_s = _CHARGE_CHUNK_S if charges else _CHUNK_S
        read_every_s = _CHARGE_CHUNK_S if charges else _READ_EVERY_S
        while clock.at_s < last:
            clock.at_s = min(clock.at_s + chunk_s, last)
            block = wire.read_new()
            yard.append_samples(run.id, block.time_s, block.columns)
            state = bench.truth()
            if state.shut_off_s is None and clock.at_s % read_every_s == 0:
                soc = truth.display_soc(state.left_wh)
                yard.put(Reading(run_id=run.id, time_s=clock.at_s - 1, kind="soc", value=soc))
                if plan.parts:
                    shown = round(DISPLAY_GAIN * plan.load_w)
                    yard.put(
                        Reading(run_id=run.id, time_s=clock.at_s - 1, kind="display_w", value=shown)
                    )
            if _is_done(state, clock.at_s, charges=charges):
                break
    yard.merge_samples(run.id)
    trace = yard.trace(run.id)
    assert trace is not None
    if plan.about.flow is Flow.OUT:
        span = analyse_log(trace).span
        yard.put(Mark(run_id=run.id, time_s=span.start_s + 540, word="Fan on"))
        if not span.no_cutoff:
            yard.put(Mark(run_id=run.id, time_s=span.cutoff_s, word=CUTOFF_WORD))
    start = datetime.combine(today, time(), UTC) + timedelta(
        days=-demo_run.days_ago, hours=demo_run.hour
    )
    yard.put(
        replace(
            run,
            state=(RunState.VOID if demo_run.void_reason else RunState.FINISHED).value,
            void_reason=demo_run.void_reason,
            origin="demo",
            started_at=start.isoformat(timespec="milliseconds"),
            ended_at=(start + timedelta(seconds=float(trace.time_s[-1]))).isoformat(),
        )
    )


def _plan_of(demo_run: DemoRun, station: Station, load: Load | None, meter: Meter) -> RunPlan:
    """The plan a reviewer would have made for a run of the demo."""
    conditions = {"settings": SET_LIKE}
    if load is not None:
        return plan_for_load(
            station, meter, load, demo_run.setting, demo_run.count, conditions=conditions
        )
    method = METHODS[demo_run.method]
    return RunPlan(
        station=station,
        meter=replace(meter, own_draw_w=0.0),
        method=method.key,
        size=method.sizes[0].key,
        target_w=CHARGERS[demo_run.station].full_w if method.flow is Flow.IN else None,
        soc=method.soc,
        conditions=conditions,
    )


def _is_done(state: Simulation, at_s: float, *, charges: bool) -> bool:
    """Whether the bench has played long enough past the end."""
    if charges:
        return state.left_wh >= state.model.station.store_wh
    return state.shut_off_s is not None and at_s > state.shut_off_s + 60


class _HandClock(VirtualClock):
    """A bench clock moved by hand, as fast as the wire carries."""

    def __init__(self) -> None:
        self.at_s = 0.0
        super().__init__(now_s=lambda: self.at_s)


def _template(progress: Progress) -> Path:
    """The demo yard in the user's cache, made when it is not there yet."""
    cache = Path(platformdirs.user_cache_dir("yardtoll"))
    cache.mkdir(parents=True, exist_ok=True)
    recipe = json.dumps(
        [RECIPE, SCHEMA_VERSION, __version__, [asdict(r) for r in RUNS], CLAIM_TEXTS]
    )
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
