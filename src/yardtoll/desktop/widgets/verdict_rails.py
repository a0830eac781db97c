"""Verdicts as rails: a post at the limit, the result a dot with its U as a whisker."""

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QScrollArea, QSizePolicy, QWidget

from yardtoll.desktop.theme.fonts import SEMIBOLD, font
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import KEYBOARD_REASONS

ROW_H = 46
TALLEST_ROW = 84
_TITLE_W = 0.30
_RAIL_END = 0.70


@dataclass(frozen=True)
class RailRow:
    """One verdict as drawn.

    Attributes:
        value, whisker: in the rail's unit; None where there is no figure.
        outcome: "meets", "falls_short", "too_close_to_call" or "" for not judged.
        low, high: what the rail runs from and to.
        good: (from, to) of its good part; None for an end of the rail.
    """

    title: str
    subtitle: str
    value: float | None
    whisker: float | None
    limit: float
    outcome: str
    word: str
    figure: str
    low: float = 0.0
    high: float = 1.0
    good: tuple[float | None, float | None] = (0.0, None)


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
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for index, row in enumerate(self._rows):
            self._paint_row(painter, index, row)

    def _paint_row(self, painter: QPainter, index: int, row: RailRow) -> None:
        top, width = index * self._row_h, self.width()
        middle = top + self._row_h / 2
        if index == self._chosen:
            painter.fillRect(QRectF(0, top, width, self._row_h), theme.colour("sunk"))
            if self._ring and self.hasFocus():
                painter.setPen(QPen(theme.colour("accent"), 2))
                painter.drawRect(QRectF(1, top + 1, width - 2, self._row_h - 2))
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawLine(0, top + self._row_h, width, top + self._row_h)
        room = int(_TITLE_W * width) - 24
        self._text(painter, QRectF(10, middle - 21, room, 22), row.title, font(15, SEMIBOLD), "ink")
        self._text(painter, QRectF(10, middle + 1, room, 20), row.subtitle, font(13), "muted")
        self._paint_rail(painter, middle, row)
        self._paint_outcome(painter, middle, row)

    def _paint_rail(self, painter: QPainter, middle: float, row: RailRow) -> None:
        left, right = _TITLE_W * self.width(), (_RAIL_END - 0.02) * self.width()
        painter.setPen(QPen(theme.colour("muted"), 2))
        painter.drawLine(QPointF(left, middle), QPointF(right, middle))
        good_from, good_to = (
            end if limit is None else self._x(row, limit)
            for limit, end in zip(row.good, (left, right), strict=True)
        )
        good = QPen(theme.colour("good_ground"), 6)
        good.setCapStyle(Qt.PenCapStyle.FlatCap)
        painter.setPen(good)
        painter.drawLine(QPointF(good_from, middle), QPointF(good_to, middle))
        reach = min(19.0, self._row_h / 2 - 4)
        for limit in row.good:
            if limit is not None:
                post = self._x(row, limit)
                ink = theme.colour("ink")
                painter.fillRect(QRectF(post - 3, middle - reach, 6, 2 * reach), ink)
        if row.value is None:
            return
        colour, x = self._colour(row.outcome), self._x(row, row.value)
        painter.setPen(QPen(colour, 3))
        if row.whisker is not None:
            low, high = self._x(row, row.value - row.whisker), self._x(row, row.value + row.whisker)
            painter.drawLine(QPointF(low, middle), QPointF(high, middle))
            for end in (low, high):
                painter.drawLine(QPointF(end, middle - 7), QPointF(end, middle + 7))
        painter.setBrush(theme.colour("raised"))
        painter.drawEllipse(QPointF(x, middle), 6.5, 6.5)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_outcome(self, painter: QPainter, middle: float, row: RailRow) -> None:
        """A sign whose shape says it without colour, the word, and the figure."""
        x = _RAIL_END * self.width() + 14
        colour = self._colour(row.outcome)
        painter.setPen(QPen(colour, 2.6))
        if row.outcome == "meets":
            painter.setBrush(colour)
            points = [QPointF(x, middle - 8), QPointF(x + 8, middle), QPointF(x, middle + 8)]
            painter.drawPolygon(QPolygonF([*points, QPointF(x - 8, middle)]))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        elif row.outcome == "falls_short":
            painter.drawLine(QPointF(x - 7, middle - 7), QPointF(x + 7, middle + 7))
            painter.drawLine(QPointF(x - 7, middle + 7), QPointF(x + 7, middle - 7))
        elif row.outcome == "too_close_to_call":
            painter.drawEllipse(QPointF(x, middle), 7, 7)
        else:
            painter.drawLine(QPointF(x - 7, middle), QPointF(x + 7, middle))
        words_x = x + 20
        room = self.width() - words_x - 8
        self._text(
            painter,
            QRectF(words_x, middle - 22, room, 22),
            row.word,
            font(15, SEMIBOLD),
            colour,
        )
        self._text(painter, QRectF(words_x, middle, room, 20), row.figure, font(14), "ink")

    def _text(
        self, painter: QPainter, at: QRectF, text: str, face: object, colour: str | QColor
    ) -> None:
        """One line, shortened where it does not fit."""
        painter.setFont(face)  # type: ignore[arg-type]
        painter.setPen(theme.colour(colour) if isinstance(colour, str) else colour)
        metrics = QFontMetrics(painter.font())
        shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, int(at.width()))
        painter.drawText(at, int(Qt.AlignmentFlag.AlignVCenter), shown)

    def _colour(self, outcome: str) -> QColor:
        names = {"meets": "good", "falls_short": "bad", "too_close_to_call": "unsure"}
        return theme.colour(names.get(outcome, "muted"))

    def _x(self, row: RailRow, value: float) -> float:
        share = min(max((value - row.low) / (row.high - row.low), 0.0), 1.0)
        left, right = _TITLE_W * self.width(), (_RAIL_END - 0.02) * self.width()
        return left + share * (right - left)

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
