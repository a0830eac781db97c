"""A list of the yard's records: name over facts, one line each, opened by Enter or double click."""

from typing import Any

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRect, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter, QPen
from PySide6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from yardtoll.desktop.theme.fonts import MEDIUM, font, scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import plain_tip
from yardtoll.store.shown_region import shown

_ROW_H = 46
_RECORD = Qt.ItemDataRole.UserRole
_FACTS = Qt.ItemDataRole.UserRole + 1


class RecordList(QListWidget):
    """Records by name.

    Signals:
        opened(record): Enter or double click.
    """

    opened = Signal(object)

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setMinimumHeight(2 * scaled(_ROW_H) + 4)
        self.setItemDelegate(_NameOverFacts(self))
        self.setUniformItemSizes(True)
        self._rows: list[tuple[str, str, Any]] = []
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.itemActivated.connect(lambda item: self.opened.emit(item.data(_RECORD)))
        theme.changed.connect(self.viewport().update)

    def show_records(self, rows: list[tuple[str, str, Any]]) -> None:
        """Replace the rows: (name, facts, record)."""
        if rows == self._rows:
            return
        self._rows = list(rows)
        kept = self.currentRow()
        self.clear()
        for name, facts, record in rows:
            item = QListWidgetItem(name)
            item.setData(_RECORD, record)
            item.setData(_FACTS, facts)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{name}, {facts}")
            item.setToolTip(plain_tip(f"{name} – double click or Enter to edit"))
            self.addItem(item)
        self.setCurrentRow(kept)


class _NameOverFacts(QStyledItemDelegate):
    """Paints one row."""

    def sizeHint(
        self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> QSize:
        return QSize(super().sizeHint(option, index).width(), scaled(_ROW_H))

    def paint(
        self,
        painter: QPainter,
        option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> None:
        at: QRect = option.rect
        state: QStyle.StateFlag = option.state
        painter.save()
        if state & QStyle.StateFlag.State_Selected:
            painter.fillRect(at, theme.colour("sunk"))
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawLine(at.left() + 10, at.bottom(), at.right() - 10, at.bottom())
        room = at.width() - 24
        for text, face, colour, top in (
            (index.data(), font(15, MEDIUM), "ink", scaled(4)),
            (shown(index.data(_FACTS)), font(13), "muted", scaled(23)),
        ):
            painter.setFont(face)
            painter.setPen(theme.colour(colour))
            fitting = QFontMetrics(face).elidedText(text, Qt.TextElideMode.ElideRight, room)
            painter.drawText(at.left() + 12, at.top() + top, room, scaled(20), 0, fitting)
        painter.restore()
