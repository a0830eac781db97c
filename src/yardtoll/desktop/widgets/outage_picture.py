"""The picture of an outage that can be taken hold of: its start moved, appliances dropped on it."""

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDropEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QWidget

from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import KEYBOARD_REASONS
from yardtoll.desktop.widgets.scene_view import SceneView
from yardtoll.report.charts.outage import Lane, OutagePicture, OutageScene
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene

APPLIANCE_MIME = "application/x-yardtoll-appliance"
"""What an appliance is dragged as: its place in the list."""
STEP_H = 0.25
_FEWEST_PX = 4


class OutagePictureView(SceneView):
    """Shows an outage.

    Signals:
        start_dragged(hours): the start is being moved, by so many hours from where it was.
        start_moved(hours): it was let go there.
        lane_opened(name, kind), lane_removed(name, kind): what is asked of a lane.
        appliance_dropped(place): an appliance of the list was dropped on it.
    """

    start_dragged = Signal(float)
    start_moved = Signal(float)
    lane_opened = Signal(str, str)
    lane_removed = Signal(str, str)
    appliance_dropped = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("The store through the outage", parent)
        self.picture: OutagePicture | None = None
        self.chosen = ""
        self._held_x: float | None = None
        self._moved_h = 0.0
        self._is_ringed = False
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)

    def show_picture(self, picture: OutagePicture | None) -> None:
        """Show another one; None for nothing."""
        self.picture = picture
        names = [lane.name for lane in picture.lanes] if picture is not None else []
        if self.chosen not in names:
            self.chosen = ""
        self.show_scene(self._scene if picture is not None else None)
        if picture is not None:
            self.setMinimumHeight(int(self._drawn(600, 400, theme.tokens).least_height))

    def _scene(self, size: tuple[float, float], palette: Palette) -> Scene:
        return self._drawn(*size, palette).scene()

    def _drawn(self, width: float, height: float, palette: Palette) -> OutageScene:
        assert self.picture is not None
        return OutageScene(
            picture=self.picture, width=width, height=height, palette=palette, chosen=self.chosen
        )

    @property
    def drawn(self) -> OutageScene | None:
        """As it is drawn now: where its hours and lanes are."""
        if self.picture is None:
            return None
        return self._drawn(float(self.width()), float(self.height()), theme.tokens)

    @property
    def chosen_lane(self) -> Lane | None:
        """The lane that keys act upon."""
        lanes = self.picture.lanes if self.picture is not None else ()
        return next((lane for lane in lanes if lane.name == self.chosen), None)

    def choose(self, name: str) -> None:
        """Set a lane off."""
        self.chosen = name
        lane = self.chosen_lane
        if lane is not None:
            self.setAccessibleDescription(f"{lane.name}, {lane.wh:.0f} Wh")
        self.update()

    # the mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        drawn = self.drawn
        if drawn is None or event.button() is not Qt.MouseButton.LeftButton:
            return
        at = event.position()
        lane = drawn.lane_at(at.y())
        if lane is not None:
            self.choose(lane.name)
        elif at.x() >= drawn.left - 8:
            self._held_x, self._moved_h = at.x(), 0.0
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        drawn = self.drawn
        if drawn is None:
            return
        at = event.position()
        if self._held_x is None:
            in_plot = drawn.lane_at(at.y()) is None and at.x() >= drawn.left - 8
            self.setCursor(Qt.CursorShape.OpenHandCursor if in_plot else Qt.CursorShape.ArrowCursor)
            return
        pulled = at.x() - self._held_x
        if abs(pulled) < _FEWEST_PX and not self._moved_h:
            return
        # The axis goes with the pointer: pulled to the right, the outage begins earlier.
        hours = -round(pulled * drawn.hours_a_pixel / STEP_H) * STEP_H
        if hours != self._moved_h:
            self._moved_h = hours
            self.start_dragged.emit(hours)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held_x is not None and event.button() is Qt.MouseButton.LeftButton:
            self._held_x = None
            self.setCursor(Qt.CursorShape.OpenHandCursor)
            if self._moved_h:
                self.start_moved.emit(self._moved_h)
                self._moved_h = 0.0

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        drawn = self.drawn
        lane = drawn.lane_at(event.position().y()) if drawn is not None else None
        if lane is not None:
            self.choose(lane.name)
            self.lane_opened.emit(lane.name, lane.kind)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(APPLIANCE_MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        if event.mimeData().hasFormat(APPLIANCE_MIME):
            event.acceptProposedAction()
            self.appliance_dropped.emit(int(event.mimeData().data(APPLIANCE_MIME).toStdString()))

    # the keyboard

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, lane = event.key(), self.chosen_lane
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.start_moved.emit(-STEP_H if key == Qt.Key.Key_Left else STEP_H)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.picture is not None:
            self._step(-1 if key == Qt.Key.Key_Up else 1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and lane is not None:
            self.lane_opened.emit(lane.name, lane.kind)
        elif key == Qt.Key.Key_Delete and lane is not None:
            self.lane_removed.emit(lane.name, lane.kind)
        else:
            super().keyPressEvent(event)

    def _step(self, by: int) -> None:
        assert self.picture is not None
        names = [lane.name for lane in self.picture.lanes]
        place = names.index(self.chosen) + by if self.chosen in names else (0 if by > 0 else -1)
        self.choose(names[min(max(place, 0), len(names) - 1)] if place >= 0 else names[0])

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._is_ringed = event.reason() in KEYBOARD_REASONS
        super().focusInEvent(event)

    def leaveEvent(self, event: QEvent) -> None:
        self.unsetCursor()
        super().leaveEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self.hasFocus() and self._is_ringed:
            with QPainter(self) as painter:
                painter.setPen(QPen(theme.colour("accent"), 2))
                painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
