"""The demo yard: an invented reviewer's bench, its runs played by the simulated bench.

Nothing in it is typed in: each run is read over the simulated meter's wire with a fixed seed. The
finished yard is kept in the user's cache, so that only the first demo takes its time.
"""

import contextlib
import json
import shutil
import sqlite3
import tempfile
import zlib
from collections.abc import Callable, Iterable
from dataclasses import asdict, replace
from datetime import UTC, date, datetime, time, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import platformdirs

from yardtoll import __version__
from yardtoll.bench.instruments import open_simulated
from yardtoll.bench.simulated.clock import VirtualClock
from yardtoll.bench.simulated.models import (
    BenchModel,
    LoadModel,
    Simulation,
    StationModel,
)
from yardtoll.bench.simulated.scpi_server import SimulatedBench
from yardtoll.core.claims.reading.read import read_claims
from yardtoll.core.discharge.meter_log import analyse_log
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.methods import METHODS
from yardtoll.core.methods.endurance_ac import METHOD as ENDURANCE
from yardtoll.core.planning.loads import MixPart
from yardtoll.demo.content import (
    ARRAY,
    CHARGERS,
    CIRCUIT,
    CLAIM_TEXTS,
    CORDS,
    FRIDGE,
    LATER_RUNS,
    LOADS,
    METER,
    METER_TRUTH,
    OUTAGES,
    PANEL_METER,
    PORT_METER,
    RECEIVED,
    RUNS,
    SCOPE,
    SET_LIKE,
    SITE,
    SMALL,
    SOUND_METER,
    STATIONS,
    THREE,
    DemoRun,
)
from yardtoll.demo.outputs import keep_tests
from yardtoll.review.analysis import analyse_run
from yardtoll.review.endurance.tried import appliance_from
from yardtoll.running.plan import RunPlan, plan_for_load
from yardtoll.store.errors import YardError
from yardtoll.store.noted import CUT_OFF
from yardtoll.store.records import (
    Appliance,
    Conditions,
    Entry,
    Load,
    Mark,
    Meter,
    Reading,
    ReadingKind,
    Recording,
    Run,
    RunState,
    Station,
    StoredClaim,
)
from yardtoll.store.schema import SCHEMA_VERSION
from yardtoll.store.site_time import zone_of
from yardtoll.store.yard_file import YardFile

if TYPE_CHECKING:
    from yardtoll.demo.sun import DemoSun

DEMO_NAME = "Heron Lane yard"
COPY_NAME = "Demo.yard"
RECIPE = 24
"""Raised when the demo's content changes, so that an older copy in the cache is not used."""
_CHUNK_S = 1800.0
_LONGEST_S = 40 * 3600.0
_READ_EVERY_S = 3600.0
_CHARGE_CHUNK_S = 300.0
DISPLAY_GAIN = 0.985
"""The displays of the demo show a little less than flows."""

_COPIES = "yardtoll-demo-"
_OLD_COPY_S = 14 * 86_400.0

Progress = Callable[[str, float | None], None]


def fresh_demo(folder: Path | None = None, progress: Progress = lambda *_: None) -> Path:
    """A new copy of the demo yard, its runs in the days before today.

    Args:
        folder: where to put it; a new temporary folder by default.
        progress: called with the progress of the first making; may raise to stop it.
    """
    template = _template(progress)
    if folder is None:
        _drop_old_copies()
    folder = folder or Path(tempfile.mkdtemp(prefix=_COPIES))
    copy = folder / COPY_NAME
    for left in (f"{COPY_NAME}-wal", f"{COPY_NAME}-shm"):
        # What a killed program left of an earlier copy would be taken for this one's.
        (folder / left).unlink(missing_ok=True)
    shutil.copy2(template, copy)
    _move_to_today(copy)
    return copy


