"""Power over time with marks and, while a run is in progress, its expected end."""

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QShowEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.pyramid import Pyramid
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.live.forecast import Forecast
from yardtoll.desktop.theme.fonts import MEDIUM, font, scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import SMALL_PX
from yardtoll.desktop.widgets.drag_out import DragOut
from yardtoll.desktop.widgets.trace_band import TraceBand
from yardtoll.report.charts.curve import Curve

_HOUR_S = 3600.0
_TICK_STEPS_S = (60, 300, 600, 900, 1800, 3600, 7200, 14400, 28800, 86400)
_MOST_TICKS, _TICK_W = 9, 40
_MARKS_SHOWN = 40
_LABEL_GAP = 0.11
"""Mark names nearer than this share of the width are not all written."""
_WORD_PX = 90.0
_LINE_PX = 1.6
_WATTS_W = 56
_USUAL_SIZE = QSize(400, 200)
"""A chart takes what room there is; where text is large it must not ask for a whole window."""
_MOST_COPIED = 100_000
_SPARE = 1.06
"""So much more than the run may be in view before the axes are drawn anew."""


def _pixels(start: QPointF, end: QPointF) -> QRectF:
    """Of a line one pixel wide, level or upright: filled many times faster than drawn as a line."""
    if start.y() == end.y():
        return QRectF(min(start.x(), end.x()), round(start.y()), abs(end.x() - start.x()), 1)
    return QRectF(round(start.x()), min(start.y(), end.y()), 1, abs(end.y() - start.y()))


class _Axis(pg.AxisItem):
    """An axis that is drawn as it is: to record it and play it back takes four times as long."""

    picture: Any

    def paint(self, painter: QPainter, *_: object) -> None:
        painter.save()
        if self.style["tickFont"]:
            painter.setFont(self.style["tickFont"])
        if self.picture is None:
            # It is taken away whenever the axis is no longer the same.
            self.picture = self.generateDrawSpecs(painter)
        if self.picture is not None:
            line, ticks, words = self.picture
            for pen, start, end in ticks:
                painter.fillRect(_pixels(start, end), pen.color())
            self.drawPicture(painter, line, [], words)
        painter.restore()


class HoursAxis(_Axis):
    """Seconds shown as hours and minutes."""

    def tickValues(
        self, low_s: float, high_s: float, size: float
    ) -> list[tuple[float, list[float]]]:
        """One level of round ticks, no more than their words have room for in so many pixels."""
        span = max(high_s - low_s, 1.0)
        most = min(_MOST_TICKS, max(size / scaled(_TICK_W), 1.0))
        step = next((s for s in _TICK_STEPS_S if span / s <= most), _TICK_STEPS_S[-1])
        first = np.ceil(low_s / step) * step
        return [(step, np.arange(first, high_s + 1e-9, step).tolist())]

    def tickStrings(self, values: list[float], _: float, spacing: float) -> list[str]:
        """Like "1 h" where hours are whole, else "1:30"."""
        if spacing % _HOUR_S == 0:
            return [f"{value / _HOUR_S:.0f} h" for value in values]
        return [f"{int(v // _HOUR_S)}:{int(v % _HOUR_S // 60):02d}" for v in values]


class WattsAxis(_Axis):
    """Watts with their unit."""

    def tickStrings(self, values: list[float], _: float, __: float) -> list[str]:
        """Like "400 W"."""
        return [f"{value:g} W" for value in values]


class _Plot(pg.PlotWidget):
    """The plot itself; with Ctrl it is dragged out whole, else its time axis is moved."""

    def __init__(self, chart: QWidget, **options: object) -> None:
        super().__init__(**options)
        self._drag_out = DragOut(chart, with_ctrl=True)

    def sizeHint(self) -> QSize:
        return _USUAL_SIZE

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not self._drag_out.pressed(event):
            super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._drag_out.moved(event):
            super().mouseMoveEvent(event)


class _Ahead:
    """What is to come of a run in progress; other charts need none of it."""

    def __init__(self, plot: _Plot) -> None:
        self._band = pg.LinearRegionItem(movable=False)
        self._mean = pg.PlotCurveItem()
        self._now = pg.InfiniteLine(angle=90)
        for item in (self._band, self._mean, self._now):
            plot.addItem(item)
            item.hide()
        self.restyle()

    def show(self, now_s: float | None, forecast: Forecast | None, mean_w: float) -> float | None:
        """The s at which it ends at the latest; None where that is not known."""
        self._now.setVisible(now_s is not None)
        for item in (self._band, self._mean):
            item.setVisible(now_s is not None and forecast is not None)
        if now_s is None:
            return None
        self._now.setValue(now_s)
        if forecast is None:
            return None
        end_s = now_s + forecast.latest_s
        self._band.setRegion((now_s + forecast.earliest_s, end_s))
        self._mean.setData([now_s, now_s + forecast.remaining_s], [mean_w, mean_w])
        return float(end_s)

    def restyle(self) -> None:
        """In the colours of the day."""
        band = theme.colour("accent")
        self._now.setPen(pg.mkPen(band, width=2))
        dashes = Qt.PenStyle.DashLine
        self._mean.setPen(pg.mkPen(theme.colour("ink"), width=1.2, style=dashes))
        band.setAlpha(45)
        self._band.setBrush(band)
        for edge in self._band.lines:
            edge.setPen(pg.mkPen(None))


