"""Lanes: one line a station on a time axis, runs as blocks, the now-line, the end foreseen."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QFontMetrics,
    QHelpEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from yardtoll.core.ledger import Kind
from yardtoll.desktop.theme.fonts import MEDIUM, SEMIBOLD, font
from yardtoll.desktop.theme.theme import theme

LANE_H = (60, 96)
_NAMES_W = 168
_AXIS_H = 34
_LEAST_BLOCK_PX = 7.0
_RIGHT = 20


@dataclass(frozen=True)
class LaneRun:
    """One run as drawn. ``state`` is "planned", "running", "finished" or "void"."""

    run_id: int
    start: datetime
    end: datetime
    state: str
    caption: str
    tip: str


@dataclass(frozen=True)
class Lane:
    """One station's line."""

    station_id: int
    name: str
    subtitle: str
    runs: tuple[LaneRun, ...]


class LaneChart(QWidget):
    """Stations under one another on a common time axis.

    Signals:
        run_chosen(run_id), station_chosen(station_id): by click.
    """

    run_chosen = Signal(int)
    station_chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._lanes: list[Lane] = []
        self._current: int | None = None
        self._from = self._to = self._now = datetime.now().astimezone()
        self._blocks: list[tuple[QRectF, LaneRun]] = []
        self._lane_h, self._room = LANE_H[1], 0
        self._caption_end = self._caption_top = -1.0
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Runs of each station over time")
        theme.changed.connect(self.update)

    def show_lanes(
        self, lanes: list[Lane], current: int | None, now: datetime, until: datetime | None
    ) -> None:
        """Draw lanes; ``until`` is the foreseen end of the run that is going."""
        self._lanes, self._current, self._now = lanes, current, now
        starts = [run.start for lane in lanes for run in lane.runs]
        ends = [run.end for lane in lanes for run in lane.runs]
        first = min(starts, default=now - timedelta(days=1))
        last = max([now, *ends, *([until] if until else [])])
        margin = max((last - first) * 0.03, timedelta(minutes=20))
        self._from, self._to = first - margin, last + margin
        self.fit_to(self._room)
        self.update()

    def fit_to(self, room: int) -> None:
        """Let lanes grow or shrink, within reason, into ``room`` pixels of height."""
        self._room = room
        count = max(len(self._lanes), 1)
        self._lane_h = min(max((room - _AXIS_H) // count, LANE_H[0]), LANE_H[1])
        self.setFixedHeight(count * self._lane_h + _AXIS_H)

    def sizeHint(self) -> QSize:
        return QSize(900, max(len(self._lanes), 1) * self._lane_h + _AXIS_H)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._blocks = []
        self._caption_end = self._caption_top = -1.0
        self._paint_axis(painter)
        for index, lane in enumerate(self._lanes):
            self._paint_lane(painter, _AXIS_H + index * self._lane_h, lane)
        self._paint_now(painter)

    def _paint_axis(self, painter: QPainter) -> None:
        bottom = self.height()
        painter.setFont(font(13))
        last_right = -1.0
        now_word = self._now_word()[1]
        for at in self._ticks():
            x = self._x(at)
            painter.setPen(QPen(theme.colour("line"), 1))
            painter.drawLine(QPointF(x, 4), QPointF(x, bottom))
            text = at.strftime("%a %-d %b") if at.hour == 0 else at.strftime("%H:%M")
            width = QFontMetrics(painter.font()).horizontalAdvance(text)
            clear_of_now = x + width + 4 < now_word.left() - 8 or x > now_word.right()
            if x + 4 > last_right and x + width + 4 < self.width() and clear_of_now:
                painter.setPen(theme.colour("muted"))
                painter.drawText(QPointF(x + 5, 18), text)
                last_right = x + width + 14

    def _ticks(self) -> list[datetime]:
        """Midnights, or hours when the axis is short."""
        span = self._to - self._from
        hours = next((h for h in (1, 3, 6, 12, 24) if span <= timedelta(hours=9 * h)), 24)
        days = max(1, round(span / timedelta(days=9))) if hours == 24 else 1
        at = self._from.replace(hour=0, minute=0, second=0, microsecond=0)
        found = []
        while at <= self._to:
            if at >= self._from:
                found.append(at)
            at += timedelta(days=days) if hours == 24 else timedelta(hours=hours)
        return found

    def _paint_lane(self, painter: QPainter, top: float, lane: Lane) -> None:
        middle = top + self._lane_h / 2
        if lane.station_id == self._current:
            painter.fillRect(QRectF(0, top + 6, 4, self._lane_h - 12), theme.colour("accent"))
        metrics_room = _NAMES_W - 22
        painter.setFont(font(16, SEMIBOLD))
        painter.setPen(theme.colour("ink"))
        name = QFontMetrics(painter.font()).elidedText(
            lane.name, Qt.TextElideMode.ElideRight, metrics_room
        )
        painter.drawText(QRectF(12, middle - 22, metrics_room, 22), name)
        painter.setFont(font(13))
        painter.setPen(theme.colour("muted"))
        painter.drawText(QRectF(12, middle, metrics_room, 20), lane.subtitle)
        painter.setPen(QPen(theme.colour("line"), 3))
        painter.drawLine(QPointF(_NAMES_W, middle), QPointF(self.width() - _RIGHT, middle))
        for run in lane.runs:
            self._paint_run(painter, middle, run)

    def _paint_run(self, painter: QPainter, middle: float, run: LaneRun) -> None:
        left, right = self._x(run.start), self._x(run.end)
        block = QRectF(left, middle - 15, max(right - left, _LEAST_BLOCK_PX), 30)
        self._blocks.append((block.adjusted(-3, -4, 3, 4), run))
        colour = QColor(theme.tokens.energy[Kind.DELIVERED])
        if run.state == "void":
            painter.setPen(QPen(theme.colour("muted"), 1.2))
            painter.setBrush(QBrush(theme.colour("muted"), Qt.BrushStyle.BDiagPattern))
            painter.drawRect(block)
            painter.setBrush(Qt.BrushStyle.NoBrush)
        elif run.state == "planned":
            painter.setPen(QPen(theme.colour("accent"), 1.5, Qt.PenStyle.DashLine))
            painter.drawRect(block)
        else:
            painter.fillRect(block, theme.colour("accent") if run.state == "running" else colour)
        self._paint_caption(painter, block, run)

    def _paint_caption(self, painter: QPainter, block: QRectF, run: LaneRun) -> None:
        """What the run came to, under its block, where the run before leaves room."""
        painter.setFont(font(13, MEDIUM))
        width = QFontMetrics(painter.font()).horizontalAdvance(run.caption)
        at = QRectF(block.center().x() - width / 2, block.bottom() + 3, width + 1, 18)
        if run.state == "planned":
            # The now-line stands at the block's left.
            at.moveLeft(block.left() + 5)
        at.moveLeft(max(at.left(), _NAMES_W))
        if at.left() > self._caption_end or at.top() != self._caption_top:
            painter.setPen(theme.colour("muted" if run.state == "void" else "ink"))
            painter.drawText(at, int(Qt.AlignmentFlag.AlignLeft), run.caption)
            self._caption_end, self._caption_top = at.right() + 8, at.top()

    def _paint_now(self, painter: QPainter) -> None:
        x, bottom = self._x(self._now), self.height()
        word, at = self._now_word()
        painter.setPen(QPen(theme.colour("accent"), 2))
        painter.drawLine(QPointF(x, 24), QPointF(x, bottom))
        painter.setFont(font(13, SEMIBOLD))
        painter.drawText(at, int(Qt.AlignmentFlag.AlignVCenter), word)

    def _now_word(self) -> tuple[str, QRectF]:
        """The word at the now-line and where it stands, inside the chart."""
        word = f"now {self._now:%H:%M}"
        width = QFontMetrics(font(13, SEMIBOLD)).horizontalAdvance(word)
        left = min(self._x(self._now) - width / 2, self.width() - width - 4)
        return word, QRectF(left, 3, width + 2, 20)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        run = self._run_at(event.position())
        if run is not None:
            self.run_chosen.emit(run.run_id)
            return
        index = int((event.position().y() - _AXIS_H) // self._lane_h)
        if 0 <= index < len(self._lanes):
            self.station_chosen.emit(self._lanes[index].station_id)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        over = self._run_at(event.position()) is not None
        self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)

    def event(self, event: object) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QHelpEvent.Type.ToolTip:
            run = self._run_at(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), run.tip if run else "", self)
            return True
        return super().event(event)  # type: ignore[arg-type]

    def _run_at(self, position: QPointF) -> LaneRun | None:
        return next((run for block, run in self._blocks if block.contains(position)), None)

    def _x(self, at: datetime) -> float:
        span = (self._to - self._from).total_seconds() or 1.0
        share = (at - self._from).total_seconds() / span
        return _NAMES_W + share * (self.width() - _NAMES_W - _RIGHT)
