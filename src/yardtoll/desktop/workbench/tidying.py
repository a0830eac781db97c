"""Python's cyclic garbage is collected on the window's thread alone.

By itself it is collected on whichever thread happens to make objects. Among it are parts of the
window, such as the labels of a chart's marks, and Qt's objects may only go where they live.
"""

import gc

from PySide6.QtCore import QObject, QTimer

_EVERY_MS = 100
"""Often: little is there to be looked through then."""
_YOUNG_FIRST = 3
"""So often the youngest alone: after ten times, as Python does, there would be three times as much
to be looked through at once."""
_OLDEST_EVERY = 600
"""The oldest are looked through every so many times: most of them stay."""


class Tidying(QObject):
    """Collects now and then, while the event loop runs, until it is told to stop."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._turn = 0
        self._is_settled = False
        self._timer = QTimer(self, interval=_EVERY_MS)
        self._timer.timeout.connect(self.tidy)

    def start(self) -> None:
        """From now on nothing is collected elsewhere; what is there is the program itself."""
        gc.disable()
        gc.freeze()
        self._timer.start()

    def settle(self) -> None:
        """All modules are loaded: what is made from now on may be gone one day.

        To look through all that is there once more would hold up the window for 0.2 s.
        """
        self._is_settled = True
        gc.freeze()

    def stop(self) -> None:
        """Leave it to Python again."""
        self._timer.stop()
        gc.unfreeze()
        gc.enable()

    def tidy(self) -> None:
        """Collect the youngest; the others less often.

        While modules are loaded, hundreds of thousands of objects come that stay: what outlives its
        first look is not looked through again. Of the window's own little goes in those seconds.
        """
        self._turn += 1
        young, _, old = gc.get_threshold()
        if not self._is_settled and self._turn < _OLDEST_EVERY:
            gc.collect(0)
            gc.freeze()
            return
        counts = gc.get_count()
        if self._turn % _OLDEST_EVERY == 0 and counts[2] > old:
            gc.collect(2)
        elif counts[1] > _YOUNG_FIRST:
            gc.collect(1)
        elif counts[0] > young:
            gc.collect(0)
