"""Loading what the stops need while the window already stands: a first visit does not wait."""

import importlib
import logging
import pkgutil
import threading
import time
from collections.abc import Callable, Iterator

from PySide6.QtCore import QObject, Qt, Signal

from yardtoll.desktop.workbench.courtesy import courtesy
from yardtoll.desktop.workbench.loading import RESULTS, load
from yardtoll.desktop.workbench.standing_aside import standing_aside

log = logging.getLogger(__name__)

_LIBRARIES = ("pyqtgraph", *RESULTS, "scipy.ndimage")
"""Larger than all of ours together; needed by Run, Verdicts and Plan."""
_OURS = ("review", "running", "desktop.views", "desktop.dialogs", "desktop.actions")
_PAUSE_S = 0.005
"""After each module, for the window's own thread."""
_LONGEST_STOP_S = 5.0


class Warming(QObject):
    """A thread that imports one module after the other until it is told to stop.

    Args:
        done: called on the window's thread when all is loaded.
    """

    _loaded = Signal()

    def __init__(self, done: Callable[[], None] = lambda: None) -> None:
        super().__init__()
        self._done = done
        self._loaded.connect(self._finish, Qt.ConnectionType.QueuedConnection)
        self._stopped = threading.Event()
        self._thread = threading.Thread(target=self._work, name="warming", daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self) -> None:
        """End after the module that is being loaded."""
        self._stopped.set()
        end_s = time.monotonic() + _LONGEST_STOP_S
        while self._thread.is_alive() and time.monotonic() < end_s:
            standing_aside.let_work()
            self._thread.join(_PAUSE_S)

    @property
    def is_done(self) -> bool:
        """Whether all is loaded."""
        return not self._thread.is_alive()

    def _work(self) -> None:
        for name in _modules():
            while not self._stopped.wait(_PAUSE_S) and courtesy.others_work:
                pass  # results come first; who needs a module before that loads it alone
            if self._stopped.is_set():
                return
            try:
                with courtesy.unhurried_work():
                    load([name])
            except Exception:
                # It is reported when somebody needs it.
                log.warning("%s could not be loaded ahead", name, exc_info=True)
        self._loaded.emit()

    def _finish(self) -> None:
        courtesy.all_is_loaded()
        self._done()


def _modules() -> Iterator[str]:
    package = __name__.partition(".")[0]
    yield f"{package}.review.analysis"
    yield from _LIBRARIES
    for room in _OURS:
        found = importlib.import_module(f"{package}.{room}")
        walked = pkgutil.walk_packages(found.__path__, f"{found.__name__}.")
        # Of the sky's models only a yard with panels knows the need.
        yield from (module.name for module in walked if ".sun" not in module.name)
