"""The rail: the stops of the work as posts on a line."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from yardtoll.desktop.theme.fonts import MEDIUM, SEMIBOLD, font, scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import RAIL_W, TEXT_PX
from yardtoll.desktop.views.stop import stop_key

_PITCH = 56
_CLOSEST = 36
_TOP = 34
_LINE_X = 24


class Rail(QWidget):
    """Stops from top to bottom; one is current.

    Args:
        stops: (key, title) of each.

    Signals:
        stop_chosen(key): a stop was clicked, or chosen from the keyboard.
    """

    stop_chosen = Signal(str)

    def __init__(self, stops: list[tuple[str, str]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._keys = [key for key, _ in stops]
        self._stops = [title for _, title in stops]
        self._current = 0
        self._hovered = -1
        self._busy: set[int] = set()
        self._fit()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Stops")
        theme.changed.connect(self._fit)

    def _fit(self) -> None:
        """As wide as the size of text asks."""
        self.setFixedWidth(scaled(RAIL_W))
        self.update()

    def set_current(self, stop: str) -> None:
        """Show which stop the window is at."""
        index = self._current = self._keys.index(stop)
        self.setAccessibleDescription(f"{self._stops[index]}, {index + 1} of {len(self._stops)}")
        self.update()

    @property
    def current(self) -> str:
        """The stop that the window is at."""
        return self._keys[self._current]

    def set_busy(self, stop: str, *, busy: bool) -> None:
        """Show that something is going at a stop."""
        index = self._keys.index(stop)
        (self._busy.add if busy else self._busy.discard)(index)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(scaled(RAIL_W), _TOP + _CLOSEST * len(self._stops))

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.fillRect(self.rect(), theme.colour("paper"))
            painter.setPen(QPen(theme.colour("line"), 1))
            painter.drawLine(self.width() - 1, 0, self.width() - 1, self.height())
            last = self._y(len(self._stops) - 1)
            painter.setPen(QPen(theme.colour("line"), 3))
            painter.drawLine(_LINE_X, self._y(0) - 10, _LINE_X, last + 10)
            for index, stop in enumerate(self._stops):
                self._paint_stop(painter, index, stop)

    def _paint_stop(self, painter: QPainter, index: int, stop: str) -> None:
        y, current = self._y(index), index == self._current
        accent, ink = theme.colour("accent"), theme.colour("ink")
        if index == self._hovered and not current:
            painter.fillRect(0, y - 18, self.width() - 1, 36, theme.colour("sunk"))
        if current:
            painter.fillRect(QRectF(_LINE_X - 6.5, y - 10.5, 13, 21), accent)
        else:
            painter.fillRect(QRectF(_LINE_X - 4.5, y - 4.5, 9, 9), theme.colour("paper"))
            painter.setPen(QPen(theme.colour("muted"), 1.5))
            painter.drawRect(QRectF(_LINE_X - 4, y - 4, 8, 8))
        if index in self._busy:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(accent if not current else ink)
            painter.drawEllipse(QRectF(self.width() - 22, y - 4, 8, 8))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(font(TEXT_PX, SEMIBOLD if current else MEDIUM))
        painter.setPen(ink if current else theme.colour("muted"))
        height = scaled(28)
        text = QRectF(40, y - height / 2, self.width() - 42, height)
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, stop)
        if current and self.hasFocus():
            pen = QPen(QColor(accent), 2)
            painter.setPen(pen)
            painter.drawRect(QRectF(4, y - 18, self.width() - 10, 36))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = self._at(event.position().y())
        if index >= 0:
            self.stop_chosen.emit(self._keys[index])

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._hovered = self._at(event.position().y())
        self.setToolTip(stop_key(self._hovered + 1) if self._hovered >= 0 else "")
        self.update()

    def leaveEvent(self, _: object) -> None:
        self._hovered = -1
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        elif 0 <= self._current + step < len(self._stops):
            self.stop_chosen.emit(self._keys[self._current + step])

    @property
    def _pitch(self) -> float:
        """Closer together where the window is low."""
        room = (self.height() - 2 * _TOP) / max(len(self._stops) - 1, 1)
        return max(min(_PITCH, room), _CLOSEST)

    def _y(self, index: int) -> int:
        return round(_TOP + self._pitch * index)

    def _at(self, y: float) -> int:
        index = round((y - _TOP) / self._pitch)
        inside = 0 <= index < len(self._stops) and abs(y - self._y(index)) <= 18
        return index if inside else -1
