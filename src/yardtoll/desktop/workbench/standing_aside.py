"""Modules of the window are loaded on a thread while the window's own thread stands aside.

Qt's thread looks up what a class of Python's is even while another thread has Python's turn, in a
table that grows with every class. Where one was defined on a thread at that moment the program
crashed, in one of a hundred starts. So a thread that defines such classes works in short spells,
and only while the window's waits.
"""

import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from yardtoll.desktop.workbench.courtesy import courtesy

_SPELL_S = 0.008
_LATE_S = 0.012
"""A thread may be in the midst of something that it cannot leave at the end of its spell."""
_LOOK_S = 0.02
_LONGEST_WAIT_S = 1.0
"""Then the window's thread is in no event loop: it waits for something, perhaps for us."""
_AGAIN_MS = 10
_IMPORTING = "<frozen importlib._bootstrap>"
"""Where Python's code of imports says it is from."""


class StandingAside(QObject):
    """Who works: a thread that loads modules of the window, or the window's own."""

    _asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._state = threading.Condition()
        self._one = threading.Lock()
        self._until_s = 0.0
        self._is_wanted = self._is_at_work = False
        self._next = QTimer(self, singleShot=True)
        self._next.timeout.connect(self._stand_aside)
        self._asked.connect(self._stand_aside, Qt.ConnectionType.QueuedConnection)

    @property
    def is_at_work(self) -> bool:
        """Whether the other thread works, and the window's waits."""
        return self._is_at_work

    @contextmanager
    def waited_for(self) -> Iterator[None]:
        """For another thread, around what it does only while the window's waits."""
        if threading.current_thread() is threading.main_thread():
            yield
            return
        with self._one:
            self._is_wanted = True
            self._asked.emit()
            self._wait()
            sys.setprofile(self._look)
            try:
                yield
            finally:
                sys.setprofile(None)
                with self._state:
                    self._is_wanted = self._is_at_work = False
                    self._state.notify_all()

    def _look(self, frame: FrameType, event: str, said: object) -> None:  # noqa: ARG002 - Python's
        """Called at every call of the thread's: the only place where an import can be halted."""
        if time.perf_counter() >= self._until_s:
            self._wait()

    def _wait(self) -> None:
        with self._state:
            self._is_at_work = False
            self._state.notify_all()
            since = time.perf_counter()
            while (now := time.perf_counter()) >= self._until_s:
                if _window_waits_for_a_module():
                    self._until_s = now + _SPELL_S
                elif now - since > _LONGEST_WAIT_S:
                    self._until_s = now + _LONGEST_WAIT_S
                else:
                    self._state.wait(_LOOK_S)
            self._is_at_work = True

    def _stand_aside(self) -> None:
        if self._is_wanted and courtesy.window_is_busy:
            self._next.start(_AGAIN_MS)
            return
        self.let_work()
        if self._is_wanted:
            self._next.start(0)

    def let_work(self) -> None:
        """For the window's thread: wait while the other works for a spell, if it wants to."""
        with self._state:
            if not self._is_wanted:
                return
            self._until_s = time.perf_counter() + _SPELL_S
            self._state.notify_all()
            self._state.wait_for(self._is_over, timeout=_SPELL_S + _LATE_S)
            self._until_s = 0.0

    def _is_over(self) -> bool:
        is_late = time.perf_counter() >= self._until_s
        return not self._is_wanted or (is_late and not self._is_at_work)


def _window_waits_for_a_module() -> bool:
    """Whether its thread imports: what it waits for may be what is being loaded."""
    ident = threading.main_thread().ident
    frame = None if ident is None else sys._current_frames().get(ident)
    return frame is not None and frame.f_code.co_filename == _IMPORTING


standing_aside = StandingAside()
"""Of the one window thread there is."""
