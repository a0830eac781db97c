"""The part of a dialog that is as large as what is in it, and scrolls on a screen too small."""

from PySide6.QtCore import QEvent, QObject, QSize
from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import QLayout, QScrollArea, QStyle

from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.widgets.least_high import LeastHigh, item_height

_AROUND = QSize(64, 48)
"""Of a window manager's frame and a dialog's margins, in pixels."""
_USUALLY_TAKEN = 120
"""By a dialog's title and buttons, in pixels of usual text, where this part is deeper inside."""


class RoomyArea(QScrollArea):
    """Grows with what is in it as far as the screen has room for the dialog around it.

    Args:
        content: what is in it.
    """

    def __init__(self, content: QLayout) -> None:
        super().__init__()
        self._page = LeastHigh()
        self._page.setLayout(content)
        content.setContentsMargins(0, 0, 0, 0)
        self._was_taken = 0
        self.setWidgetResizable(True)
        self.setWidget(self._page)

    @property
    def room(self) -> QSize:
        """What the screen and the rest of the dialog leave for it."""
        free = self.screen().availableGeometry().size() - _AROUND
        return free - QSize(0, self._taken())

    def sizeHint(self) -> QSize:
        return self._with_bar(self._page.sizeHint())

    def minimumSizeHint(self) -> QSize:
        layout = self._page.layout()
        assert layout is not None
        least = layout.totalMinimumSize()
        if layout.hasHeightForWidth():
            width = max(self.viewport().width(), least.width())
            least.setHeight(self._page.heightForWidth(width))
        return self._with_bar(least)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.window().installEventFilter(self)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self.updateGeometry()  # words wrap otherwise now

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.LayoutRequest:
            taken = self._taken()
            if watched is self._page or taken != self._was_taken:
                self._was_taken = taken
                self.updateGeometry()
        return watched is not self.window() and super().eventFilter(watched, event)

    def _with_bar(self, wanted: QSize) -> QSize:
        bar = self.style().pixelMetric(QStyle.PixelMetric.PM_ScrollBarExtent)
        beside = bar if wanted.height() > self.room.height() else 0
        return (wanted + QSize(beside, 0)).boundedTo(self.room)

    def _taken(self) -> int:
        """Height of all else in the dialog, in pixels."""
        outer = self.window().layout()
        if outer is None or outer.indexOf(self) < 0:
            return scaled(_USUALLY_TAKEN)
        items = [item for i in range(outer.count()) if (item := outer.itemAt(i)) is not None]
        others = [item for item in items if item.widget() is not self and not item.isEmpty()]
        margins, width = outer.contentsMargins(), self.width()
        heights = sum(item_height(item, width) for item in others)
        return heights + margins.top() + margins.bottom() + len(others) * outer.spacing()
