"""The run to come as a picture: a block of power from now to the band its end should lie in."""

from datetime import datetime, timedelta

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.core.forecast import Forecast
from yardtoll.core.ledger import Kind
from yardtoll.desktop.theme.fonts import MEDIUM, SEMIBOLD, font
from yardtoll.desktop.theme.theme import theme

_BOTTOM = 46
_LEFT = 4
_TOP = 34


class ExpectedRun(QWidget):
    """Watts over clock time, as foreseen."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._plan: tuple[datetime, float, float, Forecast] | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(170)
        self.setAccessibleName("Expected run")
        theme.changed.connect(self.update)

    def show_plan(self, plan: tuple[datetime, float, float, Forecast] | None) -> None:
        """(now, load W, rated W, forecast), or None while something is missing."""
        self._plan = plan
        if plan:
            now, load_w, _, forecast = plan
            back = now + timedelta(seconds=forecast.earliest_s)
            self.setAccessibleDescription(f"{load_w:.0f} W, ends from {back:%H:%M}")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(640, 240)

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._plan is None:
            return
        now, load_w, rated_w, forecast = self._plan
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        base = self.height() - _BOTTOM
        scale_x = (self.width() - _LEFT - 90) / max(forecast.latest_s, 1.0)
        scale_y = (base - _TOP) / max(load_w, rated_w)
        earliest = _LEFT + forecast.earliest_s * scale_x
        latest = _LEFT + forecast.latest_s * scale_x
        top = base - load_w * scale_y
        fill = QColor(theme.tokens.energy[Kind.DELIVERED])
        fill.setAlpha(90)
        painter.fillRect(QRectF(_LEFT, top, earliest - _LEFT, base - top), fill)
        band = theme.colour("accent")
        band.setAlpha(60)
        painter.fillRect(QRectF(earliest, _TOP - 8, latest - earliest, base - _TOP + 8), band)
        painter.fillRect(
            QRectF(earliest, top, latest - earliest, base - top),
            QBrush(fill, Qt.BrushStyle.BDiagPattern),
        )
        painter.setPen(QPen(theme.colour("trace"), 2))
        painter.drawLine(QPointF(_LEFT, top), QPointF(latest, top))
        self._paint_limit(painter, base - rated_w * scale_y, rated_w)
        painter.setPen(QPen(theme.colour("ink"), 1.5))
        painter.drawLine(QPointF(_LEFT, base), QPointF(self.width(), base))
        painter.setFont(font(15, SEMIBOLD))
        painter.setPen(theme.colour("ink"))
        painter.drawText(QPointF(_LEFT + 12, min(top + 24, base - 8)), f"{load_w:.0f} W")
        self._paint_times(painter, base, now, forecast, earliest, latest)

    def _paint_limit(self, painter: QPainter, y: float, rated_w: float) -> None:
        painter.setPen(QPen(theme.colour("muted"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(_LEFT, y), QPointF(self.width(), y))
        painter.setFont(font(13))
        painter.setPen(theme.colour("muted"))
        painter.drawText(QPointF(_LEFT + 12, y - 6), f"rated {rated_w:g} W")

    def _paint_times(
        self,
        painter: QPainter,
        base: float,
        now: datetime,
        forecast: Forecast,
        earliest: float,
        latest: float,
    ) -> None:
        painter.setFont(font(13, MEDIUM))
        painter.setPen(theme.colour("muted"))
        painter.drawText(QPointF(_LEFT, base + 20), f"now {now:%H:%M}")
        painter.setPen(theme.colour("accent"))
        painter.setFont(font(15, SEMIBOLD))
        ends = [now + timedelta(seconds=s) for s in (forecast.earliest_s, forecast.latest_s)]
        text = f"ends {ends[0]:%H:%M}–{ends[1]:%H:%M}"
        at = QRectF((earliest + latest) / 2 - 110, base + 6, 220, 24)
        at.moveRight(min(at.right(), self.width()))
        painter.drawText(at, int(Qt.AlignmentFlag.AlignCenter), text)
