"""Reading a meter for hours on a thread of its own, and handing every sample on at once."""

import contextlib
import threading
from collections.abc import Callable

from yardtoll.bench.errors import AnswerError, BenchError
from yardtoll.bench.instrument import Instrument
from yardtoll.bench.samples import SampleBlock

POLL_S = 0.5
RETRY_S = 1.0


class Recorder:
    """Polls a meter and hands blocks to a sink; a lost wire is reported and tried again.

    All callbacks run on the recorder's thread.

    Args:
        meter: opened and closed by the recorder.
        sink: takes each block that holds samples; what it raises ends the recording.
        on_lost: called once when the meter stops answering, with the reason.
        on_found: called when it answers (again), with what it calls itself.
        on_failed: called when the recording cannot continue.
    """

    def __init__(
        self,
        meter: Instrument,
        sink: Callable[[SampleBlock], None],
        *,
        on_lost: Callable[[str], None] = lambda _: None,
        on_found: Callable[[str], None] = lambda _: None,
        on_failed: Callable[[Exception], None] = lambda _: None,
        poll_s: float = POLL_S,
        resumed: bool = False,
    ) -> None:
        self._meter = meter
        self._sink = sink
        self._on_lost = on_lost
        self._on_found = on_found
        self._on_failed = on_failed
        self._poll_s = poll_s
        self._prepare = not resumed
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
        """End after the samples at hand are handed on; returns when the thread is done."""
        self._stop.set()
        if self._thread.is_alive() and threading.current_thread() is not self._thread:
            self._thread.join(timeout_s)

    def _run(self) -> None:
        connected = lost = False
        try:
            while not self._stop.is_set():
                try:
                    if not connected:
                        self._on_found(self._meter.open(prepare=self._prepare))
                        connected, lost, self._prepare = True, False, False
                    self._hand_on()
                    self._stop.wait(self._poll_s)
                except BenchError as error:
                    if not lost:
                        self._on_lost(str(error))
                    lost = True
                    if not isinstance(error, AnswerError):
                        connected = False
                        self._meter.close()
                    self._stop.wait(RETRY_S)
            if connected:
                self._hand_on_last()
            self._then()
        except Exception as error:
            self._on_failed(error)
        finally:
            self._meter.close()

    def _hand_on_last(self) -> None:
        # Where the wire broke on the very last reading the samples before it are safe.
        with contextlib.suppress(BenchError):
            self._hand_on()

    def _hand_on(self) -> None:
        block = self._meter.read_new()
        if block.time_s.size:
            self._sink(block)
