"""Lanes: one line a station on a time axis, runs as blocks, the now-line, the end expected."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QContextMenuEvent,
    QFontMetrics,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QMenu, QSizePolicy, QToolTip, QWidget

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.desktop.theme.fonts import MEDIUM, SEMIBOLD, font, scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.store.shown_region import clock, shown
from yardtoll.store.site_time import now as now_here

LANE_H = (60, 96)
_NAMES_W = 168
_AXIS_H = 34
_LEAST_BLOCK_PX = 7.0
_RIGHT = 20
_CAPTION_H = 17
_TWO_LINES_H = 80
_BELOW_H = {1: 6, 2: 12}
"""For the captions of the last lane, which may have so many lines."""


@dataclass(frozen=True)
class LaneRun:
    """One run as drawn. ``state`` is "planned", "running", "finished" or "void".

    ``budget`` is of the figure in its caption; None where that has no ±. ``kind`` is the energy
    that flowed.
    """

    run_id: int
    start: datetime
    end: datetime
    state: str
    caption: str
    tip: str
    budget: Budget | None = None
    kind: EnergyKind = EnergyKind.DELIVERED


@dataclass(frozen=True)
class Lane:
    """One station's line."""

    station_id: int
    name: str
    subtitle: str
    runs: tuple[LaneRun, ...]


