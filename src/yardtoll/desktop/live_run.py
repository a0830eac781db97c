"""The run that is going: its recorder, what has come in, and how it ends."""

import logging
import time
from dataclasses import asdict, replace
from datetime import UTC, datetime

import numpy as np
from PySide6.QtCore import QObject, Signal

from yardtoll.bench.recorder import Recorder
from yardtoll.bench.samples import SampleBlock
from yardtoll.bench.scpi_meter import ScpiMeter
from yardtoll.bench.simulated.clock import VirtualClock
from yardtoll.bench.simulated.models import BenchModel, StationModel
from yardtoll.bench.simulated.scpi_server import SimulatedBench
from yardtoll.core.figures import format_span
from yardtoll.core.forecast import Forecast, forecast_end
from yardtoll.core.methods import METHODS, Ending, Flow
from yardtoll.core.planning.expected import (
    TYPICAL_CHARGE_C,
    EarlierRun,
    expected_delivery_wh,
    expected_recharge,
)
from yardtoll.core.quantities import Quantity
from yardtoll.core.run_watch import LOAD_SEEN_W, Alarm, Seen, alarms, floor_suspected
from yardtoll.core.typed import TypedReading, stretches
from yardtoll.desktop.analyses import ENDS, TYPED
from yardtoll.desktop.profiles import profile_named
from yardtoll.desktop.run_end import end_seen
from yardtoll.desktop.run_plan import RunPlan
from yardtoll.desktop.sample_buffer import SampleBuffer
from yardtoll.desktop.simulated_runs import bench_model_for, model_from_conditions
from yardtoll.store.records import (
    SIMULATED,
    Mark,
    Meter,
    Reading,
    ReadingKind,
    Run,
    RunState,
    Station,
)
from yardtoll.store.yard_file import YardFile, utc_now

log = logging.getLogger(__name__)

RECORDED = (
    Quantity.POWER,
    Quantity.VOLTS,
    Quantity.AMPS,
    Quantity.ENERGY,
    Quantity.HERTZ,
    Quantity.POWER_FACTOR,
)
CUTOFF_WORD, CHARGED_WORD = ENDS
HELD_WORD = "Held"
AUTO_OFF_WORD = "Switched itself off"
RESUMED_WORD = "Resumed"
TYPICAL_TARGET_C = 0.2


def new_run(yard: YardFile, plan: RunPlan, model: BenchModel | None = None) -> Run:
    """Keep a run that is about to start."""
    run = plan.as_run(yard, RunState.RUNNING, utc_now())
    if plan.meter.address == SIMULATED:
        bench = asdict(model or bench_model_for(plan))
        run = replace(run, conditions={**run.conditions, "bench": bench})
    run = yard.put(run)
    assert run.id is not None
    if run.origin != TYPED:
        yard.start_trace(run.id, RECORDED)
    return run


