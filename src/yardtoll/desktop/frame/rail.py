"""The rail: the stops of the work as posts on a line."""

from functools import partial

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFocusEvent, QKeyEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QRadioButton, QWidget

from yardtoll.desktop.theme.fonts import MEDIUM, SEMIBOLD, font, scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import RAIL_W, TEXT_PX
from yardtoll.desktop.views.stop import stop_key

_PITCH = 56
_CLOSEST = 21
"""In pixels of usual text, in a window as low as can be."""
_TOP, _LOW_TOP = 34, 16
_LINE_X = 24
_HALF = 18
"""Half the height of a stop, at most: of what is pressed, and of the frame around it."""


class _Stop(QRadioButton):
    """One stop: a post on the line, and its title.

    It is a button that a pointer or a screen reader presses; keys walk the rail itself.

    Attributes:
        is_busy: something is going on there.
    """

    def __init__(self, title: str, key: str, rail: QWidget) -> None:
        super().__init__(title, rail)
        self._rail = rail
        self.is_busy = False
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        self.setToolTip(key)

    def hitButton(self, pos: QPoint) -> bool:
        return self.rect().contains(pos)

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_post(painter)
            self._paint_title(painter)

    def _paint_post(self, painter: QPainter) -> None:
        accent, y = theme.colour("accent"), self.height() // 2
        if self.underMouse() and not self.isChecked():
            painter.fillRect(self.rect(), theme.colour("sunk"))
        if self.isChecked():
            painter.fillRect(QRectF(_LINE_X - 6.5, y - 10.5, 13, 21), accent)
        else:
            painter.fillRect(QRectF(_LINE_X - 4.5, y - 4.5, 9, 9), theme.colour("paper"))
            painter.setPen(QPen(theme.colour("muted"), 1.5))
            painter.drawRect(QRectF(_LINE_X - 4, y - 4, 8, 8))
        if self.is_busy:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("ink") if self.isChecked() else accent)
            painter.drawEllipse(QRectF(self.width() - 21, y - 4, 8, 8))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.isChecked() and self._rail.hasFocus():
            painter.setPen(QPen(QColor(accent), 2))
            painter.drawRect(QRectF(4, 1, self.width() - 9, self.height() - 2))

    def _paint_title(self, painter: QPainter) -> None:
        painter.setFont(font(TEXT_PX, SEMIBOLD if self.isChecked() else MEDIUM))
        painter.setPen(theme.colour("ink" if self.isChecked() else "muted"))
        place = QRectF(40, 0, self.width() - 41, self.height())
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, self.text())


class Rail(QWidget):
    """Stops from top to bottom; one is current.

    Args:
        stops: (key, title) of each.

    Attributes:
        stops: their buttons, from top to bottom.

    Signals:
        stop_chosen(key): a stop was clicked, or chosen from the keyboard.
    """

    stop_chosen = Signal(str)

    def __init__(self, stops: list[tuple[str, str]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._keys = [key for key, _ in stops]
        self.stops = [_Stop(title, stop_key(n), self) for n, (_, title) in enumerate(stops, 1)]
        self._current = 0
        for key, stop in zip(self._keys, self.stops, strict=True):
            stop.clicked.connect(partial(self.stop_chosen.emit, key))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Stops")
        self.set_current(self._keys[0])
        self._fit()
        theme.changed.connect(self._fit)

    def _fit(self) -> None:
        """As wide as the size of text asks."""
        self.setFixedWidth(scaled(RAIL_W))
        self._place()
        self.update()

    def _place(self) -> None:
        for index, stop in enumerate(self.stops):
            half = min(_HALF, int(self._pitch / 2))
            stop.setGeometry(0, self._y(index) - half, self.width() - 1, 2 * half)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place()

    def set_current(self, stop: str) -> None:
        """Show which stop the window is at."""
        index = self._current = self._keys.index(stop)
        self.stops[index].setChecked(True)
        title = self.stops[index].text()
        self.setAccessibleDescription(f"{title}, {index + 1} of {len(self.stops)}")

    @property
    def current(self) -> str:
        """The stop that the window is at."""
        return self._keys[self._current]

    def set_busy(self, stop: str, *, busy: bool) -> None:
        """Show that something is going at a stop."""
        shown = self.stops[self._keys.index(stop)]
        shown.is_busy = busy
        shown.update()

    def sizeHint(self) -> QSize:
        return QSize(scaled(RAIL_W), 2 * _LOW_TOP + scaled(_CLOSEST) * (len(self.stops) - 1))

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.fillRect(self.rect(), theme.colour("paper"))
            painter.setPen(QPen(theme.colour("line"), 1))
            painter.drawLine(self.width() - 1, 0, self.width() - 1, self.height())
            last = self._y(len(self.stops) - 1)
            painter.setPen(QPen(theme.colour("line"), 3))
            painter.drawLine(_LINE_X, self._y(0) - 10, _LINE_X, last + 10)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        elif 0 <= self._current + step < len(self.stops):
            self.stop_chosen.emit(self._keys[self._current + step])

    @property
    def _top(self) -> int:
        is_low = self.height() < 2 * _TOP + 2 * _HALF * (len(self.stops) - 1)
        return _LOW_TOP if is_low else _TOP

    @property
    def _pitch(self) -> float:
        """Closer together where the window is low."""
        room = (self.height() - 2 * self._top) / max(len(self.stops) - 1, 1)
        return max(min(_PITCH, room), scaled(_CLOSEST))

    def _y(self, index: int) -> int:
        return round(self._top + self._pitch * index)
