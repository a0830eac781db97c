"""The expected run as a picture: its power from the start to the band of its end."""

from datetime import datetime, timedelta

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QFontMetrics,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.planning.expected import ExpectedRun
from yardtoll.desktop.theme.fonts import MEDIUM, SEMIBOLD, font
from yardtoll.desktop.theme.theme import theme
from yardtoll.store.shown_region import clock

_BOTTOM = 34
_LEFT = 4
_TOP = 26
Plan = tuple[datetime, bool, ExpectedRun, float | None, EnergyKind]
"""(start, whether that is now, what is expected, the limit in W to draw or None, the energy)."""


class ExpectedRunPicture(QWidget):
    """Watts over clock time, as expected."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._plan: Plan | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(150)
        self.setAccessibleName("Expected run")
        theme.changed.connect(self.update)

    def show_plan(self, plan: Plan | None) -> None:
        """Show what is expected, or nothing while something is missing."""
        self._plan = plan
        if plan:
            begins, _, expected, _, _ = plan
            back = begins + timedelta(seconds=expected.earliest_s)
            self.setAccessibleDescription(f"{expected.power_w:.0f} W, ends from {clock(back)}")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(640, 190)

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._plan is None:
            return
        begins, is_now, expected, limit_w, kind = self._plan
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            base = self.height() - _BOTTOM
            highest = max(w for _, w in expected.curve)
            scale_x = (self.width() - _LEFT - 90) / max(expected.latest_s, 1.0)
            scale_y = (base - _TOP) / max(highest, limit_w or 0.0, 1.0)
            earliest = _LEFT + expected.earliest_s * scale_x
            latest = max(_LEFT + expected.latest_s * scale_x, earliest + 3)
            points = [QPointF(_LEFT + at * scale_x, base - w * scale_y) for at, w in expected.curve]
            self._paint_band(painter, points, earliest, latest, base, kind)
            line = (
                theme.colour("trace") if kind is EnergyKind.DELIVERED else theme.tokens.energy[kind]
            )
            painter.setPen(QPen(QColor(line), 2))
            painter.drawPolyline(QPolygonF(points))
            if limit_w is not None:
                self._paint_limit(painter, base - limit_w * scale_y, limit_w)
            painter.setPen(QPen(theme.colour("ink"), 1.5))
            painter.drawLine(QPointF(_LEFT, base), QPointF(self.width(), base))
            painter.setFont(font(15, SEMIBOLD))
            painter.setPen(theme.colour("ink"))
            top = points[len(points) // 3].y()
            word = f"{expected.power_w:.0f} W"
            painter.drawText(QPointF(_LEFT + 12, top + 22 if base - top > 30 else top - 6), word)
            word = f"now {clock(begins)}" if is_now else f"{begins:%a} {clock(begins)}"
            painter.setFont(font(13, MEDIUM))
            painter.setPen(theme.colour("muted"))
            painter.drawText(QPointF(_LEFT, base + 20), word)
            self._paint_end(painter, base, begins, expected, (earliest + latest) / 2)

    def _paint_band(
        self,
        painter: QPainter,
        points: list[QPointF],
        earliest: float,
        latest: float,
        base: float,
        kind: EnergyKind,
    ) -> None:
        """The energy under the curve, and the span in which the end should be."""
        fill = QColor(theme.tokens.energy[kind])
        fill.setAlpha(90)
        under = QPolygonF([QPointF(points[0].x(), base), *points, QPointF(points[-1].x(), base)])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(fill)
        painter.drawPolygon(under)
        band = theme.colour("accent")
        band.setAlpha(60)
        span = QRectF(earliest, _TOP - 8, latest - earliest, base - _TOP + 8)
        painter.fillRect(span, band)
        painter.fillRect(span, QBrush(band, Qt.BrushStyle.BDiagPattern))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_limit(self, painter: QPainter, y: float, limit_w: float) -> None:
        painter.setPen(QPen(theme.colour("muted"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(_LEFT, y), QPointF(self.width(), y))
        painter.setFont(font(13))
        painter.setPen(theme.colour("muted"))
        painter.drawText(QPointF(_LEFT + 12, y - 6), f"rated {limit_w:g} W")

    def _paint_end(
        self, painter: QPainter, base: float, begins: datetime, expected: ExpectedRun, middle: float
    ) -> None:
        painter.setPen(theme.colour("accent"))
        painter.setFont(font(15, SEMIBOLD))
        ends = [begins + timedelta(seconds=s) for s in (expected.earliest_s, expected.latest_s)]
        words = [
            clock(end) if end.date() == begins.date() else f"{end:%a} {clock(end)}" for end in ends
        ]
        text = "ends " + "–".join(dict.fromkeys(words))
        width = QFontMetrics(painter.font()).horizontalAdvance(text) + 4
        at = QRectF(middle - width / 2, base + 4, width, 24)
        at.moveRight(min(at.right(), self.width()))
        at.moveLeft(max(at.left(), _LEFT + 90))
        painter.drawText(at, int(Qt.AlignmentFlag.AlignCenter), text)