class LiveRun(QObject):
    """Records one run until it is stopped or finds its own end.

    Signals:
        samples_added: new samples are in :attr:`samples`.
        notes_changed: a mark or reading was made.
        lost(reason), found(identity): the meter stopped answering, or answers.
        ended(run_id, reason): the run is finished and kept.
        failed(reason): the recording cannot go on; what came before is kept.
    """

    samples_added = Signal()
    notes_changed = Signal()
    lost = Signal(str)
    found = Signal(str)
    ended = Signal(int, str)
    failed = Signal(str)
    _incoming = Signal(object)

    def __init__(
        self,
        yard: YardFile,
        run: Run,
        *,
        speed: float = 1.0,
        earlier: tuple[EarlierRun, ...] = (),
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        assert run.id is not None
        self.yard = yard
        self.run = run
        self.run_id = run.id
        self.station = yard.get(Station, run.station_id)
        self.meter = yard.get(Meter, run.meter_id or 0)
        self.samples = SampleBuffer()
        self.answering = False
        self.is_over = False
        self.method = METHODS[run.method]
        self.expected = self._expect(earlier)
        self.hold_s = self.method.size(str(run.conditions.get("size", ""))).hold_s
        self._nominal_v = next(
            (c.value for c in yard.claims(run.station_id) if c.kind == "ac_v" and c.value), None
        )
        self._profile = profile_named(self.meter.profile) if self.meter.address else None
        self._bench: SimulatedBench | None = None
        # The bench keeps real pace until the meter answers: what happens while the wire is being
        # set up would not be recorded.
        self._clock = VirtualClock()
        self._speed = speed
        self._received_s = self._began_s = time.monotonic()
        self._typed: list[Reading] = []
        self.typed_u_w: float | None = None
        """Standard uncertainty of the mean power since the last but one typed reading."""
        self._shift_s = 0.0
        self._recorder: Recorder | None = None
        self._incoming.connect(self._take_in)
        self.found.connect(self._on_found)
        self.lost.connect(self._on_lost)
        self.failed.connect(self._on_failed)

    def _expect(self, earlier: tuple[EarlierRun, ...]) -> tuple[float, float, str]:
        """Wh to the end, half the width of their band, and what they rest on."""
        run, rated_wh = self.run, self.station.rated_wh
        window = abs(run.soc_from - run.soc_to) / 100
        if self.method.flow is Flow.IN:
            watts = run.target_w or TYPICAL_CHARGE_C * rated_wh
            found = expected_recharge(rated_wh, window, watts)
            return found.energy_wh, found.half_width_wh, found.basis
        watts = run.target_w or TYPICAL_TARGET_C * rated_wh
        return expected_delivery_wh(rated_wh, window, watts, earlier)

    @property
    def simulated(self) -> bool:
        """Whether the bench is the simulated one."""
        return self.meter.address == SIMULATED

    @property
    def speed(self) -> float:
        """Bench seconds a real second."""
        return self._speed if self.simulated else 1.0

    def set_speed(self, speed: float) -> None:
        """Change the simulated bench's pace."""
        self._speed = speed
        if self.answering:
            self._clock.set_speed(speed)

    @property
    def typed(self) -> bool:
        """Whether the meter is read by eye."""
        return self.run.origin == TYPED

    def start(self) -> None:
        """Connect and record; returns at once. A typed run waits for its first reading."""
        if self.typed:
            self._begin_typed(0.0)
        else:
            self._record(resumed=False)

    def _begin_typed(self, gone_s: float) -> None:
        """Go on with the readings typed so far, so long after the start."""
        self._began_s = time.monotonic() - gone_s
        self.answering = True
        self.sync_typed()
        self.found.emit("read by eye")

    def sync_typed(self) -> None:
        """Show the counter readings as they stand, with the mean power up to each."""
        typed = [r for r in self.yard.readings(self.run_id) if r.kind == ReadingKind.METER_WH.value]
        if typed == self._typed:
            return
        self._typed, self.samples = typed, SampleBuffer()
        found = stretches([TypedReading(s=r.time_s, energy_wh=r.value) for r in typed])
        self.typed_u_w = found[-1].mean_w_u if found else None
        if not typed:
            return
        watts = {stretch.end_s: max(stretch.mean_w, 0.0) for stretch in found}
        self.samples.add(
            SampleBlock(
                time_s=np.array([r.time_s for r in typed]),
                columns={
                    Quantity.ENERGY: np.array([r.value for r in typed]),
                    Quantity.POWER: np.array([watts.get(r.time_s, 0.0) for r in typed]),
                },
            )
        )
        self.samples_added.emit()

    def resume(self) -> None:
        """Go on with a run that an earlier program left; the gap is marked."""
        if self.typed:
            started = datetime.fromisoformat(self.run.started_at)
            self._begin_typed((datetime.now(UTC) - started).total_seconds())
            return
        ends = self.yard.first_and_last_sample_s(self.run_id)
        trace = self.yard.trace(self.run_id)
        if ends is None or trace is None:
            self._record(resumed=False)
            return
        kept_at_s = self.yard.last_kept_at_s(self.run_id)
        away_s = max(time.time() - (kept_at_s or time.time()), 0.0)
        self.samples.restore(trace, ends[0])
        # The load ran on while nobody recorded, so the simulated bench does too, at real pace.
        self._clock = VirtualClock(start_s=ends[1] + away_s)
        if not self.simulated:
            self._shift_s = ends[1] + away_s
        self.yard.put(
            Mark(
                run_id=self.run_id,
                time_s=float(trace.time_s[-1]) + away_s,
                word=f"{RESUMED_WORD} after a gap of {format_span(away_s)}",
            )
        )
        self._record(resumed=True, start_s=ends[1] + away_s)

    def stop(self, reason: str = "stopped by hand") -> None:
        """Finish the run; :attr:`ended` follows once the last samples are kept."""
        if self.is_over:
            return
        if self.typed:
            self.is_over = True
            self._finish(reason)
        elif self._recorder is not None:
            self.is_over = True
            self._recorder.stop_soon(lambda: self._finish(reason))

    def leave(self) -> None:
        """Stop recording but leave the run as going, to be resumed by a later start."""
        self.is_over = True
        if self._recorder is not None:
            self._recorder.stop()
        self._close_bench()

    def mark(self, word: str) -> Mark:
        """Put a mark at this moment."""
        kept = self.yard.put(Mark(run_id=self.run_id, time_s=self.now_s(), word=word))
        self.notes_changed.emit()
        return kept

    def read(self, kind: ReadingKind, value: float, at_s: float | None = None) -> Reading:
        """Keep a typed reading, at the time its first digit was typed."""
        at = self.now_s() if at_s is None else at_s
        kept = self.yard.put(Reading(run_id=self.run_id, time_s=at, kind=kind.value, value=value))
        if kind is ReadingKind.METER_WH:
            self.sync_typed()
        self.notes_changed.emit()
        return kept

    def now_s(self) -> float:
        """This moment in s from the run's first sample, or from a typed run's start."""
        if self.typed:
            return time.monotonic() - self._began_s
        if not len(self.samples):
            return 0.0
        since = (time.monotonic() - self._received_s) * self.speed if self.answering else 0.0
        return float(self.samples.time_s[-1]) + since

    def elapsed_s(self) -> float:
        """How long the run has gone on: up to this moment at real pace, else the last sample."""
        if self.speed > 1 and len(self.samples) and not self.typed:
            return float(self.samples.time_s[-1])
        return self.now_s()

    def forecast(self) -> Forecast | None:
        """When the run will end; None before there is a load."""
        if self.method.ending is Ending.TIME and self.hold_s is not None:
            return self._forecast_of_hold()
        expected, half, basis = self.expected
        return forecast_end(
            expected_wh=expected,
            half_width_wh=half,
            delivered_wh=self.delivered_wh,
            mean_w=self.samples.recent_mean_w(),
            basis=basis,
            display_soc=self._display_soc(),
        )

    def _forecast_of_hold(self) -> Forecast | None:
        """A set time from load-on; None before there is a load."""
        on_s = self._load_on_s()
        if on_s is None or self.hold_s is None:
            return None
        left_s = max(on_s + self.hold_s - self.elapsed_s(), 0.0)
        return Forecast(
            remaining_s=left_s,
            earliest_s=left_s,
            latest_s=left_s,
            basis=f"held for {format_span(self.hold_s)}",
        )

    def _load_on_s(self) -> float | None:
        """The first sample under load; the first of all where none is meant."""
        if self.method.flow is Flow.IDLE:
            return 0.0 if len(self.samples) else None
        power = self.samples.column(Quantity.POWER)
        loaded = np.flatnonzero(power > LOAD_SEEN_W)
        return float(self.samples.time_s[loaded[0]]) if loaded.size else None

    def watch(self) -> list[Alarm]:
        """What is not as it should be now, the most urgent first."""
        readings = self.yard.readings(self.run_id)
        inputs = [r.value for r in readings if r.kind == ReadingKind.INPUT_W.value]
        unbound = self.run.method == "overload" or self.method.flow is not Flow.OUT
        soc = [r.value for r in readings if r.kind == ReadingKind.SOC.value]
        return alarms(
            Seen(
                flow=self.method.flow.value,
                answering=self.answering,
                power_w=self.samples.latest(Quantity.POWER),
                volts=self.samples.latest(Quantity.VOLTS),
                elapsed_s=self.now_s(),
                delivered_wh=self.delivered_wh,
                target_w=self._set_w(),
                rated_w=float("inf") if unbound else self.station.rated_w,
                nominal_v=None if self.run.method == "capacity_dc" else self._nominal_v,
                meter_w=self.meter.max_w,
                soc=soc,
                input_w=inputs[-1] if inputs else None,
            )
        )

    def _set_w(self) -> float | None:
        """W that were asked for: the loads', or those a charger was set to."""
        asked = self.method.size(str(self.run.conditions.get("size", ""))).asks_w
        return self.run.target_w if self.method.flow is Flow.OUT or asked else None

    @property
    def delivered_wh(self) -> float:
        """Energy so far."""
        return float(self.samples.energy_wh[-1]) if len(self.samples) else 0.0

    def simulated_display(self) -> tuple[int, float, float] | None:
        """SOC %, W and s left as the simulated display shows them; None on a real bench."""
        if self._bench is None:
            return None
        truth = self._bench.truth()
        watts = self.samples.latest(Quantity.POWER) or 0.0
        soc = self._station_model().display_soc(truth.left_wh)
        left_s = 3600 * truth.left_wh / watts if watts > 1 else 0.0
        return soc, round(watts), round(left_s / 360) * 360.0

    # inner

    def _record(self, *, resumed: bool, start_s: float = 0.0) -> None:
        resource = self.meter.address
        if self.simulated:
            model = model_from_conditions(self.run.conditions["bench"])
            self._bench = SimulatedBench(model, self._clock, start_s)
            resource = self._bench.resource
        assert self._profile is not None
        driver = ScpiMeter(resource, self._profile)
        self._recorder = Recorder(
            driver,
            self._keep,
            on_lost=self.lost.emit,
            on_found=self.found.emit,
            on_failed=lambda error: self.failed.emit(str(error)),
            resumed=resumed,
        )
        self._recorder.start()

    def _keep(self, block: SampleBlock) -> None:
        """On the recorder's thread: on disk first, then shown."""
        if self._shift_s and self._profile is not None and not self._profile.buffer:
            block = replace(block, time_s=block.time_s + self._shift_s)
        self.yard.append_samples(self.run_id, block.time_s, block.columns)
        self._incoming.emit(block)

    def _take_in(self, block: SampleBlock) -> None:
        self.samples.add(block)
        self._received_s = time.monotonic()
        self.answering = True
        self.samples_added.emit()
        if not self.is_over:
            self._look_for_cutoff()

    def _look_for_cutoff(self) -> None:
        soc = [r.value for r in self.yard.readings(self.run_id) if r.kind == ReadingKind.SOC.value]
        full = bool(soc) and soc[-1] >= self.run.soc_to
        state = end_seen(self.method, self.samples, full_shown=full)
        if state.ended and state.since_s is not None:
            words = {Flow.OUT: CUTOFF_WORD, Flow.IN: CHARGED_WORD, Flow.IDLE: AUTO_OFF_WORD}
            word = words[self.method.flow]
            self.yard.put(Mark(run_id=self.run_id, time_s=state.since_s, word=word))
            suspicion = ""
            if self.method.flow is Flow.OUT:
                suspicion = floor_suspected(self._soc_at_end(), self._noted_floor())
            self.stop(f"{state.reason}; {suspicion}" if suspicion else state.reason)
            return
        on_s = self._load_on_s() if self.hold_s is not None else None
        if on_s is not None and self.hold_s and self.samples.time_s[-1] >= on_s + self.hold_s:
            self.mark(HELD_WORD)
            self.stop(f"held for {format_span(self.hold_s)}")

    def _soc_at_end(self) -> float | None:
        """What the display says at the end, by the readings typed so far."""
        display = self._display_soc()
        return display[1] if display is not None else None

    def _noted_floor(self) -> float:
        """The discharge floor that was noted, in %; the end of the window where none was."""
        text = str(self.run.conditions.get("settings", {}).get("floor", "")).rstrip("% ")
        try:
            return max(float(text), self.run.soc_to)
        except ValueError:
            return self.run.soc_to

    def _finish(self, reason: str) -> None:
        """On the recorder's thread, after the last samples: keep the run as finished."""
        if not self.typed:
            self.yard.merge_samples(self.run_id)
        conditions = {**self.run.conditions, "ended": reason}
        self.run = self.yard.put(
            replace(
                self.run,
                state=RunState.FINISHED.value,
                ended_at=utc_now(),
                conditions=conditions,
            )
        )
        self._close_bench()
        log.info("run ended", extra={"run": self.run_id, "reason": reason})
        self.ended.emit(self.run_id, reason)

    def _close_bench(self) -> None:
        bench, self._bench = self._bench, None
        if bench is not None:
            bench.close()

    def _on_found(self, identity: str) -> None:
        self.answering = True
        self._clock.set_speed(self._speed)
        log.info("meter answers", extra={"identity": identity})

    def _on_lost(self, reason: str) -> None:
        self.answering = False
        log.warning("meter lost", extra={"reason": reason})
        if len(self.samples):
            self.mark("Meter lost")

    def _on_failed(self, reason: str) -> None:
        self.answering = False
        self.is_over = True
        self._close_bench()
        log.error("recording failed", extra={"reason": reason})

    def _station_model(self) -> StationModel:
        return model_from_conditions(self.run.conditions["bench"]).station

    def _display_soc(self) -> tuple[float, float, float] | None:
        """First SOC, latest SOC and Wh between, from typed readings."""
        typed = [r for r in self.yard.readings(self.run_id) if r.kind == ReadingKind.SOC.value]
        if len(typed) < 2:
            return None
        first, last = typed[0], typed[-1]
        at = np.interp([first.time_s, last.time_s], self.samples.time_s, self.samples.energy_wh)
        now = self.delivered_wh
        # The latest reading is older than this moment: what was delivered since is gone from it.
        per_point = (at[1] - at[0]) / (first.value - last.value) if first.value > last.value else 0
        since = (now - at[1]) / per_point if per_point > 0 else 0.0
        return first.value, max(last.value - since, 0.0), float(now - at[0])
