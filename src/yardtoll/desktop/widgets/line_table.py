"""A table of lines that are opened by Enter or double click, and copied as text."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QAction, QGuiApplication, QKeyEvent, QKeySequence, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from yardtoll.desktop.widgets.basics import plain_tip
from yardtoll.store.shown_region import shown

_ROW_H = 34
_LEAST_W = 130


class LineTable(QTableWidget):
    """Rows of texts.

    Args:
        even: all columns but the first share the width alike, and cut texts are shown as tips.

    Signals:
        opened(row), removed(row): what is asked for a row.
    """

    opened = Signal(int)
    removed = Signal(int)

    def __init__(self, name: str, parent: QWidget | None = None, *, even: bool = False) -> None:
        super().__init__(0, 0, parent)
        self._is_even = even
        self.setAccessibleName(name)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        self.verticalHeader().setVisible(False)
        self.verticalHeader().setDefaultSectionSize(_ROW_H)
        header = self.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setHighlightSections(False)
        header.setStretchLastSection(True)
        self.itemDoubleClicked.connect(lambda item: self.opened.emit(item.row()))
        copying = QAction("Copy the table", self)
        copying.setShortcut(QKeySequence.StandardKey.Copy)
        copying.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
        copying.triggered.connect(lambda _=False: self.copy())
        self.addAction(copying)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
        corner = self.findChild(QAbstractButton)
        if corner is not None:
            corner.setAccessibleName(f"All of {name}")
        self._shown: tuple[Sequence[str], Sequence[Sequence[str]]] = ((), ())

    def show_lines(self, titles: Sequence[str], rows: Sequence[Sequence[str]]) -> None:
        """Show these rows, the chosen one kept."""
        if (titles, rows) == self._shown:
            return
        chosen = self.currentRow()
        self._shown = (titles, rows)
        self.setColumnCount(len(titles))
        self.setHorizontalHeaderLabels([shown(title) for title in titles])
        self.setRowCount(len(rows))
        for row, cells in enumerate(rows):
            for column, text in enumerate(cells):
                item = QTableWidgetItem(shown(text))
                item.setToolTip(plain_tip(text) if self._is_even else "")
                self.setItem(row, column, item)
        header = self.horizontalHeader()
        header.setStretchLastSection(False)
        header.resizeSections(QHeaderView.ResizeMode.ResizeToContents)
        header.setStretchLastSection(not self._is_even)
        self._share_width()
        if rows:
            self.setCurrentCell(min(max(chosen, 0), len(rows) - 1), 0)

    def _share_width(self) -> None:
        if self._is_even and self.columnCount() > 1:
            room = self.viewport().width() - self.columnWidth(0)
            for column in range(1, self.columnCount()):
                self.setColumnWidth(column, max(room // (self.columnCount() - 1), _LEAST_W))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._share_width()

    def copy(self) -> None:
        """The whole table as tab-separated text."""
        titles, rows = self._shown
        lines = ["\t".join(map(shown, cells)) for cells in (titles, *rows)]
        QGuiApplication.clipboard().setText("\n".join(lines))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        row = self.currentRow()
        if row >= 0 and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.opened.emit(row)
        elif row >= 0 and event.key() == Qt.Key.Key_Delete:
            self.removed.emit(row)
        else:
            super().keyPressEvent(event)
