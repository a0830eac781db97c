"""An array's volts over the air's temperature, against every claimed limit of an input."""

from math import ceil, floor

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from yardtoll.core.sun.claimed_input import SourceCheck
from yardtoll.desktop.theme.fonts import MEDIUM, SEMIBOLD, font, scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.marker_chart import MarkerChart
from yardtoll.review.sun.wiring import WiringPage
from yardtoll.store.shown_region import shown

_LEFT = 58.0
_ROOM = 1.12
_TICKS_C = 10
_WORD_H = 19


class VoltsWindow(MarkerChart):
    """Cold raises volts: where does the string stand in the window on the coldest morning?"""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Volts against the input's window", _LEFT, parent=parent)
        self._page: WiringPage | None = None
        self.marker = 0.0
        self.setMinimumHeight(240)

    def show_page(self, page: WiringPage) -> None:
        """Draw an array check."""
        self._page = page if page.air_c else None
        self.announce()
        self.update()

    @property
    def answer(self) -> str:
        """The string's volts at the marker's temperature."""
        if self._page is None:
            return ""
        air, voc, vmp = self._at_marker()
        return f"at {air:.0f} °C: {voc:.1f} V open, {vmp:.1f} V at full power"

    @property
    def short_answer(self) -> str:
        if self._page is None:
            return ""
        air, voc, _ = self._at_marker()
        return f"at {air:.0f} °C: {voc:.1f} V open"

    def _at_marker(self) -> tuple[float, float, float]:
        assert self._page is not None
        position = self.marker * (len(self._page.air_c) - 1)
        low = min(int(position), len(self._page.air_c) - 2)
        share = position - low

        def between(values: tuple[float, ...]) -> float:
            return values[low] + share * (values[low + 1] - values[low])

        page = self._page
        return between(page.air_c), between(page.voc_v), between(page.vmp_v)

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._page is None:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_zones(painter)
            self._paint_axes(painter)
            for check in reversed(self._page.checks):
                self._paint_limit(painter, check)
            self._paint_curve(painter, self._page.vmp_v, dashed=True)
            self._paint_curve(painter, self._page.voc_v, dashed=False)
            for check in self._page.checks:
                self._paint_claim(painter, check)
            self._paint_names(painter)
            self.paint_marker(painter)
            air, voc, vmp = self._at_marker()
            painter.setBrush(theme.colour("accent"))
            for volts in (voc, vmp):
                painter.drawEllipse(self._at(air, volts), 4.5, 4.5)
            painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_zones(self, painter: QPainter) -> None:
        """Where it may be: between the lowest and the deciding volts; above is never."""
        assert self._page is not None
        area = self.area
        painter.fillRect(area, theme.colour("raised"))
        if not self._page.checks:
            return
        limits = self._page.checks[0].limits
        top = self._y(limits.highest_v)
        bottom = self._y(limits.lowest_v or 0.0)
        painter.fillRect(
            QRectF(area.left(), top, area.width(), bottom - top), theme.colour("good_ground")
        )
        never = QColor(theme.colour("bad"))
        never.setAlpha(70)
        above = QRectF(area.left(), area.top(), area.width(), top - area.top())
        painter.fillRect(above, QBrush(never, Qt.BrushStyle.BDiagPattern))

    def _paint_axes(self, painter: QPainter) -> None:
        assert self._page is not None
        step = _step(self._top())
        levels = [i * step for i in range(int(self._top() / step) + 1)]
        self.paint_levels(painter, [(self._y(volts), f"{volts:g} V") for volts in levels])
        first, last = self._page.air_c[0], self._page.air_c[-1]
        tens = range(ceil(first / _TICKS_C), floor(last / _TICKS_C) + 1)
        airs = [i * _TICKS_C for i in tens]
        self.paint_below(
            painter, [(self._at(air, 0).x(), f"{air} °C".replace("-", "−")) for air in airs]
        )

    def _paint_limit(self, painter: QPainter, check: SourceCheck) -> None:
        """One claim as a line; the deciding one thick."""
        area, y = self.area, self._y(check.limits.highest_v)
        colour = theme.colour("bad" if check.decides else "muted")
        style = Qt.PenStyle.SolidLine if check.decides else Qt.PenStyle.DashLine
        painter.setPen(QPen(colour, 2.5 if check.decides else 1.5, style))
        painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))

    def _paint_claim(self, painter: QPainter, check: SourceCheck) -> None:
        """Whose limit a line is."""
        area, y = self.area, self._y(check.limits.highest_v)
        colour = theme.colour("bad" if check.decides else "muted")
        painter.setFont(font(14, SEMIBOLD if check.decides else MEDIUM))
        source = check.source or "no source"
        words = f"{check.limits.highest_v:g} V, {source}"
        if check.decides and self._page and len(self._page.checks) > 1:
            words += ": keep to this"
        width = painter.fontMetrics().horizontalAdvance(words)
        assert self._page is not None
        ends_below = self._page.voc_v[-1] < check.limits.highest_v
        above = y - scaled(_WORD_H) - 4
        top = above if ends_below and above > area.top() else y + 4
        self._paint_word(painter, QPointF(area.right() - width - 10, top), words, colour)

    def _paint_word(self, painter: QPainter, at: QPointF, words: str, colour: QColor) -> None:
        """Words on a ground of their own, since lines run behind them."""
        width, height = painter.fontMetrics().horizontalAdvance(words), scaled(_WORD_H)
        painter.fillRect(QRectF(at.x() - 4, at.y(), width + 8, height), theme.colour("raised"))
        painter.setPen(colour)
        painter.drawText(QRectF(at.x(), at.y(), width + 4, height), shown(words))

    def _paint_curve(self, painter: QPainter, volts: tuple[float, ...], *, dashed: bool) -> None:
        assert self._page is not None
        line = QPolygonF([self._at(c, v) for c, v in zip(self._page.air_c, volts, strict=True)])
        style = Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
        painter.setPen(QPen(theme.colour("ink"), 2 if dashed else 3, style))
        painter.drawPolyline(line)

    def _paint_names(self, painter: QPainter) -> None:
        assert self._page is not None
        painter.setFont(font(14, MEDIUM))
        painter.setPen(theme.colour("ink"))
        middle = len(self._page.air_c) // 8
        measure, right = painter.fontMetrics().horizontalAdvance, self.area.right() - 8
        for volts, words, further, off in (
            (self._page.voc_v, "open circuit", ", cells as cold as the air", -24.0),
            (self._page.vmp_v, "full power", ", in full sun", 8.0),
        ):
            at = self._at(self._page.air_c[middle], volts[middle])
            whole = words + further
            said = whole if at.x() + measure(whole) < right else words
            self._paint_word(painter, QPointF(at.x(), at.y() + off), said, theme.colour("ink"))

    def _top(self) -> float:
        assert self._page is not None
        limits = [check.limits.highest_v for check in self._page.checks]
        return _ROOM * max(*self._page.voc_v, *limits)

    def _y(self, volts: float) -> float:
        return self.area.bottom() - volts / self._top() * self.area.height()

    def _at(self, air_c: float, volts: float) -> QPointF:
        assert self._page is not None
        first, last = self._page.air_c[0], self._page.air_c[-1]
        share = (air_c - first) / max(last - first, 1e-9)
        return QPointF(self.area.left() + share * self.area.width(), self._y(volts))


def _step(top: float) -> float:
    """A round step that gives four to eight lines."""
    for step in (5.0, 10.0, 20.0, 25.0, 50.0, 100.0):
        if top / step <= 8:
            return step
    return 200.0
