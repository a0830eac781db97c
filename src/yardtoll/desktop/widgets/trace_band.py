"""A trace of more samples than pixels: the band between each column's lowest and highest."""

from collections.abc import Iterator

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QStyleOptionGraphicsItem, QWidget

from yardtoll.core.electrical.trace import FloatArray

Columns = NDArray[np.intp]

_AT_ONCE = 64
"""Columns filled as one shape; of larger ones each line of pixels looks through all their edges."""


class TraceBand(pg.GraphicsObject):
    """What a line up and down between each column's lowest and highest would cover, but filled.

    Below it, down to nothing, is filled too, in a colour of its own.

    Args:
        line_px: how thick the line would be; a level trace is as thick as that.
    """

    def __init__(self, line_px: float) -> None:
        super().__init__()
        self._half_px = line_px / 2
        self._colour, self._fill = QColor(), QColor()
        self._at = self._low = self._high = np.empty(0)

    def set_colours(self, band: QColor, below: QColor) -> None:
        """Of the band, and of what is between it and nothing."""
        self._colour, self._fill = band, below
        self.update()

    def show_columns(self, at: FloatArray, low: FloatArray, high: FloatArray) -> None:
        """Draw (n,) columns; NaN leaves a hole."""
        self.prepareGeometryChange()
        self._at = at
        # Where the trace leaps it goes up or down between two columns.
        self._low, self._high = low.copy(), high.copy()
        np.fmin(low[:-1], high[1:], out=self._low[:-1])
        np.fmax(high[:-1], low[1:], out=self._high[:-1])
        hole = np.isnan(low)
        self._low[hole] = self._high[hole] = np.nan
        self.update()

    def boundingRect(self) -> QRectF:
        if self._at.size == 0 or np.isnan(self._low).all():
            return QRectF()
        low = min(float(np.nanmin(self._low)), 0.0)
        high = max(float(np.nanmax(self._high)), 0.0)
        half = self._half_px * self._watts_a_pixel()
        width = self._ends(self._at.size - 1) - float(self._at[0])
        return QRectF(float(self._at[0]), low - half, width, high - low + 2 * half)

    def paint(
        self, painter: QPainter, _: QStyleOptionGraphicsItem, __: QWidget | None = None
    ) -> None:
        half = self._half_px * self._watts_a_pixel()
        painter.setPen(Qt.PenStyle.NoPen)
        known = np.flatnonzero(~np.isnan(self._low))
        parts = [
            run[start : start + _AT_ONCE]
            for run in np.split(known, np.flatnonzero(np.diff(known) > 1) + 1)
            for start in range(0, run.size, _AT_ONCE)
        ]
        painter.setBrush(self._fill)
        for group in _alike(parts, self._low):
            # A plain rectangle up to the lowest: in a tall shape each line of pixels looks
            # through all the edges at its top.
            plain = max(min(float(self._low[part].min()) for part in group), 0.0)
            ends = np.array([group[0][0], group[-1][-1]])
            self._paint_steps(painter, ends, np.full(2, plain), np.zeros(2))
            for part in group:
                self._paint_steps(painter, part, self._low[part], np.full(part.size, plain))
        painter.setBrush(self._colour)
        for part in parts:
            self._paint_steps(painter, part, self._high[part] + half, self._low[part] - half)

    def _paint_steps(
        self, painter: QPainter, part: Columns, above: FloatArray, below: FloatArray
    ) -> None:
        """Fill (n,) columns between two heights; of two columns, all that is from one to the other.

        Each column whole: of a slope the highest would be a point, and not be seen.
        """
        sides = np.repeat(np.append(self._at[part], self._ends(part[-1])), 2)[1:-1]
        at = np.concatenate([sides, sides[::-1]])
        edge = np.concatenate([np.repeat(above, 2), np.repeat(below, 2)[::-1]])
        painter.drawPolygon(pg.functions.arrayToQPolygonF(at, edge))

    def _ends(self, column: int) -> float:
        """Where a column gives way to the next."""
        if column + 1 < self._at.size:
            return float(self._at[column + 1])
        return float(2 * self._at[column] - self._at[column - 1])

    def _watts_a_pixel(self) -> float:
        size = self.pixelSize()
        return float(size[1]) if size else 0.0


def _alike(parts: list[Columns], low: FloatArray) -> Iterator[list[Columns]]:
    """Neighbours of which none goes down to less than half of another."""
    group: list[Columns] = []
    least = most = 0.0
    for part in parts:
        lowest = float(low[part].min())
        follows = bool(group) and part[0] == group[-1][-1] + 1
        if follows and min(least, lowest) >= max(most, lowest) / 2:
            group.append(part)
            least, most = min(least, lowest), max(most, lowest)
            continue
        if group:
            yield group
        group, least, most = [part], lowest, lowest
    if group:
        yield group
