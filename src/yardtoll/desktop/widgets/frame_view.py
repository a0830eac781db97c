"""A frame of a time-lapse, with a rectangle drawn over the station's display."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.desktop.theme.theme import theme
from yardtoll.store.frames import Frame, FramesError, rgb_of

_LEAST_SHARE = 0.01


class FrameView(QWidget):
    """Shows one frame as large as there is room; a rectangle is drawn with the mouse.

    Attributes:
        box: left, top, right, bottom as shares of the picture; None while none is drawn.

    Signals:
        box_drawn: there is a rectangle, or another one.
    """

    box_drawn = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.box: tuple[float, float, float, float] | None = None
        self._picture = QPixmap()
        self._from: QPointF | None = None
        self.setMinimumSize(460, 320)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setAccessibleName("The frame; drag a rectangle over the station's display")

    def show_frame(self, frame: Frame) -> bool:
        """Show a frame; False where it cannot be read."""
        try:
            rgb = np.ascontiguousarray(rgb_of(frame))
        except FramesError:
            self._picture = QPixmap()
        else:
            rows, columns, _ = rgb.shape
            image = QImage(rgb.data, columns, rows, 3 * columns, QImage.Format.Format_RGB888)
            self._picture = QPixmap.fromImage(image)
        self.setAccessibleDescription(frame.path.name)
        self.update()
        return not self._picture.isNull()

    def set_box(self, box: tuple[float, float, float, float]) -> None:
        """A rectangle as shares of the picture."""
        self.box = box
        self.update()
        self.box_drawn.emit()

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.fillRect(self.rect(), theme.colour("sunk"))
            place = self.picture_place()
            if self._picture.isNull():
                painter.setPen(theme.colour("muted"))
                painter.drawText(
                    self.rect(), Qt.AlignmentFlag.AlignCenter, "This picture cannot be read."
                )
                return
            painter.drawPixmap(place, self._picture, QRectF(self._picture.rect()))
            if self.box is not None:
                left, top, right, bottom = self.box
                painter.setPen(QPen(theme.colour("accent"), 2))
                painter.drawRect(
                    QRectF(
                        place.left() + left * place.width(), place.top() + top * place.height(),
                        (right - left) * place.width(), (bottom - top) * place.height(),
                    )
                )  # fmt: skip

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is not None:
            self.box = self._shares(self._from, event.position()) or self.box
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._from is not None and self._shares(self._from, event.position()):
            self.box_drawn.emit()
        self._from = None

    def picture_place(self) -> QRectF:
        """Where the picture stands."""
        if self._picture.isNull():
            return QRectF(self.rect())
        size = self._picture.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        return QRectF(
            (self.width() - size.width()) / 2, (self.height() - size.height()) / 2,
            size.width(), size.height(),
        )  # fmt: skip

    def _shares(self, one: QPointF, other: QPointF) -> tuple[float, float, float, float] | None:
        """Two corners as shares of the picture; None for what is too small to be meant."""
        place = self.picture_place()
        xs = sorted(
            min(max((p.x() - place.left()) / place.width(), 0.0), 1.0) for p in (one, other)
        )
        ys = sorted(
            min(max((p.y() - place.top()) / place.height(), 0.0), 1.0) for p in (one, other)
        )
        if xs[1] - xs[0] < _LEAST_SHARE or ys[1] - ys[0] < _LEAST_SHARE:
            return None
        return xs[0], ys[0], xs[1], ys[1]


def _within(share: float) -> float:
    return min(max(share, 0.0), 1.0)