def _drop_old_copies() -> None:
    """Demo copies that nobody has touched for two weeks."""
    before_s = datetime.now(UTC).timestamp() - _OLD_COPY_S
    for folder in Path(tempfile.gettempdir()).glob(f"{_COPIES}*"):
        with contextlib.suppress(OSError):
            newest_s = max((file.stat().st_mtime for file in folder.iterdir()), default=0.0)
            if folder.is_dir() and not folder.is_symlink() and newest_s < before_s:
                shutil.rmtree(folder)


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
        panel = yard.put(PANEL_METER)
        for further in (SCOPE, PORT_METER, SOUND_METER):
            yard.put(further)
        for record in (CIRCUIT, *CORDS, ARRAY, THREE, SMALL, SITE):
            yard.put(record)
        _keep_claims(yard, {key: station.id or 0 for key, station in stations.items()})
        for number, run in enumerate(RUNS):
            progress(f"Playing run {number + 1} of {len(RUNS)}", number / len(RUNS))
            load = loads[run.load] if run.load else None
            used = panel if run.watts > (meter.max_w or 0.0) else meter
            _play(yard, run, stations[run.station], load, used, today, seed=100 + number)
        progress("Trying the outlets", 1.0)
        keep_tests(yard, stations, today)
        for number, run in enumerate(LATER_RUNS):
            _play(yard, run, stations[run.station], FRIDGE, meter, today, seed=200 + number)
        _keep_endurance(yard, stations, today)


def _keep_endurance(yard: YardFile, stations: dict[str, Station], today: date) -> None:
    """Outages that were asked for, one of them tried, and the appliance that was learned by it."""
    evening = datetime.combine(today, time(18), zone_of(SITE))
    at = evening.astimezone(UTC).isoformat(timespec="milliseconds")
    for key, outage in OUTAGES.items():
        tried = [r for r in yard.runs(stations[key].id) if r.method == ENDURANCE.key]
        yard.put(
            replace(
                outage,
                station_id=stations[key].id or 0,
                begins_at=at,
                run_id=tried[0].id if tried else None,
            )
        )
        for run in tried:
            made = appliance_from(analyse_run(yard, run), FRIDGE.name)
            if isinstance(made, Appliance):
                yard.put(made)


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
                    wording=read.wording,
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
    day = today - timedelta(days=demo_run.days_ago)
    start = datetime.combine(day, time(), zone_of(SITE)) + timedelta(hours=demo_run.hour)
    start = start.astimezone(UTC)
    sun = _sun_of(demo_run, start)
    plan = _plan_of(demo_run, station, load, meter)
    if sun is not None:
        plan = replace(plan, soc=(round(100 * sun.start_share), plan.soc[1]))
    model = _model_of(demo_run, plan, sun, seed)
    # A day of sun as a table is long, and conditions are read with every list of runs.
    run = plan.begin(yard, simulated_bench=asdict(model) if sun is None else None)
    _record(yard, run, plan, model, sun, demo_run.stopped_at_s)
    assert run.id is not None
    yard.merge_samples(run.id)
    trace = yard.trace(run.id)
    assert trace is not None
    if sun is not None:
        _keep_logger(yard, run.id, trace, sun)
    for position, line in enumerate(demo_run.lines, 1):
        yard.put(Entry(run_id=run.id, position=position, fields=dict(line)))
    if plan.about.delivers:
        span = analyse_log(trace).span
        yard.put(Mark(run_id=run.id, time_s=span.start_s + 540, word="Fan on"))
        if not span.no_cutoff:
            mark = Mark(run_id=run.id, time_s=span.cutoff_s, word=CUT_OFF, ends_run=True)
            yard.put(mark)
    yard.put(
        replace(
            run,
            state=(RunState.VOID if demo_run.void_reason else RunState.FINISHED).value,
            void_reason=demo_run.void_reason,
            soc_to=_last_soc(yard, run) if demo_run.watts else run.soc_to,
            ended_by=demo_run.ended_by,
            origin="demo",
            started_at=start.isoformat(timespec="milliseconds"),
            ended_at=(start + timedelta(seconds=float(trace.time_s[-1]))).isoformat(),
        )
    )


