"""A small drawn chart with a marker that is dragged, or moved by keys, and says what is there."""

from collections.abc import Callable, Iterable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.desktop.theme.fonts import SEMIBOLD, font, scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.scene_painter import paint_item
from yardtoll.report.charts.scene import Line, Point, Words
from yardtoll.store.shown_region import shown

TOP, BOTTOM, RIGHT = 26.0, 26.0, 16.0
STEP = 0.01
"""What one press of a key moves, as a share of the width."""


class MarkerChart(QWidget):
    """Base of the charts with a marker; subclasses draw, and say what the marker answers.

    Args:
        name: accessible name.
        left: room for the labels of the upright axis, in pixels.
        lowest: the marker goes no further left than this share.

    Signals:
        moved: the marker answers something else now.
        budget_asked: double click, or Enter.
    """

    moved = Signal()
    budget_asked = Signal()

    def __init__(
        self, name: str, left: float, *, lowest: float = 0.0, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._left, self._lowest = left, lowest
        self.marker = 0.5
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(120)
        self.setAccessibleName(f"{name}; left and right move the marker, Enter opens its ±")
        theme.changed.connect(self.update)

    @property
    def answer(self) -> str:
        """What the marker says; "" while there is nothing to say."""
        return ""

    @property
    def short_answer(self) -> str:
        """The same where the chart is narrow."""
        return self.answer

    @property
    def budget(self) -> Budget | None:
        """Of the figure the marker says; None where it has none."""
        return None

    def sizeHint(self) -> QSize:
        return QSize(480, 180)

    @property
    def area(self) -> QRectF:
        """Where the chart itself is drawn."""
        left, top = scaled(self._left), scaled(TOP)
        width, height = self.width() - left - RIGHT, self.height() - top - scaled(BOTTOM)
        return QRectF(left, top, width, height)

    def paint_levels(self, painter: QPainter, levels: Iterable[tuple[float, str]]) -> None:
        """A line across at each y, in pixels, with its words to the left."""
        area, tokens = self.area, theme.tokens
        for y, text in levels:
            ends = ((area.left(), y), (area.right(), y))
            paint_item(painter, Line(points=ends, colour=tokens.line))
            at = self._left - 8
            words = Words(x=at, y=y + 4, text=text, colour=tokens.muted, anchor="end")
            paint_item(painter, words)

    def paint_below(self, painter: QPainter, places: Iterable[tuple[float, str]]) -> None:
        """Words under the chart, each in the middle of its x, in pixels, and never cut."""
        painter.setFont(font(13))
        painter.setPen(theme.colour("muted"))
        for x, words in places:
            width = painter.fontMetrics().horizontalAdvance(words)
            left = min(max(x - width / 2, 0), self.width() - width - 2)
            painter.drawText(QPointF(left, self.height() - 6), shown(words))

    def thinned(
        self, shares: FloatArray, values: FloatArray, at: Callable[[float, float], Point]
    ) -> list[Point]:
        """(n,) values as points, at most one a pixel: the mean of what falls on it.

        Args:
            shares: (n,) of the width, rising from 0 to 1.
            at: where a share and a value stand.
        """
        count = max(int(self.area.width()), 2)
        if values.size > count:
            bins = np.minimum((shares * count).astype(int), count - 1)
            many = np.bincount(bins, minlength=count)
            filled = many > 0
            shares, values = (
                np.bincount(bins, weights=of, minlength=count)[filled] / many[filled]
                for of in (shares, values)
            )
        return [at(x, y) for x, y in zip(shares.tolist(), values.tolist(), strict=True)]

    def paint_marker(self, painter: QPainter) -> None:
        """The marker's line, and its answer above it."""
        area = self.area
        x = area.left() + self.marker * area.width()
        painter.setPen(QPen(theme.colour("accent"), 2))
        painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
        painter.setFont(font(14, SEMIBOLD))
        said, measure = self.answer, painter.fontMetrics().horizontalAdvance
        if measure(said) > area.width():
            said = self.short_answer
        width = measure(said)
        left = min(max(x - width / 2, area.left()), max(area.right() - width, area.left()))
        painter.drawText(QPointF(left, area.top() - 8), shown(said))

    def set_marker(self, share: float) -> None:
        """Put the marker at a share of the width."""
        self.marker = min(max(share, self._lowest), 1.0)
        self.announce()
        self.update()

    def announce(self) -> None:
        """Say the answer to those who cannot see it."""
        self.setAccessibleDescription(self.answer)
        self.moved.emit()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._move_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons():
            self._move_to(event.position().x())

    def mouseDoubleClickEvent(self, _: QMouseEvent) -> None:
        self.budget_asked.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(key)
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.budget_asked.emit()
            return
        if step is None:
            super().keyPressEvent(event)
            return
        self.set_marker(self.marker + step * STEP)

    def _move_to(self, x: float) -> None:
        self.set_marker((x - self.area.left()) / self.area.width())
