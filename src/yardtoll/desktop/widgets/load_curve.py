"""Delivered Wh against load: runs as points with their ±, the fit as a curve, a marker to drag."""

from collections.abc import Sequence

from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from yardtoll.core.ledger.losses import LossSplit
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.marker_chart import STEP, MarkerChart
from yardtoll.desktop.widgets.scene_painter import paint_item
from yardtoll.report.charts.load_curve import LoadCurveScene, LoadPoint
from yardtoll.report.charts.scene import Dot
from yardtoll.review.station.fitted import delivered_at
from yardtoll.review.station.outlet_runs import OutletRuns

_LEFT = 56.0


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
        self.announce()
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
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            scene = self._scene()
            low, high = scene.range_wh
            levels = [low + share * (high - low) for share in (0.0, 0.5, 1.0)]
            self.paint_levels(painter, [(scene.at(0.0, wh)[1], f"{wh:.0f} Wh") for wh in levels])
            area, shares = self.area, (0.25, 0.5, 0.75, 1.0)
            self.paint_below(
                painter,
                [(area.left() + s * area.width(), f"{s * self._full_w:.0f} W") for s in shares],
            )
            for item in scene.curve_items():
                paint_item(painter, item)
            answered = scene.curve_at(self.marker * self._full_w)
            if answered is not None:
                self.paint_marker(painter)
                paint_item(painter, Dot(at=answered, radius=4, fill=theme.tokens.accent))
            for item in scene.point_items():
                paint_item(painter, item)

    def _scene(self) -> LoadCurveScene:
        area = self.area
        return LoadCurveScene(
            area=(area.left(), area.top(), area.width(), area.height()),
            points=self._points,
            split=self._split,
            full_w=self._full_w,
            rated_wh=self._rated_wh,
            palette=theme.tokens,
        )
