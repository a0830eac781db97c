"""Delivered Wh against load: runs as points with their ±, the fit as a curve, a marker to drag."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.core.figures import format_with_uncertainty
from yardtoll.core.losses import LossSplit
from yardtoll.core.uncertainty.budget import COVERAGE_FACTOR
from yardtoll.desktop.theme.fonts import MEDIUM, SEMIBOLD, font
from yardtoll.desktop.theme.theme import theme
from yardtoll.review.port_runs import LoadPoint, PortRuns

_LEFT, _RIGHT, _TOP, _BOTTOM = 56.0, 16.0, 26.0, 26.0
_CURVE_POINTS = 80
_STEP_SHARE = 0.01


class LoadCurve(QWidget):
    """What would it deliver at … W? The marker answers."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._points: Sequence[LoadPoint] = ()
        self._split: LossSplit | None = None
        self._full_w = self._rated_wh = 1.0
        self._marker_w: float | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(120)
        self.setAccessibleName("Delivered against load; left and right move the marker")
        theme.changed.connect(self.update)

    def show_runs(self, runs: PortRuns, rated_wh: float) -> None:
        """Show the whole discharges through an outlet and what was fitted from them."""
        self._points, self._split = runs.points, runs.split
        self._rated_wh = rated_wh
        if self._marker_w is None or self._full_w != runs.full_w:
            self._marker_w = 0.5 * runs.full_w
        self._full_w = runs.full_w
        self._tell()
        self.update()

    @property
    def answer(self) -> str:
        """What the marker says."""
        if self._split is None or self._marker_w is None:
            return ""
        delivered = self._split.delivered_wh(self._marker_w)
        if delivered is None:
            return ""
        u_wh = self._split.delivered_u_wh(self._marker_w)
        shown = format_with_uncertainty(delivered, COVERAGE_FACTOR * u_wh) if u_wh else ""
        hours = delivered / self._marker_w
        return f"at {self._marker_w:.0f} W: {shown or f'{delivered:.0f}'} Wh, {hours:.1f} h"

    def sizeHint(self) -> QSize:
        return QSize(480, 180)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_axes(painter)
        if self._split is not None and self._split.e0_wh.value is not None:
            curve = QPolygonF()
            for i in range(1, _CURVE_POINTS + 1):
                watts = self._full_w * i / _CURVE_POINTS
                curve.append(self._at(watts, self._split.delivered_wh(watts) or 0.0))
            painter.setPen(QPen(theme.colour("trace"), 2))
            painter.drawPolyline(curve)
            self._paint_marker(painter)
        for point in self._points:
            self._paint_point(painter, point)

    def _paint_axes(self, painter: QPainter) -> None:
        area = self._area()
        painter.setFont(font(13))
        low, high = self._range_wh()
        for share in (0.0, 0.5, 1.0):
            energy = low + share * (high - low)
            y = self._at(0.0, energy).y()
            painter.setPen(QPen(theme.colour("line"), 1))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
            painter.setPen(theme.colour("muted"))
            at = QRectF(0, y - 9, _LEFT - 8, 18)
            painter.drawText(at, int(Qt.AlignmentFlag.AlignRight), f"{energy:.0f} Wh")
        for share in (0.25, 0.5, 0.75, 1.0):
            x = area.left() + share * area.width()
            painter.setPen(theme.colour("muted"))
            word = f"{share * self._full_w:.0f} W"
            width = QFontMetrics(painter.font()).horizontalAdvance(word)
            painter.drawText(
                QPointF(min(x - width / 2, self.width() - width), self.height() - 6), word
            )

    def _paint_point(self, painter: QPainter, point: LoadPoint) -> None:
        at = self._at(point.mean_w, point.delivered_wh)
        painter.setPen(QPen(theme.colour("ink"), 1.5))
        if point.expanded_wh:
            low = self._at(point.mean_w, point.delivered_wh - point.expanded_wh)
            high = self._at(point.mean_w, point.delivered_wh + point.expanded_wh)
            painter.drawLine(low, high)
        painter.setBrush(theme.colour("raised"))
        painter.drawEllipse(at, 4.5, 4.5)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(font(13, MEDIUM))
        painter.drawText(at + QPointF(8, -6), f"run {point.number}")

    def _paint_marker(self, painter: QPainter) -> None:
        if self._marker_w is None or self._split is None:
            return
        area = self._area()
        at = self._at(self._marker_w, self._split.delivered_wh(self._marker_w) or 0.0)
        painter.setPen(QPen(theme.colour("accent"), 2))
        painter.drawLine(QPointF(at.x(), area.top()), QPointF(at.x(), area.bottom()))
        painter.setBrush(theme.colour("accent"))
        painter.drawEllipse(at, 4, 4)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(font(14, SEMIBOLD))
        width = QFontMetrics(painter.font()).horizontalAdvance(self.answer)
        left = min(max(at.x() - width / 2, area.left()), area.right() - width)
        painter.drawText(QPointF(left, _TOP - 8), self.answer)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._move_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons():
            self._move_to(event.position().x())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None or self._marker_w is None:
            super().keyPressEvent(event)
            return
        self._set_marker(self._marker_w + step * _STEP_SHARE * self._full_w)

    def _move_to(self, x: float) -> None:
        area = self._area()
        self._set_marker((x - area.left()) / area.width() * self._full_w)

    def _set_marker(self, watts: float) -> None:
        self._marker_w = min(max(watts, _STEP_SHARE * self._full_w), self._full_w)
        self._tell()
        self.update()

    def _tell(self) -> None:
        self.setAccessibleDescription(self.answer)

    def _area(self) -> QRectF:
        return QRectF(_LEFT, _TOP, self.width() - _LEFT - _RIGHT, self.height() - _TOP - _BOTTOM)

    def _range_wh(self) -> tuple[float, float]:
        """The Wh shown: from below the lowest point to above the highest."""
        seen = [point.delivered_wh for point in self._points] or [self._rated_wh]
        room = max(0.15 * max(seen), max(seen) - min(seen))
        return max(min(seen) - room, 0.0), max(seen) + 0.5 * room

    def _at(self, watts: float, energy_wh: float) -> QPointF:
        area, (low, high) = self._area(), self._range_wh()
        share = min(max((energy_wh - low) / (high - low), 0.0), 1.0)
        return QPointF(
            area.left() + watts / self._full_w * area.width(),
            area.bottom() - share * area.height(),
        )
