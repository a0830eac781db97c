"""A stop's first visit in steps: the window goes on answering while the stop is made ready.

Making, styling and filling some hundred widgets takes a fifth of a second. Each step is a turn of
the event loop of its own; the stop is shown when the last is done.
"""

from collections.abc import Callable, Generator, Iterator

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid

from yardtoll.desktop.turns import Turns, lay_out, styled
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.workbench.courtesy import courtesy
from yardtoll.desktop.workbench.loading import loaded


class Visits(QObject):
    """The visit that is under way, if one is.

    Args:
        view_of: begins a stop's view where it is not there, by the stop's key.
        show: shows a stop, by its key.
        place: where stops are seen.
    """

    def __init__(
        self,
        view_of: Callable[[str], StopView],
        show: Callable[[str], None],
        place: QWidget,
        parent: QObject,
    ) -> None:
        super().__init__(parent)
        self._view_of, self._show, self._place = view_of, show, place
        self._turns = Turns(self)

    def begin(self, stop: str) -> None:
        """Go to a stop; another visit that is not at its end is dropped."""
        self._turns.begin(self._to(stop))

    def drop(self) -> None:
        """Stay where we are."""
        self._turns.drop()

    @property
    def is_under_way(self) -> bool:
        """Whether a stop is being made ready."""
        return self._turns.is_under_way

    def _to(self, stop: str) -> Generator[int | None]:
        yield from loaded(STOPS[stop].modules)
        yield from courtesy.first(self._made(stop))

    def _made(self, stop: str) -> Iterator[None]:
        view = self._view_of(stop)
        yield
        while view.build_on():
            yield
        yield from styled(view)
        for _ in view.make_ready_on():
            yield
        yield
        # Laid out in one turn, painted in the next.
        self._place.setUpdatesEnabled(False)
        try:
            self._show(stop)
            lay_out(self._place)
            yield
        finally:
            if isValid(self._place):
                self._place.setUpdatesEnabled(True)
        yield
