"""A week of sun: each day's expected input as a hill over the hours, its window marked."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.desktop.theme.fonts import MEDIUM, SEMIBOLD, font
from yardtoll.desktop.theme.theme import theme

if TYPE_CHECKING:
    from datetime import datetime

    from yardtoll.review.sun.days import SunOutlook

_NAMES_W, _SUMS_W, _AXIS_H = 118, 92, 24
_HEAD = 22


class SunWeek(QWidget):
    """Days under one another on one axis of hours.

    Signals:
        day_chosen(index): by click, or up and down.
    """

    day_chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._outlook: SunOutlook | None = None
        self._chosen = 0
        self._hours = (4, 22)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(330)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The coming days' sun; up and down choose a day")
        theme.changed.connect(self.update)

    def show_outlook(self, outlook: "SunOutlook | None", chosen: int) -> None:
        """Draw a week."""
        self._outlook, self._chosen = outlook, chosen
        if outlook is not None:
            day = outlook.days[chosen]
            self.setAccessibleDescription(f"{day.day:%A %-d %B}: {day.clear.expected_wh:.0f} Wh")
            self._hours = _lit_hours(outlook)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(640, 420)

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._outlook is None:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_hours(painter)
            most = max(*(day.clear.peak_w for day in self._outlook.days), 1.0)
            if self._outlook.turned.aims:
                most = max(most, float(self._outlook.turned.aimed_w.max()))
            for index in range(len(self._outlook.days)):
                self._paint_day(painter, index, most)

    def _paint_hours(self, painter: QPainter) -> None:
        painter.setFont(font(13))
        for hour in range(
            self._hours[0] + 1, self._hours[1], 1 if self._hours[1] - self._hours[0] < 10 else 2
        ):
            x = self._x(hour)
            painter.setPen(QPen(theme.colour("line"), 1))
            painter.drawLine(QPointF(x, _AXIS_H - 4), QPointF(x, self.height()))
            painter.setPen(theme.colour("muted"))
            at = QRectF(x - 20, 0, 40, 18)
            painter.drawText(at, int(Qt.AlignmentFlag.AlignCenter), f"{hour}:00")

    def _paint_day(self, painter: QPainter, index: int, most: float) -> None:
        assert self._outlook is not None
        day = self._outlook.days[index]
        top, height = _AXIS_H + index * self._lane_h(), self._lane_h()
        base = top + height - 6
        if index == self._chosen:
            painter.fillRect(QRectF(0, top + 2, self.width(), height - 2), theme.colour("sunk"))
            painter.fillRect(QRectF(0, top + 2, 4, height - 2), theme.colour("accent"))
        hours = day.hours
        scale = (height - _HEAD) / most
        hill = self._hill(hours, day.clear.input_w, base, scale)
        colour = QColor(theme.tokens.energy[EnergyKind.SUN])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawPolygon(hill)
        for start, end in day.window:
            self._paint_window(painter, hill, (start, end), top + 6, base)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if index == 0 and self._outlook.turned.aims:
            turned = self._hill(hours, self._outlook.turned.aimed_w, base, scale)
            painter.setPen(QPen(theme.colour("accent"), 1.6, Qt.PenStyle.DashLine))
            painter.drawPolyline(turned)
        painter.setPen(QPen(theme.colour("ink"), 1))
        painter.drawLine(QPointF(_NAMES_W, base), QPointF(self.width() - _SUMS_W, base))
        self._paint_words(painter, index, top, height)

    def _hill(self, hours: FloatArray, watts: FloatArray, base: float, scale: float) -> QPolygonF:
        inside = np.flatnonzero((hours >= self._hours[0]) & (hours <= self._hours[1]))[::4]
        points = [QPointF(self._x(hours[i]), base - watts[i] * scale) for i in inside]
        ends = [QPointF(self._x(h), base) for h in (self._hours[1], self._hours[0])]
        return QPolygonF([*points, *ends])

    def _paint_window(
        self,
        painter: QPainter,
        hill: QPolygonF,
        ends: "tuple[datetime, datetime]",
        top: float,
        base: float,
    ) -> None:
        """The hours worth testing in: hatched, with a post at either end."""
        left, right = (self._x(end.hour + end.minute / 60) for end in ends)
        lines = QColor(theme.tokens.on_energy[EnergyKind.SUN])
        lines.setAlpha(80)
        painter.save()
        painter.setClipRect(QRectF(left, top, right - left, base - top))
        painter.setBrush(QBrush(lines, Qt.BrushStyle.BDiagPattern))
        painter.drawPolygon(hill)
        painter.restore()
        for x in (left, right):
            painter.fillRect(QRectF(x - 1.5, top + 8, 3, base - top - 8), theme.colour("ink"))

    def _paint_words(self, painter: QPainter, index: int, top: float, height: float) -> None:
        assert self._outlook is not None
        day = self._outlook.days[index]
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(15, SEMIBOLD if index == self._chosen else MEDIUM))
        middle = top + height / 2
        painter.drawText(QRectF(14, middle - 18, _NAMES_W, 20), f"{day.day:%a %-d %b}")
        painter.setFont(font(13))
        painter.setPen(theme.colour("muted"))
        windows = ", ".join(f"{s:%-H:%M}–{e:%-H:%M}" for s, e in day.window)
        painter.drawText(QRectF(14, middle + 1, _NAMES_W, 18), windows or "no sun")
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(15, MEDIUM))
        at = QRectF(self.width() - _SUMS_W, middle - 10, _SUMS_W - 8, 20)
        painter.drawText(at, int(Qt.AlignmentFlag.AlignRight), f"{day.clear.expected_wh:.0f} Wh")

    def _lane_h(self) -> float:
        count: Sequence[object] = self._outlook.days if self._outlook else [0]
        return (self.height() - _AXIS_H) / len(count)

    def _x(self, hour: float) -> float:
        width = self.width() - _NAMES_W - _SUMS_W
        return _NAMES_W + (hour - self._hours[0]) / (self._hours[1] - self._hours[0]) * width

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._outlook is not None:
            self._choose(int((event.position().y() - _AXIS_H) // self._lane_h()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is None or self._outlook is None:
            super().keyPressEvent(event)
            return
        self._choose(self._chosen + step)

    def _choose(self, index: int) -> None:
        assert self._outlook is not None
        self.day_chosen.emit(min(max(index, 0), len(self._outlook.days) - 1))


def _lit_hours(outlook: "SunOutlook") -> tuple[int, int]:
    """Whole hours around all light of the week."""
    ends = []
    for day in outlook.days:
        lit = np.flatnonzero(day.clear.input_w > 0)
        if lit.size:
            ends += [day.times[lit[0]].hour, day.times[lit[-1]].hour + 1]
    return (max(min(ends) - 1, 0), min(max(ends) + 1, 24)) if ends else (4, 22)