def _last_soc(yard: YardFile, run: Run) -> float:
    """What the display said last."""
    said = [r.value for r in yard.readings(run.id or 0) if r.kind == ReadingKind.SOC.value]
    return min(said[-1], run.soc_from - 1) if said else run.soc_to


def _record(
    yard: YardFile,
    run: Run,
    plan: RunPlan,
    model: BenchModel,
    sun: "DemoSun | None",
    stopped_at_s: float | None,
) -> None:
    """Samples over the wire, and the display read now and then, up to the end."""
    charges = plan.about.charges
    main = yard.main_recording(run.id or 0)
    assert main is not None
    assert main.id is not None
    assert run.id is not None
    clock = _HandClock()
    wire = open_simulated(SimulatedBench(model, clock))
    wire.open()
    last = stopped_at_s or plan.chosen_size.hold_s or _LONGEST_S
    last = sun.length_s if sun is not None else last
    chunk_s = _CHARGE_CHUNK_S if charges else _CHUNK_S
    read_every_s = _CHARGE_CHUNK_S if charges else _READ_EVERY_S
    try:
        while clock.at_s < last:
            clock.at_s = min(clock.at_s + chunk_s, last)
            block = wire.read_new()
            yard.append_samples(main.id, block.time_s, block.columns)
            state = wire.truth()
            if state.shut_off_s is None and clock.at_s % read_every_s == 0:
                soc = model.station.display_soc(state.left_wh)
                yard.put(Reading(run_id=run.id, time_s=clock.at_s - 1, kind="soc", value=soc))
                if plan.parts and plan.about.steady:
                    shown = round(DISPLAY_GAIN * plan.load_w)
                    yard.put(
                        Reading(run_id=run.id, time_s=clock.at_s - 1, kind="display_w", value=shown)
                    )
            if _is_done(state, clock.at_s, charges=charges):
                break
    finally:
        wire.shut_down()


def _keep_logger(yard: YardFile, run_id: int, trace: Trace, sun: "DemoSun") -> None:
    """What the irradiance logger beside the panels recorded, at the meter's times."""
    if sun.light is None:
        return
    main = yard.main_recording(run_id)
    ends = yard.first_and_last_sample_s(main.id or 0) if main is not None else None
    began_s = ends[0] if ends is not None else 0.0
    light = np.round(np.interp(trace.time_s + began_s, sun.time_s, sun.light), 1)
    yard.keep_recording(
        Recording(run_id=run_id, role=Role.IRRADIANCE.value, instrument="Irradiance logger"),
        Trace(name="irradiance", time_s=trace.time_s, columns={Quantity.IRRADIANCE: light}),
    )


def _model_of(demo_run: DemoRun, plan: RunPlan, sun: "DemoSun | None", seed: int) -> BenchModel:
    """The bench that plays a run."""
    charges = plan.about.charges
    truth = STATIONS[demo_run.station][1]
    if demo_run.lowers:
        truth = replace(truth, lowers_to_w=truth.rated_w)
    # Loads of several heaters at their ratings are told by their warm watts.
    cold = 0.0 if demo_run.watts else 0.10
    period_s, share_on = demo_run.cycles or (0.0, 1.0)
    return BenchModel(
        seed=seed,
        station=_seen_from(truth, sun),
        load=LoadModel(
            watts=plan.load_w,
            on_s=70.0,
            steps=demo_run.steps,
            cold_share=cold,
            thermostat_period_s=period_s,
            thermostat_duty=share_on,
        ),
        meter=METER_TRUTH,
        charger=CHARGERS.get(demo_run.station) if charges and sun is None else None,
        inflow=sun.inflow if sun is not None else None,
        start_share=plan.soc[0] / 100,
    )


def _sun_of(demo_run: DemoRun, start: datetime) -> "DemoSun | None":
    """What flows in on a day of sun; None for every other run."""
    if not demo_run.sun:
        return None
    from yardtoll.demo.sun import demo_sun

    return demo_sun(demo_run.sun, start)


