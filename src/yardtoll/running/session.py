"""A run in progress: what has come in, how it ends and how it is kept. It does not import Qt.

Its instruments are read on threads of their own; what they bring is handed over by ``post``, so
that everything here happens on the one thread that owns the run.
"""

import logging
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime

from yardtoll.bench.instrument import Instrument
from yardtoll.bench.instruments import open_instrument
from yardtoll.bench.samples import SampleBlock
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.formatting import format_span
from yardtoll.core.live.forecast import Forecast
from yardtoll.core.live.run_watch import Alarm, floor_suspected
from yardtoll.core.methods import METHODS
from yardtoll.core.notes.slips import Bench, Slip
from yardtoll.running.end_detection import end_seen
from yardtoll.running.keeping import Notes, retried
from yardtoll.running.line_notes import entries_of_line, slip_of_line
from yardtoll.running.live_samples import LiveSamples
from yardtoll.running.outlook import Outlook
from yardtoll.running.recording import LAST_TRY_S, InstrumentRecording, Post, RecordingEvents
from yardtoll.running.simulated_bench import SimulatedMeter
from yardtoll.running.typed_readings import TypedReadings
from yardtoll.running.words import (
    AUTO_OFF,
    HELD,
    METER_FOUND,
    METER_LOST,
    RESUMED,
)
from yardtoll.store.errors import YardError
from yardtoll.store.noted import CHARGED, CUT_OFF
from yardtoll.store.records import (
    TYPED,
    Mark,
    Meter,
    Reading,
    ReadingKind,
    Recording,
    Run,
    RunState,
    Station,
)
from yardtoll.store.yard_file import YardFile, utc_now
from yardtoll.uptime import boot_s

log = logging.getLogger(__name__)


def _nothing(*_: object) -> None:
    """Nobody listens."""


@dataclass(frozen=True, kw_only=True)
class SessionEvents:
    """Events of a session, on the thread that owns it.

    Attributes:
        samples_added: there are new samples.
        notes_changed: a mark or reading was made.
        lost, found: a meter stopped answering, with the reason, or answers, with its identity.
        noted: something the user must know about the recording, as a sentence.
        ended: the run is finished and kept, with its id and the reason.
        failed: the recording cannot go on; what came before is kept.
    """

    samples_added: Callable[[], None] = _nothing
    notes_changed: Callable[[], None] = _nothing
    lost: Callable[[str], None] = _nothing
    found: Callable[[str], None] = _nothing
    noted: Callable[[str], None] = _nothing
    ended: Callable[[int, str], None] = _nothing
    failed: Callable[[str], None] = _nothing


