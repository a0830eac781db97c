"""Recording one instrument of a run: samples into the yard first, then to whoever shows them."""

import logging
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace

from yardtoll.bench.instrument import Instrument
from yardtoll.bench.recorder import Recorder, RecorderEvents
from yardtoll.bench.samples import SampleBlock
from yardtoll.running.keeping import PASSING, Notes, retried
from yardtoll.store.errors import YardError
from yardtoll.store.records import Recording
from yardtoll.store.yard_file import YardFile

log = logging.getLogger(__name__)

MOST_WAITING = 2_000_000
"""Samples that wait in memory for a yard that cannot be written: two days at 10 Hz."""
LAST_TRY_S = 60.0

Post = Callable[[Callable[[], None]], None]
"""Has something done later, on the thread that owns the run."""


@dataclass(frozen=True, kw_only=True)
class RecordingEvents:
    """Events of a recording, on the thread that owns the run.

    Attributes:
        kept: samples that are on disk already.
        found: the instrument answers; what it calls itself.
        lost: it stopped answering, and why.
        noted: something about the samples, in a few words.
        held_up: the yard cannot be written for now, and why; "" when it can be again.
        failed: the recording cannot continue, and why.
    """

    kept: Callable[[SampleBlock], None]
    found: Callable[[str], None]
    lost: Callable[[str], None]
    noted: Callable[[str], None]
    held_up: Callable[[str], None]
    failed: Callable[[str], None]


class InstrumentRecording:
    """One instrument, read on a thread of its own during the run.

    Args:
        instrument: opened and closed by the recording.
        post: how events reach the owner's thread.
    """

    def __init__(
        self,
        yard: YardFile,
        recording: Recording,
        instrument: Instrument,
        events: RecordingEvents,
        post: Post,
        notes: Notes,
    ) -> None:
        assert recording.id is not None
        self._yard = yard
        self.record = recording
        self.instrument = instrument
        self.answering = False
        self._events = events
        self._post = post
        self._notes = notes
        self._waiting: deque[SampleBlock] = deque()
        self._waiting_rows = 0
        self._held_up = False
        self._shift_s = 0.0
        self._recorder: Recorder | None = None

    def start(
        self, resume_from_s: float | None = None, *, last_s: float | None = None, away_s: float = 0
    ) -> None:
        """Connect and record; returns at once.

        Args:
            resume_from_s: go on so many s after the first sample that was ever recorded.
            last_s: the newest sample there is, on the instrument's own time.
            away_s: how long ago it was kept.
        """
        # An instrument that does not time its samples counts from this connection.
        if resume_from_s is not None and not self.instrument.keeps_time:
            self._shift_s = resume_from_s
        post, events = self._post, self._events
        self._recorder = Recorder(
            self.instrument,
            self._keep,
            RecorderEvents(
                found=lambda identity: post(lambda: self._on_found(identity)),
                lost=lambda reason: post(lambda: self._on_lost(reason)),
                noted=lambda words: post(lambda: events.noted(words)),
                failed=lambda error: post(lambda: events.failed(str(error))),
            ),
            resumed=resume_from_s is not None,
            last_s=last_s if self.instrument.keeps_time else None,
            away_s=away_s,
        )
        self._recorder.start()

    def stop_soon(self, then: Callable[[], None]) -> None:
        """End the recording; ``then`` is called on its thread after the last samples."""

        def last() -> None:
            retried(self._write, LAST_TRY_S)
            then()

        if self._recorder is not None:
            self._recorder.stop_soon(last)

    def stop(self) -> None:
        """End the recording now, and wait for it."""
        if self._recorder is not None:
            self._recorder.stop()
            try:
                retried(self._write, 1.0)
            except (YardError, OSError):
                log.exception("the last samples could not be kept")

    def _keep(self, block: SampleBlock) -> None:
        """On the recorder's thread: on disk first, then shown."""
        if self._shift_s:
            block = replace(block, time_s=block.time_s + self._shift_s)
        self._waiting.append(block)
        self._waiting_rows += block.time_s.size
        try:
            self._write()
        except PASSING as error:
            if self._waiting_rows > MOST_WAITING:
                raise
            self._report_held_up(str(error))
        else:
            self._report_held_up("")

    def _write(self) -> None:
        """What waits, oldest first, and notes that wait with it."""
        assert self.record.id is not None
        while self._waiting:
            block = self._waiting[0]
            self._yard.append_samples(self.record.id, block.time_s, block.columns)
            self._waiting.popleft()
            self._waiting_rows -= block.time_s.size
            self._post(lambda block=block: self._events.kept(block))  # type: ignore[misc]
        self._notes.flush()

    def _report_held_up(self, reason: str) -> None:
        if bool(reason) != self._held_up:
            self._held_up = bool(reason)
            self._post(lambda: self._events.held_up(reason))

    def _on_found(self, identity: str) -> None:
        self.answering = True
        self._events.found(identity)

    def _on_lost(self, reason: str) -> None:
        self.answering = False
        self._events.lost(reason)
