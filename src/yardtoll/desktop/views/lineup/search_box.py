"""Finding stations by words and figures, while they are typed."""

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QLineEdit, QToolButton, QWidget

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import capitalised
from yardtoll.desktop.workbench.jobs import Jobs
from yardtoll.desktop.workbench.latest import LatestAnswer
from yardtoll.review.archive.search import Fit, Query, found_in, read_query
from yardtoll.review.lineup.entrants import Asked, Entrant

_AFTER_MS = 150


@dataclass(frozen=True, kw_only=True, eq=False)
class SearchQuestion:
    """What is looked for, and among whom."""

    entrants: tuple[Entrant, ...]
    query: Query
    asked: Asked
    title: str = "Looking for stations"

    @property
    def key(self) -> object:
        """Questions of one key have one answer."""
        return (tuple(id(e) for e in self.entrants), self.query, self.asked)

    def answer(self) -> dict[str, Fit]:
        """Names of those that fit, or may."""
        return {e.name: fit for e, fit in found_in(self.entrants, self.query, self.asked)}


class SearchBox(QLineEdit):
    """A line to search by.

    Signals:
        found(names): those that fit, with whether they surely do; None where nothing is asked.
        refused(words): why it is not understood; "" where it is.
    """

    found = Signal(object)
    refused = Signal(str)

    def __init__(self, jobs: Jobs, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setPlaceholderText("usable > 88 % and idle < 12 W")
        self.setAccessibleName("Find stations by words and figures")
        self.setClearButtonEnabled(True)
        for clear in self.findChildren(QToolButton):
            clear.setAccessibleName("Clear the search")
        self._entrants: tuple[Entrant, ...] = ()
        self._asked = Asked()
        self.searching = LatestAnswer[SearchQuestion](jobs, self._arrived)
        self._settling = QTimer(self, singleShot=True, interval=_AFTER_MS)
        self._settling.timeout.connect(self._ask)
        self.textChanged.connect(lambda _: self._settling.start())

    def show_among(self, entrants: Sequence[Entrant], asked: Asked) -> None:
        """Look among these from now on."""
        self._entrants, self._asked = tuple(entrants), asked
        if self.text().strip():
            self._ask()

    @property
    def is_settled(self) -> bool:
        """Whether nothing is being looked for."""
        return self.searching.is_settled and not self._settling.isActive()

    def _ask(self) -> None:
        try:
            query = read_query(self.text())
        except UnusableDataError as error:
            self.searching.withdraw()
            self.refused.emit(f"{capitalised(str(error))}.")
            return
        self.refused.emit("")
        if query.is_empty:
            self.searching.withdraw()
            self.found.emit(None)
            return
        self.searching.ask(SearchQuestion(entrants=self._entrants, query=query, asked=self._asked))

    def _arrived(self, _: SearchQuestion, found: dict[str, Fit] | str) -> None:
        if isinstance(found, dict) and self.text().strip():
            self.found.emit(found)
