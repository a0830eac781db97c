"""A solar run over the day: what flowed, what the sun allowed, and what limited it when."""

from datetime import datetime, timedelta

import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.sun.solar_run import SolarRun
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.marker_chart import MarkerChart
from yardtoll.desktop.widgets.scene_painter import paint_item
from yardtoll.report.charts.limits import LIMIT_NAMES
from yardtoll.report.charts.scene import Line, Point
from yardtoll.report.charts.solar import band_items, input_items
from yardtoll.store.shown_region import clock
from yardtoll.store.site_time import now as now_here

_LEFT, _BAND_H, _HEADROOM = 62.0, 22.0, 1.08
_STEPS_MIN = (5, 10, 15, 30, 60, 120, 180, 360, 720, 1440, 7200)


class SolarChart(MarkerChart):
    """The input as a filled curve, the allowed as a line above it, the reasons as a band below."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Solar input", _LEFT, parent=parent)
        self.run: SolarRun | None = None
        self._began = now_here()
        self.setMinimumHeight(200)

    def show_run(self, run: SolarRun | None, began: datetime) -> None:
        """Draw a run that began at an aware local time."""
        self.run, self._began = run, began
        self.announce()
        self.update()

    @property
    def area(self) -> QRectF:
        """Where the curve is drawn; the band is below it."""
        whole = super().area
        return whole.adjusted(0, 0, 0, -_BAND_H - 6)

    @property
    def answer(self) -> str:
        """Time, watts, what the sun allowed, and what limited it."""
        run = self.run
        if run is None:
            return ""
        at_s = self.marker * self._span_s
        watts = float(np.interp(at_s, run.time_s, run.power_w))
        said = f"{clock(self._began + timedelta(seconds=at_s))} · {watts:.0f} W"
        if run.expected_w is not None:
            said += f" of {float(np.interp(at_s, run.time_s, run.expected_w)):.0f} W"
        limit = next((s.limit for s in run.spans if s.start_s <= at_s <= s.end_s), None)
        return f"{said} · {LIMIT_NAMES[limit].lower()}" if limit is not None else said

    def paintEvent(self, _: QPaintEvent) -> None:
        if self.run is None:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_axes(painter)
            run, area = self.run, self.area
            items = input_items(
                self.points(run.power_w),
                area.bottom(),
                theme.tokens,
                allowed=self.points(run.expected_w) if run.expected_w is not None else (),
                clear=self.points(run.clear_w)
                if run.clear_w is not None and run.measured_sun
                else (),
            )
            for item in items:
                paint_item(painter, item)
            self._paint_band(painter)
            self.paint_marker(painter)

    def _paint_axes(self, painter: QPainter) -> None:
        area, top = self.area, self._top_w()
        step = _round_step(top)
        levels = [i * step for i in range(int(top / step) + 1)]
        self.paint_levels(painter, [(self._at(0.0, w)[1], f"{w:.0f} W") for w in levels])
        hours = [(area.left() + share * area.width(), at) for at, share in self._hours()]
        self.paint_below(painter, [(x, f"{at:%-H:%M}") for x, at in hours])

    def _hours(self) -> list[tuple[datetime, float]]:
        """Round times of the clock, at most ten of them, and where they stand."""
        assert self.run is not None
        span_s = self._span_s
        step = next((m for m in _STEPS_MIN if span_s / 60 / m <= 10), _STEPS_MIN[-1])
        midnight = self._began.replace(hour=0, minute=0, second=0, microsecond=0)
        since = (self._began - midnight).total_seconds() / 60
        at = midnight + timedelta(minutes=step * (int(since // step) + 1))
        found = []
        while (at_s := (at - self._began).total_seconds()) <= span_s:
            found.append((at, at_s / span_s))
            at += timedelta(minutes=step)
        return found

    def _paint_band(self, painter: QPainter) -> None:
        """What limited it, as coloured and hatched stretches under the curve."""
        assert self.run is not None
        area, span_s = self.area, self._span_s
        scale = area.width() / span_s
        spans = [
            (area.left() + span.start_s * scale, area.left() + span.end_s * scale, span)
            for span in self.run.spans
        ]
        base = ((area.left(), area.bottom()), (area.right(), area.bottom()))
        for box in band_items(spans, area.bottom() + 6, _BAND_H, theme.tokens):
            paint_item(painter, box)
        paint_item(painter, Line(points=base, colour=theme.tokens.ink))

    def points(self, watts: FloatArray) -> list[Point]:
        assert self.run is not None
        return self.thinned(self.run.time_s / self._span_s, watts, self._at)

    @property
    def _span_s(self) -> float:
        """From the log's first sample, of whatever quantity, to the last one of power."""
        assert self.run is not None
        return max(float(self.run.time_s[-1]), 1.0)

    def _top_w(self) -> float:
        assert self.run is not None
        highest = float(self.run.power_w.max())
        for other in (self.run.expected_w, self.run.clear_w):
            if other is not None:
                highest = max(highest, float(other.max()))
        return _HEADROOM * max(highest, 1.0)

    def _at(self, share: float, watts: float) -> Point:
        area = self.area
        return (
            area.left() + share * area.width(),
            area.bottom() - watts / self._top_w() * area.height(),
        )


def _round_step(top_w: float) -> float:
    """A round step of watts that gives three to six lines."""
    size = 10.0 ** int(np.floor(np.log10(top_w)))
    return next((size * k for k in (0.2, 0.5, 1.0) if top_w / (size * k) <= 6), 2 * size)
