"""A run session as the window sees it: its events arrive as signals, on the GUI thread."""

from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, Signal

from yardtoll.desktop.turns import Turns
from yardtoll.running.session import RunSession, SessionEvents
from yardtoll.store.records import Run
from yardtoll.store.yard_file import YardFile


class LiveRun(QObject):
    """Signals of one run in progress, and its session.

    Attributes:
        turns: it is begun and shown in these.

    Signals:
        samples_added: new samples are in the session.
        notes_changed: a mark or reading was made.
        lost(reason), found(identity): the meter stopped answering, or answers.
        noted(sentence): something the user must know about the recording.
        ended(run_id, reason): the run is finished and kept.
        failed(reason): the recording cannot go on; what came before is kept.
    """

    samples_added = Signal()
    notes_changed = Signal()
    lost = Signal(str)
    found = Signal(str)
    noted = Signal(str)
    ended = Signal(int, str)
    failed = Signal(str)
    _posted = Signal(object)

    def __init__(
        self,
        yard: YardFile,
        run: Run,
        *,
        speed: float = 1.0,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.turns = Turns(self)
        # Queued: recorders post from threads of their own.
        self._posted.connect(_call, Qt.ConnectionType.QueuedConnection)
        self.session = RunSession(
            yard,
            run,
            events=SessionEvents(
                samples_added=self.samples_added.emit,
                notes_changed=self.notes_changed.emit,
                lost=self.lost.emit,
                found=self.found.emit,
                noted=self.noted.emit,
                ended=self.ended.emit,
                failed=self.failed.emit,
            ),
            post=self._posted.emit,
            speed=speed,
        )


def _call(todo: Callable[[], None]) -> None:
    todo()
