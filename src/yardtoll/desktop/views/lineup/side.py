"""Beside the line-up: what stations are compared in, and who takes part."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.views.lineup.search_box import SearchBox
from yardtoll.desktop.views.lineup.who import WhoList
from yardtoll.desktop.widgets.basics import button, label
from yardtoll.desktop.workbench.jobs import Jobs
from yardtoll.review.lineup.quantities import QUANTITIES

_WIDE, _ANY_WIDTH = 216, 16_000
_HIGH_BELOW = 320
"""Where it is not beside the stations but above them, in pixels of usual text."""


class LineupSide(QWidget):
    """Quantities, a search, and a list of stations to tick.

    Signals:
        quantity_chosen: another quantity.
        family_asked: only the chosen station and its packs are to take part.
        yard_asked, archive_asked: more stations are to take part.
    """

    quantity_chosen = Signal()
    family_asked = Signal()
    yard_asked = Signal()
    archive_asked = Signal()

    def __init__(self, jobs: Jobs, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self._list_words = label("Compared in", "heading")
        column.addWidget(self._list_words)
        self._list = QListWidget()
        self._list.setAccessibleName("What they are compared in")
        self._list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for about in QUANTITIES.values():
            item = QListWidgetItem(about.title)
            item.setData(Qt.ItemDataRole.UserRole, about.key)
            item.setToolTip(about.title)
            self._list.addItem(item)
        self._list.setCurrentRow(0)
        self._list.currentRowChanged.connect(lambda _: self.quantity_chosen.emit())
        column.addWidget(self._list, 3)
        column.addWidget(label("Who takes part", "heading"))
        self.search = SearchBox(jobs)
        column.addWidget(self.search)
        self.who = WhoList()
        column.addWidget(self.who, 2)
        self.family_button = button("Only this one and its packs", self.family_asked.emit)
        column.addWidget(self.family_button)
        column.addWidget(button("Another yard…", self.yard_asked.emit))
        self.archive_button = button("From the archive…", self.archive_asked.emit)
        column.addWidget(self.archive_button)

    @property
    def quantity(self) -> str:
        """Key of the chosen one."""
        return str(self._list.currentItem().data(Qt.ItemDataRole.UserRole))

    def choose(self, key: str) -> None:
        """Choose a quantity."""
        self._list.setCurrentRow(list(QUANTITIES).index(key))

    def show_quantities(self, *, shown: bool) -> None:
        """They are chosen from on one page only."""
        for part in (self._list_words, self._list):
            part.setVisible(shown)

    def fit(self, *, is_below: bool) -> None:
        """A column beside the stations, or as wide as they are."""
        self.setMinimumWidth(0 if is_below else _WIDE)
        self.setMaximumWidth(_ANY_WIDTH if is_below else _WIDE)
        self.setMinimumHeight(scaled(_HIGH_BELOW) if is_below else 0)