def plot_frame() -> pg.PlotItem:
    """Axes and what they are around: more than half of what making a chart takes."""
    axes = {"bottom": HoursAxis("bottom"), "left": WattsAxis("left")}
    return pg.PlotItem(axisItems=axes, enableMenu=False)


class PowerChart(QWidget):
    """A live or finished power trace, zoomed by wheel and drag, reset by double click.

    Args:
        frame: made before, for charts that are made in two turns.
    """

    def __init__(
        self, name: str, frame: pg.PlotItem | None = None, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.plot = _Plot(self, plotItem=frame or plot_frame())
        self.plot.hideButtons()
        self.plot.setMouseEnabled(x=True, y=False)
        self.plot.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self._filled = self.plot.plot([], [], fillLevel=0.0, pen=None)
        self._dense = TraceBand(_LINE_PX)
        self.plot.addItem(self._dense, ignoreBounds=True)
        self._curve = self.plot.plot([], [])
        self._pyramid = Pyramid(np.empty(0), np.empty(0))
        self._growing: object = None
        self._drawn: tuple[float, float, int] | None = None
        self._ahead: _Ahead | None = None
        self._kind = EnergyKind.DELIVERED
        self.mark_lines: list[pg.InfiniteLine] = []
        self._words: list[tuple[float, str]] = []
        self._end_s: float | None = None
        self.peak_w = 0.0
        self._span_s = 1.0
        self._zoomed = False
        self._shown_to = (0.0, 0.0)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.plot)
        self.plot.scene().sigMouseClicked.connect(self._clicked)
        self.plot.getViewBox().sigResized.connect(lambda _: self._resized())
        self.plot.getViewBox().sigXRangeChanged.connect(lambda *_: self._draw_part())
        self.plot.getViewBox().sigRangeChangedManually.connect(self.on_zoomed)
        theme.changed.connect(self._restyle_when_seen)
        self._is_stale = False
        self._restyle()

    def show_trace(
        self,
        time_s: FloatArray,
        power_w: FloatArray,
        kind: EnergyKind = EnergyKind.DELIVERED,
        growing: object = None,
    ) -> None:
        """Replace the curve, filled in the colour of its energy; NaN leaves a hole.

        Args:
            growing: what grows; the same again means that the trace is only longer than before.
        """
        if growing is not None and growing == self._growing and time_s.size >= self._pyramid.size:
            self._pyramid.extend(time_s, power_w)
        else:
            self._pyramid = Pyramid(time_s, power_w)
        self._growing = growing
        self._show(kind)

    def show_curve(self, curve: Curve) -> None:
        """Show a run's curve, as the sheet draws it too."""
        self.setAccessibleDescription(curve.title)
        self._pyramid, self._growing = curve.pyramid, None
        self._show(curve.kind)

    def show_nothing(self) -> None:
        """An empty chart, before another run is shown; it will be seen whole."""
        self.setAccessibleDescription("")
        self.show_marks(())
        self.show_trace(np.empty(0), np.empty(0), self._kind)
        self.reset_view()

    def showing(self, curve: Curve, words: Sequence[tuple[float, str]]) -> Iterator[None]:
        """Show a run's curve with its marks, a part at a time."""
        self.show_curve(curve)
        yield
        self.show_marks(words)
        yield

    def _show(self, kind: EnergyKind) -> None:
        if kind is not self._kind:
            self._kind = kind
            self._fill()
        self.peak_w = self._pyramid.highest
        self._span_s = self._pyramid.last_s
        self._drawn = None
        self._fit()
        self._draw_part()

    def copied_text(self) -> str:
        """The samples in view as a table; every so-manieth where there are too many."""
        low_s, high_s = self.plot.viewRange()[0]
        at_s, power_w = self._pyramid.samples(low_s, high_s, _MOST_COPIED)
        if not at_s.size:
            return ""
        rows = (f"{s:.3f}\t{w:.3f}" for s, w in zip(at_s, power_w, strict=True))
        return "\n".join(["time_s\tpower_w", *rows])

    def _draw_part(self) -> None:
        """The part in view, at one or two points a pixel: more would be the same picture."""
        low_s, high_s = self.plot.viewRange()[0]
        columns = max(round(self.plot.getViewBox().width() * self.devicePixelRatioF()), 64)
        if self._drawn == (low_s, high_s, columns):
            return
        self._drawn = (low_s, high_s, columns)
        at, drawn = self._pyramid.between(low_s, high_s, columns)
        # Where lowest and highest alternate a line covers all that is between them.
        dense = at.size > 2 and at[0] == at[1]
        none = np.empty(0)
        if dense:
            self._dense.show_columns(at[::2], drawn[::2], drawn[1::2])
            self._curve.setData(none, none)
            self._filled.setData(none, none)
        else:
            self._dense.show_columns(none, none, none)
            for item in (self._filled, self._curve):
                item.setData(at, drawn, connect="finite", skipFiniteCheck=False)

    def _resized(self) -> None:
        self._draw_part()
        self._place_words()

    def show_marks(self, words: Sequence[tuple[float, str]]) -> None:
        """Marks as (s, word), in order of time."""
        if list(words) != self._words:
            self._words = list(words)
            self._draw_marks()

    def show_forecast(self, now_s: float | None, forecast: Forecast | None, mean_w: float) -> None:
        """The now-line and the band the end should be in; None takes them away."""
        if self._ahead is None and now_s is not None:
            self._ahead = _Ahead(self.plot)
        self._end_s = None
        if self._ahead is not None:
            self._end_s = self._ahead.show(now_s, forecast, mean_w)
        self._fit()

    def reset_view(self) -> None:
        """Show the whole run again."""
        self.plot.enableAutoRange(x=False, y=False)
        self._zoomed = False
        self._shown_to = (0.0, 0.0)
        self._fit()

    def _fit(self) -> None:
        """Hold the whole run; one in progress moves the axes now and then, not each time."""
        if self._zoomed:
            return
        end_s = 1.02 * max(self._span_s, self._end_s or 0.0, 60.0)
        top_w = 1.22 * max(self.peak_w, 10.0)
        shown_s, shown_w = self._shown_to
        if end_s <= shown_s <= _SPARE * end_s and top_w <= shown_w <= _SPARE * top_w:
            return
        if self._growing is not None:
            end_s *= 1 + (_SPARE - 1) / 2
        self._shown_to = (end_s, top_w)
        self.plot.setRange(xRange=(0.0, end_s), yRange=(0.0, top_w), padding=0.0)
        self._place_words()

    def on_zoomed(self, _: object) -> None:
        self._zoomed = True
        self._place_words()

    def _clicked(self, event: object) -> None:
        if getattr(event, "double", lambda: False)():
            self.reset_view()

    def _draw_marks(self) -> None:
        for line in self.mark_lines:
            self.plot.removeItem(line)
        self.mark_lines = []
        for at_s, _word in self._words[-_MARKS_SHOWN:]:
            line = pg.InfiniteLine(
                pos=at_s,
                angle=90,
                pen=pg.mkPen(theme.colour("muted"), width=1),
                label="",
                labelOpts={
                    "position": 0.95,
                    "color": theme.colour("ink"),
                    "anchors": [(0, 0.5), (0, 0.5)],
                },
            )
            line.label.setFont(font(SMALL_PX, MEDIUM))
            self.plot.addItem(line)
            self.mark_lines.append(line)
        self._place_words()

    def _place_words(self) -> None:
        """Write a mark's word where the one before leaves room; the line is always there."""
        low, high = self.plot.viewRange()[0]
        last = -np.inf
        for line, (at_s, word) in zip(self.mark_lines, self._words[-_MARKS_SHOWN:], strict=True):
            room = (at_s - last) / (high - low) > _LABEL_GAP
            # Near the right edge the word stands to the left of its line.
            left_px = (high - at_s) / (high - low) * self.plot.getViewBox().width()
            edge = 1.0 if left_px < scaled(_WORD_PX) else 0.0
            line.label.anchors = [(edge, 0.5), (edge, 0.5)]
            line.label.setFormat(f"▾ {word}" if room else "")
            if room:
                last = at_s

    def _fill(self) -> None:
        fill = QColor(theme.tokens.energy[self._kind])
        line = theme.colour("trace") if self._kind is EnergyKind.DELIVERED else QColor(fill)
        fill.setAlpha(60)
        self._curve.setPen(pg.mkPen(line, width=_LINE_PX))
        self._dense.set_colours(line, fill)
        self._filled.setBrush(fill)

    def _restyle_when_seen(self) -> None:
        self._is_stale = not self.isVisible()
        if not self._is_stale:
            self._restyle()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._is_stale:
            self._is_stale = False
            self._restyle()

    def _restyle(self) -> None:
        ground, muted = theme.colour("paper"), theme.colour("muted")
        self.plot.setBackground(ground)
        line = theme.colour("line")
        self.plot.getPlotItem().showGrid(x=False, y=True, alpha=0.35)
        for side in ("left", "bottom"):
            axis = self.plot.getAxis(side)
            axis.setPen(pg.mkPen(line))
            axis.setTextPen(pg.mkPen(muted))
            axis.setStyle(tickFont=font(SMALL_PX), tickLength=0)
        self.plot.getAxis("left").setWidth(scaled(_WATTS_W))
        self._fill()
        if self._ahead is not None:
            self._ahead.restyle()
        self._draw_marks()
