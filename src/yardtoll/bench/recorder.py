"""Reading a meter for hours on a thread of its own, and handing every sample on at once."""

import contextlib
import threading
from collections.abc import Callable
from dataclasses import dataclass, replace

from yardtoll.bench.errors import AnswerError, BenchError
from yardtoll.bench.instrument import Instrument
from yardtoll.bench.meter_time import MeterTime
from yardtoll.bench.samples import SampleBlock, joined, usable
from yardtoll.core.formatting import format_span
from yardtoll.uptime import boot_s

HAND_ON_S = 0.5
"""Samples that come faster are kept together so often: each keeping waits for the disk."""
RETRY_S = 1.0
SILENT_S = 15.0
"""A meter that answers and brings no new samples for so long counts as lost."""
_PATIENCE_S = 1.0
"""A stopped recording waits so long for the answer that is under way."""


def _nothing(*_: object) -> None:
    """Nobody listens."""


@dataclass(frozen=True, kw_only=True)
class RecorderEvents:
    """What a recorder reports, on its own thread.

    Attributes:
        lost: the meter stopped answering, with the reason; once a loss.
        found: it answers (again), with what it calls itself.
        noted: something about the samples that must be known, in a few words; once a stretch.
        failed: the recording cannot continue.
    """

    lost: Callable[[str], None] = _nothing
    found: Callable[[str], None] = _nothing
    noted: Callable[[str], None] = _nothing
    failed: Callable[[Exception], None] = _nothing


class Recorder:
    """Polls a meter and hands blocks to a sink; a lost wire is reported and tried again.

    Args:
        meter: opened and closed by the recorder.
        sink: takes each block that holds samples; what it raises ends the recording.
        poll_s: how often it is asked; by default as its profile says.
        hand_on_s: samples of so many s are handed on together.
        resumed: the meter is joined again, not set up anew.
        last_s: with ``away_s``, the newest sample of an earlier program, on the meter's own time.
        away_s: how long ago it was taken.
        now_s: a clock that counts while the computer sleeps.
    """

    def __init__(
        self,
        meter: Instrument,
        sink: Callable[[SampleBlock], None],
        events: RecorderEvents,
        *,
        poll_s: float | None = None,
        hand_on_s: float = HAND_ON_S,
        resumed: bool = False,
        last_s: float | None = None,
        away_s: float = 0.0,
        now_s: Callable[[], float] = boot_s,
    ) -> None:
        self._meter = meter
        self._sink = sink
        self._events = events
        self._poll_s = poll_s if poll_s is not None else meter.interval_s
        self._hand_on_s = hand_on_s
        self._gathered: list[SampleBlock] = []
        self._handed_on_s = now_s()
        self._prepare = not resumed
        self._now_s = now_s
        self._time = MeterTime(last_s, now_s() - away_s)
        self._came_s = now_s()
        self._lost = False
        self._odd = False
        self._identity = ""
        self._stop = threading.Event()
        self._then: Callable[[], None] = lambda: None
        self._thread = threading.Thread(target=self._run, name="recorder", daemon=True)

    def start(self) -> None:
        """Begin; returns at once."""
        self._thread.start()

    def stop_soon(self, then: Callable[[], None]) -> None:
        """End after the samples at hand; ``then`` is called on the recorder's thread."""
        self._then = then
        self._stop.set()

    def stop(self, timeout_s: float = 10.0) -> None:
        """End after the samples at hand are handed on; returns when the thread is done.

        A meter that hangs is not waited for.
        """
        self._stop.set()
        if self._thread.is_alive() and threading.current_thread() is not self._thread:
            self._thread.join(min(_PATIENCE_S, timeout_s))
            if self._thread.is_alive():
                self._meter.break_off()
                self._thread.join(timeout_s)

    def _run(self) -> None:
        connected = False
        try:
            while not self._stop.is_set():
                try:
                    if not connected:
                        identity = self._meter.open(prepare=self._prepare)
                        connected, self._prepare, self._came_s = True, False, self._now_s()
                        self._opened(identity)
                    asked_s = self._now_s()
                    self._read()
                    self._hand_on_when_due()
                    # The next reading is due so long after this one began, not after it came.
                    self._stop.wait(max(self._poll_s - (self._now_s() - asked_s), 0.0))
                except BenchError as error:
                    self._hand_on()
                    self._report_lost(str(error))
                    if not isinstance(error, AnswerError):
                        connected = False
                        self._meter.close()
                    self._stop.wait(RETRY_S)
            if connected:
                self._hand_on_last()
            self._then()
        except Exception as error:
            self._events.failed(error)
        finally:
            self._meter.close()

    def _hand_on_last(self) -> None:
        # Where the wire broke on the very last reading the samples before it are safe.
        with contextlib.suppress(BenchError):
            self._read()
        self._hand_on()

    def _hand_on_when_due(self) -> None:
        now_s = self._now_s()
        if self._poll_s >= self._hand_on_s or now_s - self._handed_on_s >= self._hand_on_s:
            self._handed_on_s = now_s
            self._hand_on()

    def _hand_on(self) -> None:
        """What was gathered, as one block."""
        gathered, self._gathered = self._gathered, []
        if gathered:
            self._sink(joined(gathered))

    def _read(self) -> None:
        block, odd = usable(self._meter.read_new())
        self._report_odd(odd, block)
        if not block.time_s.size:
            if self._now_s() - self._came_s > SILENT_S:
                self._report_lost("the meter answers, but brings no new samples")
            return
        self._came_s = self._now_s()
        if self._lost:
            self._lost = False
            self._events.found(self._identity)
        placed, away_s = self._time.place(block.time_s, self._came_s)
        if away_s:
            self._events.noted(f"Meter restarted, {format_span(away_s)} without samples")
        self._gathered.append(replace(block, time_s=placed))

    def _opened(self, identity: str) -> None:
        """The first connection is news; one after a loss is so only when samples come again."""
        if self._identity and identity != self._identity:
            self._events.noted(f"Another meter answers: {identity}")
        self._identity = identity
        if not self._lost:
            self._events.found(identity)

    def _report_lost(self, reason: str) -> None:
        if not self._lost:
            self._events.lost(reason)
        self._lost = True

    def _report_odd(self, odd: int, block: SampleBlock) -> None:
        if odd and not self._odd:
            self._events.noted("Meter gave no reading: overload, or no signal")
        if odd or block.time_s.size:
            self._odd = bool(odd)