class RunSession:
    """Records one run until it is stopped or finds its own end.

    Args:
        run: kept already, with a recording for each of its instruments.
        events: whom to notify.
        post: has a callable called on the owner's thread.
        speed: bench seconds a real second, on the simulated bench.
    """

    def __init__(
        self,
        yard: YardFile,
        run: Run,
        *,
        events: SessionEvents,
        post: Post,
        speed: float = 1.0,
    ) -> None:
        assert run.id is not None
        self.yard = yard
        self.run = run
        self.run_id = run.id
        self.station = yard.get(Station, run.station_id)
        self.meter = yard.get(Meter, run.meter_id or 0)
        self.method = METHODS[run.method]
        self.samples = LiveSamples()
        self.outlook = Outlook(yard, run, self.samples)
        self.is_over = False
        self._notes = Notes(yard)
        self._was_lost = False
        self._held_up = ""
        self._events = events
        self._post = post
        self._speed = speed
        self._received_s = boot_s()
        self._typed = TypedReadings(self.samples) if self.typed else None
        self._recordings: list[InstrumentRecording] = []
        self._simulated: SimulatedMeter | None = None
        self._going = 0
        self._ending = threading.Lock()

    @property
    def typed(self) -> bool:
        """Whether the meter is read by eye."""
        return self.run.origin == TYPED

    @property
    def simulated(self) -> bool:
        """Whether the bench is the simulated one."""
        return not self.typed and self.meter.is_simulated

    @property
    def instruments(self) -> tuple[Instrument, ...]:
        """What is read, the run's own meter first; none of a typed run."""
        return tuple(recording.instrument for recording in self._recordings)

    @property
    def answering(self) -> bool:
        """Whether the run's own meter can be read at this moment."""
        return self.typed or (bool(self._recordings) and self._recordings[0].answering)

    @property
    def speed(self) -> float:
        """Bench seconds a real second."""
        return self._speed if self.simulated else 1.0

    def set_speed(self, speed: float) -> None:
        """Change the simulated bench's pace."""
        self._speed = speed
        if self._simulated is not None and self.answering:
            self._simulated.set_speed(speed)

    def start(self) -> None:
        """Connect and record; returns at once. A typed run waits for its first reading."""
        if self.typed:
            self._begin_typed(0.0)
        else:
            self._record(None)

    def resume(self) -> None:
        """Go on with a run that an earlier program left; the gap is marked."""
        if self.typed:
            started = datetime.fromisoformat(self.run.started_at)
            self._begin_typed((datetime.now(UTC) - started).total_seconds())
            return
        main = self.yard.main_recording(self.run_id)
        trace = self.yard.samples(main) if main is not None else None
        ends = self.yard.first_and_last_sample_s(main.id or 0) if main is not None else None
        if main is None or ends is None or trace is None:
            self._record(None)
            return
        away_s = self.yard.away_s(main.id or 0)
        gap = "of unknown length" if away_s is None else f"of {format_span(away_s)}"
        away_s = away_s or 0.0
        self.samples.restore(trace, ends[0])
        self._notes.keep(
            Mark(
                run_id=self.run_id,
                time_s=float(trace.time_s[-1]) + away_s,
                word=f"{RESUMED} after a gap {gap}",
            )
        )
        self._record(ends[1] + away_s)

    def stop(self, reason: str = "stopped by hand") -> None:
        """Finish the run; ``ended`` is called once the last samples are kept."""
        if self.is_over:
            return
        self.is_over = True
        if not self._recordings:
            self._finish(reason)
            return
        self._going = len(self._recordings)
        for recording in self._recordings:
            recording.stop_soon(lambda: self._one_less(reason))

    def leave(self) -> None:
        """Stop recording but leave the run as going, to be resumed by a later start."""
        self.is_over = True
        for recording in self._recordings:
            recording.stop()
        self._shut_down_bench()

    def mark(self, word: str, *, ends_run: bool = False) -> Mark:
        """Put a mark at this moment; without id where the yard cannot be written for now."""
        kept = self._notes.keep(
            Mark(run_id=self.run_id, time_s=self.now_s(), word=word, ends_run=ends_run)
        )
        self._events.notes_changed()
        return kept

    def mark_end(self) -> Mark:
        """Mark this moment as the one at which the station shut off, or was full."""
        return self.mark(CHARGED if self.method.charges else CUT_OFF, ends_run=True)

    def read(self, kind: ReadingKind, value: float, at_s: float | None = None) -> Reading:
        """Keep a typed reading, at the time its first digit was typed."""
        at = self.now_s() if at_s is None else at_s
        (kept,) = self.keep_noted(
            [Reading(run_id=self.run_id, time_s=at, kind=kind.value, value=value)]
        )
        assert isinstance(kept, Reading)
        return kept

    def keep_noted(self, entries: Sequence[Reading | Mark]) -> list[Reading | Mark]:
        """Keep readings and marks; without ids where the yard cannot be written for now."""
        kept = [self._notes.keep(entry) for entry in entries]
        self.sync_typed()
        self._events.notes_changed()
        self.look_at_the_clock()
        return kept

    def look_at_the_clock(self) -> None:
        """End an idle test read by eye when its time is over and the display was read."""
        if self.typed and not self.is_over and self.outlook.is_idle_over(self.now_s()):
            self.mark(HELD)
            self.stop(f"held for {format_span(self.outlook.hold_s or 0.0)}")

    def line_noted(self, text: str, at_s: float) -> list[Reading | Mark]:
        """The readings and marks that a line of notes tells of; nothing is kept yet.

        Args:
            at_s: the moment of a line without a time of its own.

        Raises:
            UnusableDataError: a part of it is not understood, or it says nothing.
        """
        return entries_of_line(
            text,
            self.run_id,
            charges=self.method.charges,
            at_s=at_s,
            ago_s=lambda gone_s: self.now_s() - gone_s * self.speed,
        )

    def slip_in(self, text: str) -> Slip | None:
        """What is probably a slip in a line of notes, beside what was noted so far."""
        bench = Bench(
            rated_wh=self.station.rated_wh,
            rated_w=self.station.rated_w,
            charges=self.method.charges,
        )
        readings, marks = self.yard.readings(self.run_id), self.yard.marks(self.run_id)
        return slip_of_line(text, self.now_s(), readings, marks, bench)

    def sync_typed(self) -> None:
        """Show the counter readings as they stand; they may have been edited or taken back."""
        if self._typed is None:
            return
        typed = [r for r in self.yard.readings(self.run_id) if r.kind == ReadingKind.METER_WH.value]
        if self._typed.take(typed):
            self._events.samples_added()

    def now_s(self) -> float:
        """This moment in s from the run's first sample, or from a typed run's start."""
        if self._typed is not None:
            return self._typed.now_s()
        if not len(self.samples):
            return 0.0
        since = (boot_s() - self._received_s) * self.speed if self.answering else 0.0
        return float(self.samples.time_s[-1]) + since

    def elapsed_s(self) -> float:
        """The duration of the run: up to this moment at real pace, else the last sample."""
        if self.speed > 1 and len(self.samples):
            return float(self.samples.time_s[-1])
        return self.now_s()

    @property
    def delivered_wh(self) -> float:
        """Energy so far."""
        return self.samples.total_wh

    @property
    def mean_w_u(self) -> float | None:
        """Standard uncertainty in W of the mean power shown; None where it is not a mean."""
        return self._typed.mean_w_u if self._typed is not None else None

    def forecast(self) -> Forecast | None:
        """When the run will end; None before there is a load."""
        return self.outlook.forecast(self.elapsed_s())

    def watch(self) -> list[Alarm]:
        """What is not as it should be now, the most urgent first."""
        found = self.outlook.watch(self.now_s(), answering=self.answering)
        if self._held_up:
            text = f"{self._held_up}; samples wait in memory and are written when it can be."
            found.insert(0, Alarm(text=text))
        return found

    def simulated_display(self) -> tuple[int, float, float] | None:
        """SOC %, W and s left as the simulated display shows them; None on a real bench."""
        watts = self.samples.latest(Quantity.POWER) or 0.0
        return self._simulated.display(watts) if self._simulated is not None else None

    # inner

    def _record(self, resume_from_s: float | None) -> None:
        """One thread an instrument; the run's own meter is the first."""
        if self.simulated:
            self._simulated = SimulatedMeter(self.run, resume_from_s or 0.0)
        stored = self.yard.recordings(self.run_id)
        main = self.yard.main_recording(self.run_id)
        stored.sort(key=lambda recording: main is None or recording.id != main.id)
        for place, record in enumerate(stored):
            instrument: Instrument
            if self._simulated is not None and not place:
                instrument = self._simulated.instrument
            else:
                meter = self.yard.get(Meter, record.meter_id or self.run.meter_id or 0)
                instrument = open_instrument(meter)
            events = self._main_events() if not place else self._further_events(record)
            self._recordings.append(
                InstrumentRecording(self.yard, record, instrument, events, self._post, self._notes)
            )
        for recording in self._recordings:
            self._start_one(recording, resume_from_s)

    def _start_one(self, recording: InstrumentRecording, resume_from_s: float | None) -> None:
        recording_id = recording.record.id or 0
        ends = self.yard.first_and_last_sample_s(recording_id) if resume_from_s else None
        recording.start(
            resume_from_s,
            last_s=ends[1] if ends else None,
            away_s=self.yard.away_s(recording_id) or 0.0 if ends else 0.0,
        )

    def _main_events(self) -> RecordingEvents:
        return RecordingEvents(
            kept=self._take_in,
            found=self._on_found,
            lost=self._on_lost,
            noted=self._on_noted,
            held_up=self._on_held_up,
            failed=self._on_failed,
        )

    def _further_events(self, record: Recording) -> RecordingEvents:
        """A further instrument is recorded; it neither ends the run nor stops it."""

        def lost(reason: str) -> None:
            log.warning("instrument lost", extra={"role": record.role, "reason": reason})
            self.mark(f"{METER_LOST}: {record.instrument or record.role}")
            self._events.lost(reason)

        def kept(block: SampleBlock) -> None:
            self._place_in_time(record.id or 0, block)

        return RecordingEvents(
            kept=kept,
            found=self._events.found,
            lost=lost,
            noted=self._on_noted,
            held_up=self._on_held_up,
            failed=lost,
        )

    def _place_in_time(self, recording_id: int, block: SampleBlock) -> None:
        """When a further instrument's first sample came, on the run's clock."""
        record = self.yard.get(Recording, recording_id)
        if record.offset_s == 0.0 and len(self.samples):
            span_s = float(block.time_s[-1] - block.time_s[0])
            offset_s = round(max(self.now_s() - span_s, 0.001), 3)
            self.yard.put(replace(record, offset_s=offset_s))

    def _begin_typed(self, gone_s: float) -> None:
        """Go on with the readings typed so far, so long after the start."""
        assert self._typed is not None
        self._typed.begin(gone_s)
        self.sync_typed()
        self._events.found("read by eye")

    def _take_in(self, block: SampleBlock) -> None:
        self.samples.add(block)
        self._received_s = boot_s()
        self._events.samples_added()
        if not self.is_over:
            self._look_for_end()

    def _look_for_end(self) -> None:
        state = end_seen(self.method, self.samples, full_shown=self.outlook.full_shown())
        if state.ended and state.since_s is not None:
            rests = self.method.rests
            word = CHARGED if self.method.charges else AUTO_OFF if rests else CUT_OFF
            self._notes.keep(
                Mark(run_id=self.run_id, time_s=state.since_s, word=word, ends_run=not rests)
            )
            suspicion = ""
            if self.method.delivers:
                shown, noted = self.outlook.soc_at_end(), self.outlook.noted_floor()
                suspicion = floor_suspected(shown, noted)
            self.stop(f"{state.reason}; {suspicion}" if suspicion else state.reason)
        elif self.outlook.is_held():
            self.mark(HELD)
            self.stop(f"held for {format_span(self.outlook.hold_s or 0.0)}")

    def _one_less(self, reason: str) -> None:
        """On a recorder's thread, after its last samples: the last of them finishes the run."""
        with self._ending:
            self._going -= 1
            last = self._going == 0
        if not last:
            return
        try:
            retried(lambda: self._finish(reason), LAST_TRY_S)
        except YardError as error:
            words = str(error)
            self._post(lambda: self._on_failed(words))

    def _finish(self, reason: str) -> None:
        """After the last samples, on whichever thread brought them: keep the run as finished."""
        self._notes.flush()
        if not self.typed:
            self.yard.merge_samples(self.run_id)
        conditions = replace(self.run.conditions, end_reason=reason)
        self.run = self.yard.put(
            replace(
                self.run,
                state=RunState.FINISHED.value,
                ended_at=utc_now(),
                conditions=conditions,
            )
        )
        self._shut_down_bench()
        log.info("run ended", extra={"run": self.run_id, "reason": reason})
        self._post(lambda: self._events.ended(self.run_id, reason))

    def _shut_down_bench(self) -> None:
        if self._simulated is not None:
            self._simulated.instrument.shut_down()

    def _on_found(self, identity: str) -> None:
        log.info("meter answers", extra={"identity": identity})
        if self._simulated is not None:
            self._simulated.set_speed(self._speed)
        if self._was_lost:
            self._was_lost = False
            self.mark(METER_FOUND)
        self._events.found(identity)

    def _on_lost(self, reason: str) -> None:
        log.warning("meter lost", extra={"reason": reason})
        if len(self.samples):
            self._was_lost = True
            self.mark(METER_LOST)
        self._events.lost(reason)

    def _on_noted(self, words: str) -> None:
        """A restart, another instrument, readings that are none: a mark, and a sentence."""
        log.warning("about the samples", extra={"words": words})
        self.mark(words)
        self._events.noted(f"{words}.")

    def _on_held_up(self, reason: str) -> None:
        """The yard cannot be written, or can be again."""
        log.warning("yard held up", extra={"reason": reason or "written again"})
        self._held_up = reason
        self._events.noted(
            f"{reason}; samples wait in memory and are written when it can be."
            if reason
            else "The yard is written again; nothing was lost."
        )

    def _on_failed(self, reason: str) -> None:
        self.is_over = True
        log.error("recording failed", extra={"reason": reason})
        for recording in self._recordings:
            recording.answering = False
        self._shut_down_bench()
        self._events.failed(reason)
