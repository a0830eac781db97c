"""Recording one instrument of a run: samples into the yard first, then to whoever shows them."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from yardtoll.bench.instrument import Instrument
from yardtoll.bench.recorder import Recorder
from yardtoll.bench.samples import SampleBlock
from yardtoll.store.records import Recording
from yardtoll.store.yard_file import YardFile

Post = Callable[[Callable[[], None]], None]
"""Has something done later, on the thread that owns the run."""


@dataclass(frozen=True, kw_only=True)
class RecordingEvents:
    """Events of a recording, on the thread that owns the run.

    Attributes:
        kept: samples that are on disk already.
        found: the instrument answers; what it calls itself.
        lost: it stopped answering, and why.
        failed: the recording cannot go on, and why.
    """

    kept: Callable[[SampleBlock], None]
    found: Callable[[str], None]
    lost: Callable[[str], None]
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
    ) -> None:
        assert recording.id is not None
        self._yard = yard
        self.record = recording
        self.instrument = instrument
        self.answering = False
        self._events = events
        self._post = post
        self._shift_s = 0.0
        self._recorder: Recorder | None = None

    def start(self, resume_from_s: float | None = None) -> None:
        """Connect and record; returns at once.

        Args:
            resume_from_s: go on so many s after the first sample that was ever recorded.
        """
        # An instrument that does not time its samples counts from this connection.
        if resume_from_s is not None and not self.instrument.keeps_time:
            self._shift_s = resume_from_s
        post, events = self._post, self._events
        self._recorder = Recorder(
            self.instrument,
            self._keep,
            on_found=lambda identity: post(lambda: self._on_found(identity)),
            on_lost=lambda reason: post(lambda: self._on_lost(reason)),
            on_failed=lambda error: post(lambda: events.failed(str(error))),
            resumed=resume_from_s is not None,
        )
        self._recorder.start()

    def stop_soon(self, then: Callable[[], None]) -> None:
        """End the recording; ``then`` is called on its thread after the last samples."""
        if self._recorder is not None:
            self._recorder.stop_soon(then)

    def stop(self) -> None:
        """End the recording now, and wait for it."""
        if self._recorder is not None:
            self._recorder.stop()

    def _keep(self, block: SampleBlock) -> None:
        """On the recorder's thread: on disk first, then shown."""
        if self._shift_s:
            block = replace(block, time_s=block.time_s + self._shift_s)
        assert self.record.id is not None
        self._yard.append_samples(self.record.id, block.time_s, block.columns)
        self._post(lambda: self._events.kept(block))

    def _on_found(self, identity: str) -> None:
        self.answering = True
        self._events.found(identity)

    def _on_lost(self, reason: str) -> None:
        self.answering = False
        self._events.lost(reason)
