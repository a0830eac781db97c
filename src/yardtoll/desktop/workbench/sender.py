"""A yard sent to a shared archive when it changed: recorded here first, sent when that is there."""

from PySide6.QtCore import QObject, QTimer, Signal

from yardtoll.core.formatting import capitalised, counted
from yardtoll.desktop.workbench.jobs import JobHandle, Jobs
from yardtoll.store.shared.archive import Sent, SharedArchive
from yardtoll.store.yard_file import YardFile

_LOOK_EVERY_MS = 10_000
_LONGEST_WAIT = 30
"""After failures so many looks are left out at most."""


class Sender(QObject):
    """Sends one open yard.

    Signals:
        said(text): the archive is away, or there again.
    """

    said = Signal(str)

    def __init__(
        self, yard: YardFile, jobs: Jobs, address: str, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._yard, self._jobs, self._address = yard, jobs, address
        self._sent_at = -1
        self._number = 0
        self._failures = self._waits = 0
        self._looks = QTimer(self, interval=_LOOK_EVERY_MS)
        self._looks.timeout.connect(self._look)
        self._looks.start()
        self._first = QTimer(self, singleShot=True, interval=0)
        self._first.timeout.connect(self.send)
        self._first.start()

    @property
    def is_settled(self) -> bool:
        """Whether nothing is being sent."""
        return not self._jobs.is_waiting(self._number)

    @property
    def is_sent(self) -> bool:
        """Whether all of it is there."""
        return self._sent_at == self._yard.changes

    def send(self) -> None:
        """Send now what changed."""
        if self.is_sent or not self.is_settled:
            return
        changes = self._yard.changes
        self._number = self._jobs.start(
            "Sending to the archive",
            lambda handle: _send(self._address, self._yard, handle),
            lambda sent: self._done(changes, sent),
            self._failed,
        )

    def _look(self) -> None:
        """After failures it is tried less often."""
        if self._waits > 0:
            self._waits -= 1
        else:
            self.send()

    def _done(self, changes: int, sent: Sent) -> None:
        self._sent_at = changes
        if self._failures:
            self._failures = 0
            self.said.emit(f"The archive is there again: {counted(sent.stations, 'station')} sent.")

    def _failed(self, error: Exception) -> None:
        self._failures += 1
        self._waits = min(2**self._failures, _LONGEST_WAIT)
        if self._failures == 1:
            self.said.emit(
                f"{capitalised(str(error))}. Everything is kept here, and sent when it is there."
            )


def _send(address: str, yard: YardFile, handle: JobHandle) -> Sent:
    archive = SharedArchive(address)
    try:
        return archive.send(yard, handle.progress)
    finally:
        archive.close()
