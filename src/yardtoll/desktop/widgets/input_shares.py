"""Two inputs at once: each one's W over time, one standing on the other, and the cap of the sum."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from yardtoll.core.charge.inputs_together import InputsTogether
from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.formatting import format_clock, format_with_uncertainty
from yardtoll.core.uncertainty.budget import Budget, Measured, total
from yardtoll.core.uncertainty.energy_budget import power_budget
from yardtoll.desktop.theme.fonts import MEDIUM, SEMIBOLD, font
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.marker_chart import MarkerChart
from yardtoll.store.records import Meter

_LEFT = 62.0
_HEADROOM = 1.12
_TICKS = 4


class InputShares(MarkerChart):
    """A time axis with both inputs stacked; a marker says each one's share at its time."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Two inputs together", _LEFT, parent=parent)
        self._pair: InputsTogether | None = None
        self._names = ("wall", "sun")
        self._kinds = (EnergyKind.WALL, EnergyKind.SUN)
        self._meters: Sequence[Meter | None] = (None, None)

    def show_pair(
        self,
        pair: InputsTogether | None,
        names: tuple[str, str],
        kinds: tuple[EnergyKind, EnergyKind],
        meters: Sequence[Meter | None] = (None, None),
    ) -> None:
        """Show two inputs by short names; the marker starts in the middle of the time together.

        Args:
            meters: of either; the sum has a ± where both are stated.
        """
        self._names, self._kinds, self._meters = names, kinds, meters
        if pair is not self._pair and pair is not None:
            both = np.flatnonzero((pair.powers_w > 0).all(axis=0))
            middle = float(both[both.size // 2]) if both.size else pair.time_s.size / 2
            self.marker = middle / max(pair.time_s.size - 1, 1)
        self._pair = pair
        self.announce()
        self.update()

    @property
    def answer(self) -> str:
        """What the marker says."""
        if self._pair is None:
            return ""
        first, second = (float(w) for w in self._pair.powers_w[:, self._index()])
        budget = self.budget
        sum_w = format_with_uncertainty(first + second, budget.expanded) if budget else ""
        sums = f"{first:.0f} W + {second:.0f} W = {sum_w or f'{first + second:.0f}'} W"
        return " · ".join(part for part in (self._when(), sums, self._shares()) if part)

    @property
    def budget(self) -> Budget | None:
        """Of the sum at the marker; None where a meter is not stated."""
        if self._pair is None:
            return None
        parts = [
            Measured(value=watts, budget=power_budget(watts, meter.accuracy, str(meter.id)))
            for watts, meter in zip(
                self._pair.powers_w[:, self._index()].tolist(), self._meters, strict=True
            )
            if meter is not None
        ]
        names = [name.capitalize() for name in self._names]
        return total(parts, names).budget if len(parts) == len(names) else None

    def _when(self) -> str:
        assert self._pair is not None
        return format_clock(float(self._pair.time_s[self._index()] - self._pair.time_s[0]))

    def _shares(self) -> str:
        """Each input's share at the marker; "" while nothing flows."""
        assert self._pair is not None
        share = self._pair.share_at(self._index())
        if share is None:
            return ""
        return f"{self._names[0]} {share:.0%}, {self._names[1]} {1 - share:.0%}"

    @property
    def short_answer(self) -> str:
        """Without the watts."""
        return " · ".join(part for part in (self._when(), self._shares()) if part)

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._pair is None:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_axes(painter)
            first, total = self._pair.powers_w[0], self._pair.powers_w.sum(axis=0)
            self._paint_layer(painter, np.zeros_like(first), first, 0)
            self._paint_layer(painter, first, total, 1)
            self._paint_names(painter)
            self._paint_cap(painter)
            self.paint_marker(painter)

    def _paint_axes(self, painter: QPainter) -> None:
        assert self._pair is not None
        area = self.area
        levels = [self._top_w() / _HEADROOM * i / (_TICKS - 1) for i in range(_TICKS)]
        self.paint_levels(painter, [(self._at(0.0, w).y(), f"{w:.0f} W") for w in levels])
        span_s = float(self._pair.time_s[-1] - self._pair.time_s[0])
        shares = [i / _TICKS for i in range(1, _TICKS + 1)]
        self.paint_below(
            painter,
            [
                (area.left() + s * area.width(), f"{format_clock(span_s * s)[:-3]} h")
                for s in shares
            ],
        )

    def _paint_layer(
        self, painter: QPainter, low_w: FloatArray, high_w: FloatArray, which: int
    ) -> None:
        """One input between two lines; the second is hatched, so colour is not alone."""
        shape = QPolygonF([*self._line(high_w), *reversed(self._line(low_w))])
        kind = self._kinds[which]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.tokens.energy[kind]))
        painter.drawPolygon(shape)
        if which == 1:
            lines = QColor(theme.tokens.on_energy[kind])
            lines.setAlpha(70)
            painter.setBrush(QBrush(lines, Qt.BrushStyle.BDiagPattern))
            painter.drawPolygon(shape)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _line(self, watts: FloatArray) -> list[QPointF]:
        points = self.thinned(
            np.linspace(0.0, 1.0, watts.size), watts, lambda s, w: self._at(s, w).toTuple()
        )
        return [QPointF(x, y) for x, y in points]

    def _paint_names(self, painter: QPainter) -> None:
        """Each input's name within its own layer, where that is widest."""
        assert self._pair is not None
        painter.setFont(font(13, SEMIBOLD))
        total = self._pair.powers_w.sum(axis=0)
        for which, base in ((0, np.zeros_like(total)), (1, self._pair.powers_w[0])):
            mine = self._pair.powers_w[which]
            flowing = np.flatnonzero(mine >= 0.6 * mine.max())
            if not flowing.size:
                continue
            index = int(flowing[flowing.size // 2])
            share = index / max(total.size - 1, 1)
            at = self._at(share, float(base[index] + mine[index] / 2))
            kind = self._kinds[which]
            ground = QRectF(at.x() - 34, at.y() - 10, 68, 20)
            painter.fillRect(ground, QColor(theme.tokens.energy[kind]))
            painter.setPen(QColor(theme.tokens.on_energy[kind]))
            name = self._names[which].capitalize()
            painter.drawText(ground, int(Qt.AlignmentFlag.AlignCenter), name)

    def _paint_cap(self, painter: QPainter) -> None:
        assert self._pair is not None
        if self._pair.cap_w is None:
            return
        area, y = self.area, self._at(0.0, self._pair.cap_w).y()
        painter.setPen(QPen(theme.colour("ink"), 1.5, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
        painter.setFont(font(13, MEDIUM))
        painter.setPen(theme.colour("ink"))
        at = QRectF(area.right() - 160, y - 19, 156, 18)
        painter.drawText(
            at, int(Qt.AlignmentFlag.AlignRight), f"sum capped at {self._pair.cap_w:.0f} W"
        )

    def _index(self) -> int:
        assert self._pair is not None
        return round(self.marker * (self._pair.time_s.size - 1))

    def _top_w(self) -> float:
        assert self._pair is not None
        return _HEADROOM * max(float(self._pair.powers_w.sum(axis=0).max()), 1.0)

    def _at(self, share: float, watts: float) -> QPointF:
        area = self.area
        return QPointF(
            area.left() + share * area.width(),
            area.bottom() - watts / self._top_w() * area.height(),
        )
