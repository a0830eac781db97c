"""Pages in one place, one seen at a time, each with a scroll bar of its own."""

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from yardtoll.desktop.widgets.basics import button
from yardtoll.desktop.widgets.whole_width import WholeWidth
from yardtoll.desktop.widgets.wrapped_row import WrappedRow

_BESIDE_BAR = 12
"""Room between a page's text and its scroll bar."""


class Tabbed(QWidget):
    """Titles in a row; the page of the one chosen below.

    Signals:
        chosen(key): by a click or a key.
    """

    chosen = Signal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._titles = WrappedRow(18)
        self._stack = QStackedWidget()
        self._pages: dict[str, tuple[QPushButton, QScrollArea]] = {}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addLayout(self._titles)
        layout.addWidget(self._stack, 1)

    def add_page(self, key: str, title: str, *widgets: QWidget) -> None:
        """Add a page of widgets from the top down."""
        area = WholeWidth(*widgets, margins=(0, 2, _BESIDE_BAR, 0), spacing=8)
        self._stack.addWidget(area)
        made = button(title, partial(self.choose, key), "tab")
        made.setCheckable(True)
        self._titles.addWidget(made)
        self._pages[key] = (made, area)
        if len(self._pages) == 1:
            self._show(key)

    def title(self, key: str) -> QPushButton:
        """The button of a page."""
        return self._pages[key][0]

    @property
    def current(self) -> str:
        """Key of the page that is seen."""
        return next(key for key, (_, a) in self._pages.items() if a is self._stack.currentWidget())

    def choose(self, key: str) -> None:
        """Turn to a page."""
        self._show(key)
        self.chosen.emit(key)

    def _show(self, key: str) -> None:
        for other, (made, _) in self._pages.items():
            made.setChecked(other == key)
        self._stack.setCurrentWidget(self._pages[key][1])
