"""Rows under one another of which one is chosen, by click or keys."""

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import KEYBOARD_REASONS
from yardtoll.desktop.widgets.drag_out import DragOut


class Rails(QWidget):
    """What all pictures of rows have in common; a subclass draws them.

    Args:
        name: what the picture is, for those who hear it.
        row_h: height of a row, px.

    Signals:
        row_chosen(index): by click or arrow keys.
        row_opened(index): by Enter or double click.
    """

    row_chosen = Signal(int)
    row_opened = Signal(int)

    def __init__(self, name: str, row_h: float, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.chosen, self.row_h = 0, row_h
        self._spoken: tuple[str, ...] = ()
        self._is_ringed = False
        self._drag_out = DragOut(self)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(name)
        theme.changed.connect(self.update)

    def say_rows(self, spoken: Sequence[str]) -> None:
        """What each row says to those who hear it; there are as many rows."""
        self._spoken = tuple(spoken)
        self._say_chosen()
        self.update()

    def row_at(self, y: float) -> int:
        """The row at a height, -1 for none; rows of one height from the top on."""
        row = int(y // self.row_h)
        return row if 0 <= row < len(self._spoken) else -1

    def choose(self, index: int) -> None:
        """Choose a row."""
        if 0 <= index < len(self._spoken) and index != self.chosen:
            self.chosen = index
            self._say_chosen()
            self.row_chosen.emit(index)
            self.update()

    def _say_chosen(self) -> None:
        if self.chosen < len(self._spoken):
            self.setAccessibleDescription(self._spoken[self.chosen])

    def paint_ring(self, painter: QPainter, top: float, height: float) -> None:
        """Show where the keys go, once keys are used."""
        if self.hasFocus() and self._is_ringed:
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.drawRect(QRectF(1, top + 1, self.width() - 2, height - 2))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._is_ringed = False
        self._drag_out.pressed(event)
        self.choose(self.row_at(event.position().y()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._drag_out.moved(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        row = self.row_at(event.position().y())
        if row >= 0:
            self.row_opened.emit(row)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self._is_ringed = True
        last = len(self._spoken) - 1
        moves = {
            Qt.Key.Key_Up: self.chosen - 1,
            Qt.Key.Key_Down: self.chosen + 1,
            Qt.Key.Key_Home: 0,
            Qt.Key.Key_End: last,
        }
        key = Qt.Key(event.key())
        if key in moves:
            self.choose(moves[key])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and last >= 0:
            self.row_opened.emit(self.chosen)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._is_ringed = event.reason() in KEYBOARD_REASONS
        super().focusInEvent(event)
