"""Dragging a chart into another program's window."""

from PySide6.QtCore import QPoint, QSize, Qt
from PySide6.QtGui import QDrag, QMouseEvent, QPixmap
from PySide6.QtWidgets import QApplication, QWidget

from yardtoll.desktop.widgets.taking_out import chart_of

_PICTURE = QSize(320, 220)


class DragOut:
    """What a chart's widget asks when the mouse is pressed in it and moved.

    Args:
        widget: the chart.
        with_ctrl: only while Ctrl is held, for charts that a plain drag moves.
    """

    def __init__(self, widget: QWidget, *, with_ctrl: bool = False) -> None:
        self._widget, self._with_ctrl = widget, with_ctrl
        self._pressed: QPoint | None = None

    def pressed(self, event: QMouseEvent) -> bool:
        """Whether a drag may begin here."""
        held = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        left = event.button() is Qt.MouseButton.LeftButton
        is_ours = left and (held or not self._with_ctrl)
        self._pressed = event.position().toPoint() if is_ours else None
        return is_ours

    def moved(self, event: QMouseEvent) -> bool:
        """Begin the drag when the mouse has moved far enough; whether it is one."""
        if self._pressed is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return False
        far = (event.position().toPoint() - self._pressed).manhattanLength()
        if far >= QApplication.startDragDistance():
            self._pressed = None
            self.drag()
        return True

    def drag(self) -> None:
        """Carry the chart until it is dropped."""
        taken = chart_of(self._widget)
        drag = QDrag(self._widget)
        drag.setMimeData(taken.mime())
        if taken.image is not None:
            small = taken.image.scaled(
                _PICTURE,
                Qt.AspectRatioMode.KeepAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
            drag.setPixmap(QPixmap.fromImage(small))
        drag.exec(Qt.DropAction.CopyAction)
