"""Long work off the GUI thread: frozen input in, progress and result back by queued signals.

What a cancelled job still brings is discarded. One that ends after its window is noted in the log
alone.
"""

import logging
import threading
from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from yardtoll.desktop.workbench.courtesy import courtesy

log = logging.getLogger(__name__)


class CancelledError(Exception):
    """Raised inside a job's work when the user cancelled it."""


class BrokenJobError(Exception):
    """The work ended with something that is no ordinary error."""


@dataclass(frozen=True)
class JobHandle:
    """What the work is given: a way to report progress and to learn that it was cancelled."""

    number: int
    report: Callable[[str, float | None], None]
    cancelled: threading.Event

    def progress(self, text: str, share: float | None = None) -> None:
        """Say what is being done; ``share`` 0–1 where it is known.

        Raises:
            CancelledError: the user cancelled.
        """
        if self.cancelled.is_set():
            raise CancelledError
        self.report(text, share)


class Jobs(QObject):
    """Runs jobs on worker threads, begun in the order in which they were asked for.

    Two at a time of those that somebody waits for. The others, which may be hundreds, have threads
    of their own, so that they do not keep those waiting.

    Signals:
        started(title): a job began.
        progressed(text, share): how far it is, share −1 where unknown.
        idle(): no job is left.
    """

    started = Signal(str)
    progressed = Signal(str, float)
    idle = Signal()
    _finished = Signal(int, object, object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool, self._unhurried_pool = QThreadPool(self), QThreadPool(self)
        self._pool.setMaxThreadCount(2)
        self._unhurried_pool.setMaxThreadCount(2)
        self._next = 0
        self._waiting: dict[
            int, tuple[JobHandle, Callable[[Any], None], Callable[[Exception], None]]
        ] = {}
        self._finished.connect(self._arrived)

    def start(
        self,
        title: str,
        work: Callable[[JobHandle], Any],
        done: Callable[[Any], None],
        failed: Callable[[Exception], None],
        *,
        unhurried: bool = False,
    ) -> int:
        """Run ``work`` on a worker; ``done`` or ``failed`` is called on the GUI thread.

        Args:
            unhurried: one of many that nobody asked for by a click.
        """
        self._next += 1
        number = self._next
        handle = JobHandle(
            number,
            lambda text, share: self.progressed.emit(text, -1.0 if share is None else share),
            threading.Event(),
        )
        self._waiting[number] = (handle, done, failed)
        self.started.emit(title)
        around = courtesy.unhurried_work if unhurried else courtesy.work
        pool = self._unhurried_pool if unhurried else self._pool
        pool.start(_Task(handle, work, self._finished, around))
        return number

    def cancel(self, number: int | None = None) -> None:
        """Drop one job, or all; a late result is discarded."""
        for key in [number] if number is not None else list(self._waiting):
            found = self._waiting.pop(key, None)
            if found:
                found[0].cancelled.set()
        if not self._waiting:
            self.idle.emit()

    def is_waiting(self, number: int) -> bool:
        """Whether a job is under way and was not cancelled."""
        return number in self._waiting

    @property
    def busy(self) -> bool:
        """Whether a job is under way."""
        return bool(self._waiting)

    def wait(self, timeout_ms: int = 30_000) -> None:
        """Let workers end before the program does."""
        self.cancel()
        for pool in (self._pool, self._unhurried_pool):
            pool.waitForDone(timeout_ms)

    def _arrived(self, number: int, result: object, error: object) -> None:
        found = self._waiting.pop(number, None)
        if found is None:
            return
        _, done, failed = found
        if not self._waiting:
            self.idle.emit()
        if isinstance(error, Exception):
            failed(error)
        else:
            done(result)


class _Task(QRunnable):
    """One job on a worker thread."""

    def __init__(
        self,
        handle: JobHandle,
        work: Callable[[JobHandle], Any],
        finished: Any,
        around: Callable[[], AbstractContextManager[None]],
    ) -> None:
        super().__init__()
        self._handle = handle
        self._work = work
        self._signal = finished
        self._around = around

    def run(self) -> None:
        """Do the work and send what came of it."""
        result: object = None
        error: object = None
        try:
            with self._around():
                result = self._work(self._handle)
        except CancelledError:
            return
        except Exception as caught:
            log.info("job failed", exc_info=caught)
            error = caught
        except BaseException as caught:
            # Extension modules raise kinds of their own; a job must end whatever it meets.
            log.exception("job broke")
            error = BrokenJobError(f"the work broke off ({type(caught).__name__})")
        try:
            self._signal.emit(self._handle.number, result, error)
        except RuntimeError:
            log.info("a job ended after its window")
