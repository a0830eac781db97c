"""What all views share: they read again what they show when it changed and they are seen."""

from collections.abc import Generator, Iterable, Iterator, Sequence
from datetime import datetime
from pathlib import Path

from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import QBoxLayout, QWidget
from shiboken6 import isValid

from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.turns import Turns, lay_out
from yardtoll.desktop.widgets.least_high import LeastHigh
from yardtoll.desktop.workbench.courtesy import courtesy
from yardtoll.desktop.workbench.workbench import Workbench

WORKING = "Working the runs out…"
"""Said in place of a finding while not all results of a station are there."""


class StopView(LeastHigh):
    """One stop of the rail.

    Attributes:
        changes_whole: whether most of what is seen changes with what it shows; it is then laid out
            in one turn and painted in another.
    """

    changes_whole = True

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self.key = ""
        self._stale = True
        self._fillings = 0
        self._parts: Iterator[None] | None = self._build()
        self._filling = Turns(self)
        bench.changed.connect(self._touch)
        bench.live_changed.connect(self._touch)

    def _build(self) -> Iterator[None]:
        """Make what is in it, a part at a time; large stops do, in place of all in `__init__`."""
        yield from ()

    def build_on(self) -> bool:
        """Make the next part; whether there may be more."""
        if self._parts is None or next(self._parts, self) is self:
            self._parts = None
            self.fit()
        return self._parts is not None

    def build_whole(self) -> None:
        """Make all that is left to be made."""
        while self.build_on():
            pass

    def fit(self) -> None:
        """Fit what is in it to its size, which changed; it is whole by then."""

    @property
    def place_width(self) -> int:
        """Of what is seen of it, in pixels: less than its own width where it scrolls sideways."""
        place = self.parentWidget()
        return self.width() if place is None else min(self.width(), place.width())

    def stack_below(self, least_w: float, *rows: QBoxLayout) -> bool:
        """Have rows go downwards where the place is narrower; whether it is.

        Args:
            least_w: in pixels of usual text.
        """
        is_narrow = self.place_width < scaled(least_w)
        direction = QBoxLayout.Direction
        for row in rows:
            row.setDirection(direction.TopToBottom if is_narrow else direction.LeftToRight)
        return is_narrow

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._parts is None:
            self.fit()

    def refresh(self) -> None:
        """Read again and show."""

    def _fill(self) -> Iterator[None]:
        """Read again and show, a part at a time; stops of many rows do, and refresh by it."""
        self.refresh()
        yield from ()

    def _fill_whole(self) -> None:
        self._fillings += 1
        for _ in self._fill():
            pass

    def show_run(self, run_id: int) -> None:
        """Show a certain run; stops that show runs do."""

    def take_files(self, paths: Sequence[Path]) -> bool:  # noqa: ARG002 - for those that do
        """Take dropped files in; whether they are for this stop and not for the window."""
        return False

    def choose_method(
        self, method: str, watts: float | None = None, at: datetime | None = None
    ) -> None:
        """Plan a run of a method; the stop that plans does.

        Args:
            watts: that are asked for; None for none.
            at: a moment to come, aware; None for now.
        """

    def help_page(self) -> str:
        """Key of the manual's page on what is shown."""
        return self.key

    def method_page(self) -> str:
        """Key of the manual's page on the method that is shown; "" where none is."""
        return ""

    def conditions(self) -> str:
        """Of what the figures here hold, for copies of them; the station, and its run if one."""
        station = self.bench.session.station
        return station.name if station is not None else ""

    def make_ready(self) -> None:
        """Read again what changed since it was seen; it need not be seen for that."""
        for _ in self.make_ready_on():
            pass

    def make_ready_on(self) -> Iterator[None]:
        """The same a part at a time; what changes meanwhile is read when it is seen."""
        self.build_whole()
        if not self._stale:
            return
        self._fillings += 1
        mine, is_done = self._fillings, False
        self._stale = False
        try:
            for _ in self._fill():
                yield
                if self._fillings != mine:
                    return  # it was filled anew in between
            is_done = True
        finally:
            self._stale = self._stale or not is_done

    def _unpainted(self, steps: Iterable[None]) -> Generator[None]:
        """Do the steps while it is seen: laid out after each, painted when all are done."""
        self.setUpdatesEnabled(False)
        try:
            for _ in steps:
                lay_out(self)
                yield
            lay_out(self)
            yield
        finally:
            if isValid(self):
                self.setUpdatesEnabled(True)
        yield

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.make_ready()

    def _touch(self) -> None:
        """What is shown changed. Results, which nobody asked for just now, are shown in parts."""
        if not self.isVisible():
            self._stale = True
        elif self.bench.analyses.is_announcing and self.changes_whole:
            self._stale = True
            self._filling.begin(courtesy.first(self._unpainted(self.make_ready_on())))
        else:
            self.refresh()
            if self.changes_whole:
                self._filling.drop()
                later = self._unpainted(())
                next(later)  # laid out now: the event loop would paint before its next turn
                self._filling.begin(later)