class LaneChart(QWidget):
    """Stations under one another on a common time axis; arrow keys walk from run to run.

    Signals:
        run_chosen(run_id), station_chosen(station_id): by click, or Enter.
        budget_asked(run): B, or from the menu of the right button.
    """

    run_chosen = Signal(int)
    station_chosen = Signal(int)
    budget_asked = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.lanes: list[Lane] = []
        self._current: int | None = None
        self._from = self._to = self._now = now_here()
        self.blocks: list[tuple[QRectF, LaneRun]] = []
        self._lane_h, self._room = LANE_H[1], 0
        self.caption_ends: dict[int, float] = {}
        self._block_end = -1.0
        self._at: int | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(
            "Runs of each station over time; arrows walk through them, Enter opens, B opens the ±"
        )
        theme.changed.connect(self.update)

    def show_lanes(
        self, lanes: list[Lane], current: int | None, now: datetime, until: datetime | None
    ) -> None:
        """Draw lanes; ``until`` is the expected end of the run in progress."""
        self.lanes, self._current, self._now = lanes, current, now
        starts = [run.start for lane in lanes for run in lane.runs]
        ends = [run.end for lane in lanes for run in lane.runs]
        first = min([now, *starts]) if starts else now - timedelta(days=1)
        last = max([now, *ends, *([until] if until else [])])
        margin = max((last - first) * 0.03, timedelta(minutes=20))
        self._from, self._to = first - margin, last + margin
        self.fit_to(self._room)
        self.update()

    def least_height(self, most_lanes: int) -> int:
        """What so many lanes take at least, or all where there are fewer."""
        count = min(max(len(self.lanes), 1), most_lanes)
        return count * scaled(LANE_H[0]) + scaled(_AXIS_H + _BELOW_H[1])

    def fit_to(self, room: int) -> None:
        """Let lanes grow or shrink, within reason, into ``room`` pixels of height."""
        self._room = room
        low, high = (scaled(height) for height in LANE_H)
        self._lane_h = min(max((room - self._around_h) // max(len(self.lanes), 1), low), high)
        self.setFixedHeight(self.sizeHint().height())

    @property
    def _lines(self) -> int:
        """So many lines of captions have room in each lane, and below the last."""
        needed = max(len(self.lanes), 1) * scaled(_TWO_LINES_H)
        return 2 if self._room - scaled(_AXIS_H + _BELOW_H[2]) >= needed else 1

    @property
    def _around_h(self) -> int:
        """Above the lanes the axis; below them the rest of the last one's captions."""
        return scaled(_AXIS_H + _BELOW_H[self._lines])

    def sizeHint(self) -> QSize:
        return QSize(900, max(len(self.lanes), 1) * self._lane_h + self._around_h)

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self.blocks = []
            self._paint_axis(painter)
            self._paint_now(painter)
            for index, lane in enumerate(self.lanes):
                self._paint_lane(painter, scaled(_AXIS_H) + index * self._lane_h, lane)

    def _paint_axis(self, painter: QPainter) -> None:
        bottom = self.height()
        painter.setFont(font(13))
        last_right = -1.0
        now_word = self.now_word()[1]
        for at in self.ticks():
            x = self._x(at)
            painter.setPen(QPen(theme.colour("line"), 1))
            painter.drawLine(QPointF(x, 4), QPointF(x, bottom))
            text = at.strftime("%a %-d %b") if at.hour == 0 else clock(at)
            width = QFontMetrics(painter.font()).horizontalAdvance(text)
            clear_of_now = x + width + 4 < now_word.left() - 8 or x > now_word.right()
            if x + 4 > last_right and x + width + 4 < self.width() and clear_of_now:
                painter.setPen(theme.colour("muted"))
                painter.drawText(QPointF(x + 5, scaled(18)), text)
                last_right = x + width + 14

    def ticks(self) -> list[datetime]:
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
        metrics_room = scaled(_NAMES_W) - 22
        painter.setFont(font(16, SEMIBOLD))
        painter.setPen(theme.colour("ink"))
        name = QFontMetrics(painter.font()).elidedText(
            lane.name, Qt.TextElideMode.ElideRight, metrics_room
        )
        painter.drawText(QRectF(12, middle - scaled(22), metrics_room, scaled(22)), name)
        painter.setFont(font(13))
        painter.setPen(theme.colour("muted"))
        painter.drawText(QRectF(12, middle, metrics_room, scaled(20)), shown(lane.subtitle))
        painter.setPen(QPen(theme.colour("line"), 3))
        painter.drawLine(QPointF(scaled(_NAMES_W), middle), QPointF(self.width() - _RIGHT, middle))
        self.caption_ends, self._block_end = {}, -1.0
        for run in lane.runs:
            self._paint_run(painter, middle, run)

    def _paint_run(self, painter: QPainter, middle: float, run: LaneRun) -> None:
        left, right = self._x(run.start), self._x(run.end)
        block = QRectF(left, middle - 15, max(right - left, _LEAST_BLOCK_PX), 30)
        if left < self._block_end:
            # Two inputs at once: the second stands in the lower half of the first.
            block.setTop(middle)
        self._block_end = max(self._block_end, block.right())
        self.blocks.append((block.adjusted(-3, -4, 3, 4), run))
        colour = QColor(theme.tokens.energy[run.kind])
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
        if self.hasFocus() and run.run_id == self._at:
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.drawRect(block.adjusted(-4, -4, 4, 4))
        self._paint_caption(painter, block, run)

    def _paint_caption(self, painter: QPainter, block: QRectF, run: LaneRun) -> None:
        """The result of the run, under its block: beside the one before, or a line below it."""
        if all(self.caption_ends.get(line, -1.0) > block.right() for line in range(self._lines)):
            return  # among many runs most have no room, and measuring words takes long
        painter.setFont(font(13, MEDIUM))
        width = QFontMetrics(painter.font()).horizontalAdvance(run.caption)
        at = QRectF(block.center().x() - width / 2, block.bottom() + 3, width + 1, scaled(18))
        if run.state == "planned":
            # The now-line stands at the block's left.
            at.moveLeft(block.left() + 5)
        at.moveRight(min(at.right(), self.width() - 2))
        at.moveLeft(max(at.left(), scaled(_NAMES_W)))
        for line in range(self._lines):
            end = self.caption_ends.get(line, -1.0)
            left = max(at.left(), end)
            if left <= block.right() and left + width <= self.width():
                place = QRectF(left, at.top() + line * scaled(_CAPTION_H), at.width(), at.height())
                if place.left() - 2 < self._x(self._now) < place.right() + 2:
                    # The line would strike the words through.
                    painter.fillRect(place.adjusted(-2, 0, 2, 0), theme.colour("paper"))
                painter.setPen(theme.colour("muted" if run.state == "void" else "ink"))
                painter.drawText(place, int(Qt.AlignmentFlag.AlignLeft), shown(run.caption))
                self.caption_ends[line] = place.right() + 8
                return

    def _paint_now(self, painter: QPainter) -> None:
        x, bottom = self._x(self._now), self.height()
        word, at = self.now_word()
        painter.setPen(QPen(theme.colour("accent"), 2))
        painter.drawLine(QPointF(x, scaled(24)), QPointF(x, bottom))
        painter.setFont(font(13, SEMIBOLD))
        painter.drawText(at, int(Qt.AlignmentFlag.AlignVCenter), word)

    def now_word(self) -> tuple[str, QRectF]:
        """The word at the now-line and its place inside the chart."""
        word = f"now {clock(self._now)}"
        width = QFontMetrics(font(13, SEMIBOLD)).horizontalAdvance(word)
        left = min(self._x(self._now) - width / 2, self.width() - width - 4)
        return word, QRectF(left, 3, width + 2, scaled(20))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        runs = [run for lane in self.lanes for run in lane.runs]
        at = next((i for i, run in enumerate(runs) if run.run_id == self._at), None)
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1}
        if key in steps and runs:
            index = 0 if at is None else min(max(at + steps[key], 0), len(runs) - 1)
            self._at = runs[index].run_id
            self.setAccessibleDescription(runs[index].tip)
            self.update()
        elif at is not None and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.run_chosen.emit(runs[at].run_id)
        elif at is not None and key == Qt.Key.Key_B and runs[at].budget is not None:
            self.budget_asked.emit(runs[at])
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        run = self.run_at(QPointF(event.pos()))
        if run is None:
            return
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.addAction("Open the run", partial(self.run_chosen.emit, run.run_id))
        if run.budget is not None:
            menu.addAction("Where its ± comes from", partial(self.budget_asked.emit, run))
        menu.popup(event.globalPos())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.RightButton:
            return
        run = self.run_at(event.position())
        if run is not None:
            self.run_chosen.emit(run.run_id)
            return
        index = int((event.position().y() - scaled(_AXIS_H)) // self._lane_h)
        if 0 <= index < len(self.lanes):
            self.station_chosen.emit(self.lanes[index].station_id)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        over = self.run_at(event.position()) is not None
        self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)

    def event(self, event: object) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QHelpEvent.Type.ToolTip:
            run = self.run_at(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), run.tip if run else "", self)
            return True
        return super().event(event)  # type: ignore[arg-type]

    def run_at(self, position: QPointF) -> LaneRun | None:
        found = [run for block, run in self.blocks if block.contains(position)]
        return found[-1] if found else None

    def _x(self, at: datetime) -> float:
        span = (self._to - self._from).total_seconds() or 1.0
        share = (at - self._from).total_seconds() / span
        return scaled(_NAMES_W) + share * (self.width() - scaled(_NAMES_W) - _RIGHT)
