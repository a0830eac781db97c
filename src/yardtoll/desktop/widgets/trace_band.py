"""A trace of more samples than pixels: the band between the lowest and highest in each column."""

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QStyleOptionGraphicsItem, QWidget

from yardtoll.core.electrical.trace import FloatArray

_AT_ONCE = 64
"""Columns filled as one shape; of larger ones each line of pixels looks through all their edges."""


class TraceBand(pg.GraphicsObject):
    """What a line up and down between each column's lowest and highest would cover, but filled.

    Args:
        line_px: how thick the line would be; a level trace is as thick as that.
    """

    def __init__(self, line_px: float) -> None:
        super().__init__()
        self._half_px = line_px / 2
        self._colour = QColor()
        self._at = self._low = self._high = np.empty(0)

    def set_colour(self, colour: QColor) -> None:
        """Fill it so."""
        self._colour = colour
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
        low, high = float(np.nanmin(self._low)), float(np.nanmax(self._high))
        half = self._half_px * self._watts_a_pixel()
        width = self._ends(self._at.size - 1) - float(self._at[0])
        return QRectF(float(self._at[0]), low - half, width, high - low + 2 * half)

    def paint(
        self, painter: QPainter, _: QStyleOptionGraphicsItem, __: QWidget | None = None
    ) -> None:
        half = self._half_px * self._watts_a_pixel()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._colour)
        known = np.flatnonzero(~np.isnan(self._low))
        for run in np.split(known, np.flatnonzero(np.diff(known) > 1) + 1):
            for start in range(0, run.size, _AT_ONCE):
                part = run[start : start + _AT_ONCE]
                # Each column whole: of a slope the highest would be a point, and not be seen.
                sides = np.repeat(np.append(self._at[part], self._ends(part[-1])), 2)[1:-1]
                above = np.repeat(self._high[part] + half, 2)
                below = np.repeat(self._low[part] - half, 2)
                at = np.concatenate([sides, sides[::-1]])
                edge = np.concatenate([above, below[::-1]])
                painter.drawPolygon(pg.functions.arrayToQPolygonF(at, edge))

    def _ends(self, column: int) -> float:
        """Where a column gives way to the next."""
        if column + 1 < self._at.size:
            return float(self._at[column + 1])
        return float(2 * self._at[column] - self._at[column - 1])

    def _watts_a_pixel(self) -> float:
        size = self.pixelSize()
        return float(size[1]) if size else 0.0
