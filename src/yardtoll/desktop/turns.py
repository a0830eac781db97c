"""Long work on the window's thread, a step in each turn of its event loop.

A step may yield for how many ms nothing is to be done; the next turn is at once where it does not.
"""

import time
from collections.abc import Generator, Iterator
from contextlib import suppress
from functools import partial

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QLayout, QWidget
from shiboken6 import isValid

_STEP_S = 0.012
"""So long widgets are styled in one turn."""


class Turns(QObject):
    """The work that is under way, if any is; the window answers between its steps."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._steps: Generator[int | None] | None = None
        self._stepping: Generator[int | None] | None = None
        self._held: list[Generator[int | None]] = []
        # Who waits for the steps to end must not wait for the garbage to be collected.
        self.destroyed.connect(partial(_close, self._held))
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._go_on)

    def begin(self, steps: Generator[int | None]) -> None:
        """Do these; others that are not at their end are dropped."""
        self.drop()
        self._steps = steps
        self._held[:] = [steps]
        self._timer.start(0)

    def drop(self) -> None:
        """Do no more of them."""
        steps, self._steps = self._steps, None
        self._held.clear()
        self._timer.stop()
        if steps is not None and steps is not self._stepping:
            steps.close()

    @property
    def is_under_way(self) -> bool:
        """Whether there are steps left."""
        return self._steps is not None

    def _go_on(self) -> None:
        steps = self._stepping = self._steps
        if steps is None:
            return
        try:
            said = next(steps, self)
        finally:
            self._stepping = None
        # A step may end the work that it is part of, or begin other; or it was the last that held
        # the owner of this, and the timer went with it.
        if not isValid(self):
            self._steps = None
            steps.close()
        elif self._steps is not steps:
            steps.close()
        elif said is self:
            self.drop()
        elif said != self._timer.interval():
            self._timer.setInterval(said if isinstance(said, int) else 0)


def _close(held: list[Generator[int | None]]) -> None:
    for steps in held:
        with suppress(ValueError):  # the step that ends its own owner
            steps.close()


def lay_out(whole: QWidget) -> None:
    """Lay out what is in a widget now, not in the event loop's turn.

    There each part that is laid out in Python would wait for its turn beside other threads.
    """
    for layout in reversed(whole.findChildren(QLayout)):
        layout.activate()


def styled(whole: QWidget) -> Iterator[None]:
    """Style a widget, some of what is in it in each turn, before it is seen.

    What is within comes first: a widget that is styled styles all in it that is not yet.
    """
    begun = time.perf_counter()
    for widget in reversed(whole.findChildren(QWidget)):
        widget.ensurePolished()
        if time.perf_counter() - begun > _STEP_S:
            yield
            begun = time.perf_counter()
    whole.ensurePolished()
    yield
