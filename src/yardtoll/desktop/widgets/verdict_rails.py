"""Verdicts as rails: a post at the limit, the result a dot with its U as a whisker."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QScrollArea, QSizePolicy, QWidget

from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import KEYBOARD_REASONS
from yardtoll.desktop.widgets.scene_painter import paint_item
from yardtoll.report.charts.rails import RailRow, RailScene

ROW_H = 46
TALLEST_ROW = 84


class VerdictRails(QWidget):
    """Rows under one another, one chosen.

    Signals:
        row_chosen(index): by click or arrow keys.
        row_opened(index): by Enter or double click.
    """

    row_chosen = Signal(int)
    row_opened = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._rows: list[RailRow] = []
        self._chosen = 0
        self._row_h = ROW_H
        self._room = 0
        self._ring = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Verdicts")
        theme.changed.connect(self.update)

    def show_rows(self, rows: list[RailRow]) -> None:
        """Replace the rows."""
        self._rows = rows
        self._chosen = min(self._chosen, max(len(rows) - 1, 0))
        self.fit_to(self._room)
        self._describe()
        self.update()

    def fit_to(self, room: int) -> None:
        """Let few rows stand further apart in ``room`` pixels of height."""
        self._room = room
        count = max(len(self._rows), 1)
        self._row_h = min(max(room // count, ROW_H), TALLEST_ROW)
        self.setFixedHeight(count * self._row_h + 1)

    def show_chosen_in(self, area: QScrollArea) -> None:
        """Scroll so that the chosen row is seen."""
        middle = int((self._chosen + 0.5) * self._row_h)
        area.ensureVisible(0, self.y() + middle, 0, self._row_h)

    @property
    def chosen(self) -> int:
        """Index of the chosen row."""
        return self._chosen

    def choose(self, index: int) -> None:
        """Choose a row."""
        if 0 <= index < len(self._rows) and index != self._chosen:
            self._chosen = index
            self._describe()
            self.row_chosen.emit(index)
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(900, max(len(self._rows), 1) * self._row_h + 1)

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for index, row in enumerate(self._rows):
                self._paint_row(painter, index, row)

    def _paint_row(self, painter: QPainter, index: int, row: RailRow) -> None:
        top, chosen = index * self._row_h, index == self._chosen
        scene = RailScene(
            row=row,
            width=self.width(),
            height=self._row_h,
            palette=theme.tokens,
            top=top,
            is_chosen=chosen,
        )
        for item in scene.items():
            paint_item(painter, item)
        if chosen and self._ring and self.hasFocus():
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.drawRect(QRectF(1, top + 1, self.width() - 2, self._row_h - 2))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._ring = False
        self.choose(int(event.position().y() // self._row_h))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        index = int(event.position().y() // self._row_h)
        if index < len(self._rows):
            self.row_opened.emit(index)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._ring = event.reason() in KEYBOARD_REASONS
        super().focusInEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self._ring = True
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.choose(self._chosen + (1 if key is Qt.Key.Key_Down else -1))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._rows:
            self.row_opened.emit(self._chosen)
        else:
            super().keyPressEvent(event)

    def _describe(self) -> None:
        if self._rows:
            row = self._rows[self._chosen]
            self.setAccessibleDescription(f"{row.title}: {row.word}, {row.figure}")
