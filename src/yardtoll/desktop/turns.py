"""Long work on the window's thread, a step in each turn of its event loop.

A step may yield for how many ms nothing is to be done; the next turn is at once where it does not.
"""

from collections.abc import Generator

from PySide6.QtCore import QObject, QTimer


class Turns(QObject):
    """The work that is under way, if any is; the window answers between its steps."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._steps: Generator[int | None] | None = None
        self._stepping: Generator[int | None] | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._go_on)

    def begin(self, steps: Generator[int | None]) -> None:
        """Do these; others that are not at their end are dropped."""
        self.drop()
        self._steps = steps
        self._timer.start(0)

    def drop(self) -> None:
        """Do no more of them."""
        steps, self._steps = self._steps, None
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
        # A step may end the work that it is part of, or begin other.
        if self._steps is not steps:
            steps.close()
        elif said is self:
            self.drop()
        elif said != self._timer.interval():
            self._timer.setInterval(said if isinstance(said, int) else 0)
