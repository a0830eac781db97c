"""Delivered Wh against load: runs as points with their ±, the fit as a curve, a marker to drag."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from yardtoll.core.ledger.losses import LossSplit
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.desktop.theme.fonts import MEDIUM, font
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.marker_chart import STEP, MarkerChart
from yardtoll.review.station.fitted import delivered_at
from yardtoll.review.station.outlet_runs import LoadPoint, OutletRuns

_LEFT = 56.0
_CURVE_POINTS = 80


class LoadCurve(MarkerChart):
    """What would it deliver at … W? The marker answers."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Delivered against load", _LEFT, lowest=STEP, parent=parent)
        self._points: Sequence[LoadPoint] = ()
        self._runs: OutletRuns | None = None
        self._split: LossSplit | None = None
        self._full_w = self._rated_wh = 1.0

    def show_runs(self, runs: OutletRuns, rated_wh: float) -> None:
        """Show the whole discharges through an outlet and what was fitted from them."""
        self._runs, self._points, self._split = runs, runs.points, runs.split
        self._rated_wh = rated_wh
        if self._full_w != runs.full_w:
            self._full_w, self.marker = runs.full_w, 0.5
        self.tell()
        self.update()

    @property
    def answer(self) -> str:
        """What the marker says."""
        found = self._found()
        if found is None:
            return ""
        load_w = self.marker * self._full_w
        return f"at {load_w:.0f} W: {found.figure}, {found.value / load_w:.1f} h"

    @property
    def budget(self) -> Budget | None:
        """Of the Wh that the marker says."""
        found = self._found()
        return found.budget if found is not None else None

    def _found(self) -> Figure | None:
        """What it would deliver at the marker's load."""
        if self._runs is None:
            return None
        return delivered_at(self._runs, self.marker * self._full_w)

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
        area, (low, high) = self.area, self._range_wh()
        levels = [low + share * (high - low) for share in (0.0, 0.5, 1.0)]
        self.paint_levels(painter, [(self._at(0.0, wh).y(), f"{wh:.0f} Wh") for wh in levels])
        shares = (0.25, 0.5, 0.75, 1.0)
        self.paint_below(
            painter,
            [(area.left() + s * area.width(), f"{s * self._full_w:.0f} W") for s in shares],
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
        """The marker's line, and a dot where it meets the curve."""
        if self._split is None:
            return
        self.paint_marker(painter)
        load_w = self.marker * self._full_w
        painter.setBrush(theme.colour("accent"))
        painter.drawEllipse(self._at(load_w, self._split.delivered_wh(load_w) or 0.0), 4, 4)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _range_wh(self) -> tuple[float, float]:
        """The Wh shown: from below the lowest point to above the highest."""
        seen = [point.delivered_wh for point in self._points] or [self._rated_wh]
        room = max(0.15 * max(seen), max(seen) - min(seen))
        return max(min(seen) - room, 0.0), max(seen) + 0.5 * room

    def _at(self, watts: float, energy_wh: float) -> QPointF:
        area, (low, high) = self.area, self._range_wh()
        share = min(max((energy_wh - low) / (high - low), 0.0), 1.0)
        return QPointF(
            area.left() + watts / self._full_w * area.width(),
            area.bottom() - share * area.height(),
        )
