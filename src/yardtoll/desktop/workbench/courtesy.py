"""While the window makes something ready, work beside it begins nothing new.

Threads that calculate in Python take turns with the window's own: with three of them a stop would
take four times as long to be shown. What has begun goes on, for it may be long.
"""

import threading
from collections.abc import Generator, Iterable, Iterator
from contextlib import contextmanager

_LONGEST_WAIT_S = 1.0
"""Whatever the window does: nothing waits for it longer."""
_LOOK_AGAIN_MS, _LOOKS = 10, 8


class Courtesy:
    """Who lets whom go first."""

    def __init__(self) -> None:
        self._is_free = threading.Event()
        self._is_free.set()
        self._firsts = 0
        self._lock, self._others = threading.Lock(), 0
        self._unhurried = threading.Semaphore(1)

    def begin(self) -> None:
        """For the window's thread: it makes something ready, until as many `end`."""
        self._firsts += 1
        self._is_free.clear()

    def end(self) -> None:
        """It is ready."""
        self._firsts -= 1
        if not self._firsts:
            self._is_free.set()

    @contextmanager
    def window_first(self) -> Iterator[None]:
        """For the window's thread, around what it makes ready."""
        self.begin()
        try:
            yield
        finally:
            self.end()

    @property
    def window_is_busy(self) -> bool:
        """Whether the window makes something ready."""
        return self._firsts > 0

    @property
    def others_work(self) -> bool:
        """Whether another thread is at work."""
        return self._others > 0

    def others_ending(self) -> Iterator[int]:
        """Yield ms to wait while others end what they are at; long work is not waited for."""
        for _ in range(_LOOKS):
            if not self._others:
                return
            yield _LOOK_AGAIN_MS

    @contextmanager
    def work(self) -> Iterator[None]:
        """For other threads, around what they do; it begins when the window lets it."""
        self._begin_work()
        try:
            yield
        finally:
            self._end_work()

    @contextmanager
    def unhurried_work(self) -> Iterator[None]:
        """The same around what nobody waits for: of that little is done at a time."""
        with self._unhurried, self.work():
            yield

    def all_is_loaded(self) -> None:
        """From now on two unhurried things are done at a time; while modules are loaded, one."""
        self._unhurried.release()

    def pause(self) -> None:
        """For other threads, in the midst of their work: the window goes first, if it wants to."""
        if not self._is_free.is_set():
            self._end_work()
            self._begin_work()

    def _begin_work(self) -> None:
        self._is_free.wait(_LONGEST_WAIT_S)
        with self._lock:
            self._others += 1

    def _end_work(self) -> None:
        with self._lock:
            self._others -= 1

    def first(self, steps: Iterable[int | None]) -> Generator[int | None]:
        """Steps of the window's own: what others have begun may end, and no more begins."""
        with self.window_first():
            yield from self.others_ending()
            yield from steps


courtesy = Courtesy()
"""Of the one window thread there is."""
