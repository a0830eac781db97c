"""The run that is going: what has come in, and how it ends and is kept."""

import logging
import time
from dataclasses import asdict, replace
from datetime import UTC, datetime

from PySide6.QtCore import QObject, Signal

from yardtoll.bench.samples import SampleBlock
from yardtoll.bench.simulated.models import BenchModel
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.formatting import format_span
from yardtoll.core.live.forecast import Forecast
from yardtoll.core.live.run_watch import Alarm, floor_suspected
from yardtoll.core.methods import METHODS, Flow
from yardtoll.core.planning.expected import EarlierRun
from yardtoll.running.end_detection import end_seen
from yardtoll.running.live_samples import SampleBuffer
from yardtoll.running.outlook import Outlook
from yardtoll.running.plan import RunPlan
from yardtoll.running.recording import WireRecording
from yardtoll.running.simulated_bench import bench_model_for
from yardtoll.running.typed_readings import ReadByEye
from yardtoll.store.records import (
    ENDS,
    SIMULATED,
    TYPED,
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
_END_WORDS = {Flow.OUT: CUTOFF_WORD, Flow.IN: CHARGED_WORD, Flow.IDLE: AUTO_OFF_WORD}


def new_run(
    yard: YardFile,
    plan: RunPlan,
    model: BenchModel | None = None,
    beside: tuple[Quantity, ...] = (),
) -> Run:
    """Keep a run that is about to start; ``beside`` is what another logger adds to the meter's."""
    run = plan.as_run(yard, RunState.RUNNING, utc_now())
    if plan.meter.address == SIMULATED:
        bench = asdict(model or bench_model_for(plan))
        run = replace(run, conditions={**run.conditions, "bench": bench})
    run = yard.put(run)
    assert run.id is not None
    if run.origin != TYPED:
        yard.start_trace(run.id, (*RECORDED, *beside))
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
        self.method = METHODS[run.method]
        self.samples = SampleBuffer()
        self.outlook = Outlook(yard, run, self.samples, earlier)
        self.is_over = False
        self._received_s = time.monotonic()
        self._by_eye = ReadByEye(self.samples) if self.typed else None
        self.wire: WireRecording | None = None
        if not self.typed:
            self.wire = WireRecording(yard, run, self.meter, speed, self)
            self.wire.kept.connect(self._take_in)
            self.wire.found.connect(self._on_found)
            self.wire.lost.connect(self._on_lost)
            self.wire.failed.connect(self._on_failed)

    @property
    def typed(self) -> bool:
        """Whether the meter is read by eye."""
        return self.run.origin == TYPED

    @property
    def simulated(self) -> bool:
        """Whether the bench is the simulated one."""
        return self.wire is not None and self.wire.simulated

    @property
    def answering(self) -> bool:
        """Whether the meter can be read at this moment."""
        return self.wire is None or self.wire.answering

    @property
    def speed(self) -> float:
        """Bench seconds a real second."""
        return self.wire.speed if self.wire is not None else 1.0

    def set_speed(self, speed: float) -> None:
        """Change the simulated bench's pace."""
        if self.wire is not None:
            self.wire.set_speed(speed)

    def start(self) -> None:
        """Connect and record; returns at once. A typed run waits for its first reading."""
        if self.wire is not None:
            self.wire.start()
        else:
            self._begin_typed(0.0)

    def resume(self) -> None:
        """Go on with a run that an earlier program left; the gap is marked."""
        if self.wire is None:
            started = datetime.fromisoformat(self.run.started_at)
            self._begin_typed((datetime.now(UTC) - started).total_seconds())
            return
        ends = self.yard.first_and_last_sample_s(self.run_id)
        trace = self.yard.trace(self.run_id)
        if ends is None or trace is None:
            self.wire.start()
            return
        kept_at_s = self.yard.last_kept_at_s(self.run_id)
        away_s = max(time.time() - (kept_at_s or time.time()), 0.0)
        self.samples.restore(trace, ends[0])
        self.yard.put(
            Mark(
                run_id=self.run_id,
                time_s=float(trace.time_s[-1]) + away_s,
                word=f"{RESUMED_WORD} after a gap of {format_span(away_s)}",
            )
        )
        self.wire.resume(ends[1] + away_s)

    def stop(self, reason: str = "stopped by hand") -> None:
        """Finish the run; :attr:`ended` follows once the last samples are kept."""
        if self.is_over:
            return
        self.is_over = True
        if self.wire is not None:
            self.wire.stop_soon(lambda: self._finish(reason))
        else:
            self._finish(reason)

    def leave(self) -> None:
        """Stop recording but leave the run as going, to be resumed by a later start."""
        self.is_over = True
        if self.wire is not None:
            self.wire.stop()

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

    def sync_typed(self) -> None:
        """Show the counter readings as they stand; they may have been edited or taken back."""
        if self._by_eye is None:
            return
        typed = [r for r in self.yard.readings(self.run_id) if r.kind == ReadingKind.METER_WH.value]
        if self._by_eye.take(typed):
            self.samples_added.emit()

    def now_s(self) -> float:
        """This moment in s from the run's first sample, or from a typed run's start."""
        if self._by_eye is not None:
            return self._by_eye.now_s()
        if not len(self.samples):
            return 0.0
        since = (time.monotonic() - self._received_s) * self.speed if self.answering else 0.0
        return float(self.samples.time_s[-1]) + since

    def elapsed_s(self) -> float:
        """How long the run has gone on: up to this moment at real pace, else the last sample."""
        if self.speed > 1 and len(self.samples):
            return float(self.samples.time_s[-1])
        return self.now_s()

    @property
    def delivered_wh(self) -> float:
        """Energy so far."""
        return self.samples.total_wh

    @property
    def mean_w_u(self) -> float | None:
        """Standard uncertainty in W of the mean power shown; None where it is no mean."""
        return self._by_eye.mean_w_u if self._by_eye is not None else None

    def forecast(self) -> Forecast | None:
        """When the run will end; None before there is a load."""
        return self.outlook.forecast(self.elapsed_s())

    def watch(self) -> list[Alarm]:
        """What is not as it should be now, the most urgent first."""
        return self.outlook.watch(self.now_s(), answering=self.answering)

    def simulated_display(self) -> tuple[int, float, float] | None:
        """SOC %, W and s left as the simulated display shows them; None on a real bench."""
        watts = self.samples.latest(Quantity.POWER) or 0.0
        return self.wire.simulated_display(watts) if self.wire is not None else None

    # inner

    def _begin_typed(self, gone_s: float) -> None:
        """Go on with the readings typed so far, so long after the start."""
        assert self._by_eye is not None
        self._by_eye.begin(gone_s)
        self.sync_typed()
        self.found.emit("read by eye")

    def _take_in(self, block: SampleBlock) -> None:
        self.samples.add(block)
        self._received_s = time.monotonic()
        self.samples_added.emit()
        if not self.is_over:
            self._look_for_end()

    def _look_for_end(self) -> None:
        state = end_seen(self.method, self.samples, full_shown=self.outlook.full_shown())
        if state.ended and state.since_s is not None:
            word = _END_WORDS[self.method.flow]
            self.yard.put(Mark(run_id=self.run_id, time_s=state.since_s, word=word))
            suspicion = ""
            if self.method.flow is Flow.OUT:
                shown, noted = self.outlook.soc_at_end(), self.outlook.noted_floor()
                suspicion = floor_suspected(shown, noted)
            self.stop(f"{state.reason}; {suspicion}" if suspicion else state.reason)
        elif self.outlook.is_held():
            self.mark(HELD_WORD)
            self.stop(f"held for {format_span(self.outlook.hold_s or 0.0)}")

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
        if self.wire is not None:
            self.wire.close_bench()
        log.info("run ended", extra={"run": self.run_id, "reason": reason})
        self.ended.emit(self.run_id, reason)

    def _on_found(self, identity: str) -> None:
        log.info("meter answers", extra={"identity": identity})
        self.found.emit(identity)

    def _on_lost(self, reason: str) -> None:
        log.warning("meter lost", extra={"reason": reason})
        if len(self.samples):
            self.mark("Meter lost")
        self.lost.emit(reason)

    def _on_failed(self, reason: str) -> None:
        self.is_over = True
        log.error("recording failed", extra={"reason": reason})
        self.failed.emit(reason)
