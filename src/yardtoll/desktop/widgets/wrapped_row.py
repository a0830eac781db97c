"""A row of tabs or buttons that goes on in another line where it is too long for one."""

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtWidgets import QHBoxLayout, QLayout, QLayoutItem, QWidget

_BETWEEN_LINES = 6

Sized = list[tuple[QLayoutItem, QSize]]


class WrappedRow(QLayout):
    """Widgets from left to right; with large text, or in a narrow window, in several lines."""

    def __init__(self, spacing: int) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._right_from: int | None = None
        self._known_hidden: list[bool] = []
        self._known_shown: Sized | None = None
        self._known_lines: dict[int, list[Sized]] = {}
        self.setSpacing(spacing)
        self.setContentsMargins(0, 0, 0, 0)

    def add_together(self, *widgets: QWidget) -> None:
        """Such as a word and its box: they stay beside each other."""
        together = QHBoxLayout()
        together.setSpacing(self.spacing())
        for widget in widgets:
            together.addWidget(widget)
        self.addChildLayout(together)
        self.addItem(together)

    def rest_to_the_right(self) -> None:
        """What is added from now on is at the right end, while all fits in one line."""
        self._right_from = len(self._items)

    def invalidate(self) -> None:
        """Qt asks for the same sizes many times until what is in the row changes."""
        self._known_shown = None
        self._known_lines.clear()
        super().invalidate()

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)
        self.invalidate()

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        if not 0 <= index < len(self._items):
            return None
        self.invalidate()
        return self._items.pop(index)

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        heights = [max(size.height() for _, size in line) for line in self._lines(width)]
        return sum(heights) + _BETWEEN_LINES * max(len(heights) - 1, 0)

    def sizeHint(self) -> QSize:
        sizes = [size for _, size in self._shown()]
        width = sum(size.width() + self.spacing() for size in sizes) - self.spacing()
        return QSize(max(width, 0), max((size.height() for size in sizes), default=0))

    def minimumSize(self) -> QSize:
        sizes = [item.minimumSize() for item, _ in self._shown()]
        return QSize(
            max((size.width() for size in sizes), default=0),
            max((size.height() for size in sizes), default=0),
        )

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        lines = self._lines(rect.width())
        top = rect.top()
        for line in lines:
            height = max(size.height() for _, size in line)
            left, spare = rect.left(), rect.width() - self._width(line)
            right_from = len(self._items) if len(lines) > 1 else self._right_from
            for item, size in line:
                if right_from is not None and self._items.index(item) >= right_from:
                    left, spare = left + max(spare, 0), 0
                at = QRect(left, top + (height - size.height()) // 2, size.width(), size.height())
                item.setGeometry(at)
                left += size.width() + self.spacing()
            top += height + _BETWEEN_LINES

    def _shown(self) -> Sized:
        """What is not hidden, with the size it asks for."""
        # A widget that is hidden is told of in a later turn.
        hidden = [item.isEmpty() for item in self._items]
        if hidden != self._known_hidden or self._known_shown is None:
            self._known_hidden = hidden
            self._known_lines.clear()
            self._known_shown = [
                (item, _asked(item))
                for item, is_hidden in zip(self._items, hidden, strict=True)
                if not is_hidden
            ]
        return self._known_shown

    def _width(self, line: Sized) -> int:
        return sum(size.width() for _, size in line) + self.spacing() * (len(line) - 1)

    def _lines(self, width: int) -> list[Sized]:
        shown = self._shown()
        if width not in self._known_lines:
            self._known_lines[width] = self._broken_into_lines(shown, width)
        return self._known_lines[width]

    def _broken_into_lines(self, shown: Sized, width: int) -> list[Sized]:
        squeezed = _squeezed(shown, width - self.spacing() * (len(shown) - 1))
        if squeezed:
            return [squeezed]
        lines: list[Sized] = []
        for item, size in shown:
            fitted = QSize(min(size.width(), max(width, item.minimumSize().width())), size.height())
            if lines and self._width([*lines[-1], (item, fitted)]) <= width:
                lines[-1].append((item, fitted))
            else:
                lines.append([(item, fitted)])
        return lines


def _squeezed(shown: Sized, width: int) -> Sized:
    """All in one line, lists and fields narrower than they ask for; nothing where that won't do."""
    least = [min(item.minimumSize().width(), size.width()) for item, size in shown]
    spare = width - sum(least)
    asked = sum(size.width() for _, size in shown) - sum(least)
    if not shown or spare < 0:
        return []
    share = min(spare / asked, 1.0) if asked else 0.0
    return [
        (item, QSize(low + int(share * (size.width() - low)), size.height()))
        for (item, size), low in zip(shown, least, strict=True)
    ]


def _asked(item: QLayoutItem) -> QSize:
    widget: QWidget | None = item.widget()
    if widget is not None:
        # Before it is styled it may have the size of a widget that was where it is in memory.
        widget.ensurePolished()
    size = item.sizeHint().expandedTo(item.minimumSize())
    return size.boundedTo(widget.maximumSize()) if widget is not None else size