def _seen_from(truth: StationModel, sun: "DemoSun | None") -> StationModel:
    """The station as the meter at this input sees its volts."""
    if sun is None or sun.light is None:
        return truth
    return replace(truth, nominal_v=sun.volts, hertz=0.0)


def _plan_of(demo_run: DemoRun, station: Station, load: Load | None, meter: Meter) -> RunPlan:
    """The plan a reviewer would have made for a run of the demo."""
    conditions = Conditions(settings=SET_LIKE)
    method = METHODS[demo_run.method]
    if load is not None:
        made = plan_for_load(
            station, meter, load, demo_run.setting, demo_run.count, conditions=conditions
        )
        return replace(
            made, method=method.key, size=method.sizes[0].key if demo_run.cycles else made.size
        )
    if demo_run.watts:
        settings = {**SET_LIKE, "voltage_lowering": "on" if demo_run.lowers else "off"}
        together = MixPart(
            name="Heat guns and hot plate", setting="", count=1, watts=demo_run.watts
        )
        return RunPlan(
            station=station,
            meter=replace(meter, own_draw_w=0.0),
            method=method.key,
            size=method.sizes[0].key,
            parts=(together,),
            target_w=demo_run.watts,
            soc=method.soc,
            conditions=Conditions(settings=settings),
        )
    return RunPlan(
        station=station,
        meter=replace(meter, own_draw_w=0.0),
        method=method.key,
        size=method.sizes[0].key,
        target_w=CHARGERS[demo_run.station].full_w if method.charges and not demo_run.sun else None,
        soc=method.soc,
        conditions=replace(conditions, arrays=_panels_of(demo_run)),
    )


def _panels_of(demo_run: DemoRun) -> tuple[int, ...]:
    """Which of the demo's arrays fed a run, by the order in which they were put."""
    return (3 if demo_run.station == "sorrel" else 1,) if demo_run.sun else ()


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
        [RECIPE, SCHEMA_VERSION, __version__, [asdict(r) for r in RUNS], CLAIM_TEXTS, _season()]
    )
    template = cache / f"demo-{zlib.crc32(recipe.encode()):08x}.yard"
    if not template.exists():
        with tempfile.TemporaryDirectory(dir=cache) as folder:
            made = Path(folder) / "demo.yard"
            build_demo(made, _today(), progress)
            # Whole or not at all: another window may be making the same one.
            made.replace(template)
    return template


def _season() -> str:
    """The month: a day of sun that was played in another one would not fit the sky of today."""
    return f"{_today():%Y-%m}"


def _today() -> date:
    """Today's date at the demo's bench."""
    return datetime.now(zone_of(SITE)).date()


def _move_to_today(path: Path) -> None:
    """Shift all runs by whole days so that the last was yesterday."""
    newest = min(run.days_ago for run in RUNS)
    with sqlite3.connect(path) as raw:
        latest = raw.execute("SELECT max(started_at) FROM run").fetchone()[0]
        zone = zone_of(SITE)
        last = datetime.fromisoformat(latest).astimezone(zone).date()
        days = (_today() - timedelta(days=newest) - last).days
        for run_id, *times in raw.execute("SELECT id, started_at, ended_at FROM run").fetchall():
            # By the bench's own clock, so that a morning stays one where the clocks were changed.
            here = [datetime.fromisoformat(t).astimezone(zone) for t in times]
            moved = [
                (at + timedelta(days=days)).astimezone(UTC).isoformat(timespec="milliseconds")
                for at in here
            ]
            raw.execute("UPDATE run SET started_at=?, ended_at=? WHERE id=?", (*moved, run_id))
        for outage_id, begins in raw.execute("SELECT id, begins_at FROM outage").fetchall():
            begin = datetime.fromisoformat(begins).astimezone(zone) + timedelta(days=days)
            at = begin.astimezone(UTC).isoformat(timespec="milliseconds")
            raw.execute("UPDATE outage SET begins_at=? WHERE id=?", (at, outage_id))
    raw.close()
