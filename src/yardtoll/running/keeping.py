"""Writing to a yard that another program holds for a while, or whose disk is full."""

import threading
import time
from collections import deque
from collections.abc import Callable
from typing import TypeVar

from yardtoll.store.errors import BusyYardError, FullDiskError
from yardtoll.store.records import Mark, Reading
from yardtoll.store.yard_file import YardFile

PASSING = (BusyYardError, FullDiskError)
"""What may be over in a while; nothing was changed."""
_PAUSE_S = 0.5

N = TypeVar("N", bound=Mark | Reading)
T = TypeVar("T")


def retried(action: Callable[[], T], for_s: float) -> T:
    """The result of an action, tried again while the yard cannot be written.

    Raises:
        YardError: it still could not be after ``for_s``.
    """
    until_s = time.monotonic() + for_s
    while True:
        try:
            return action()
        except PASSING:
            if time.monotonic() > until_s:
                raise
            time.sleep(_PAUSE_S)


class Notes:
    """Marks and readings of a run: into the yard at once, or as soon as it can be written."""

    def __init__(self, yard: YardFile) -> None:
        self._yard = yard
        self._waiting: deque[Mark | Reading] = deque()
        self._writing = threading.Lock()

    def keep(self, note: N) -> N:
        """The note with its id, or without one where it has to wait in memory."""
        if not self._waiting:
            try:
                return self._yard.put(note)
            except PASSING:
                pass
        self._waiting.append(note)
        return note

    def flush(self) -> None:
        """Write what waits; on whichever thread finds the yard writable.

        Raises:
            YardError: it cannot be written yet; nothing that waits is lost.
        """
        with self._writing:
            while self._waiting:
                self._yard.put(self._waiting[0])
                self._waiting.popleft()
