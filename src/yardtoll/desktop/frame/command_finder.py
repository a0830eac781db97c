"""The finder: type a few letters of anything there is, or that can be done."""

from collections.abc import Mapping, Sequence

from PySide6.QtCore import (
    QAbstractListModel,
    QCoreApplication,
    QEvent,
    QModelIndex,
    QObject,
    QPersistentModelIndex,
    QPoint,
    QRect,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QKeyEvent, QPainter, QPalette
from PySide6.QtWidgets import (
    QFrame,
    QLineEdit,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from yardtoll.desktop.frame.finding import Findable, ranked
from yardtoll.desktop.theme.fonts import font
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import SMALL_PX, TEXT_PX
from yardtoll.desktop.widgets.basics import label

_SIZE = QSize(600, 420)
_EDGE, _ROW_GAP = 10, 14
_Index = QModelIndex | QPersistentModelIndex


class CommandFinder(QFrame):
    """A list over the window, narrowed by typing; Enter does the chosen thing.

    Signals:
        used(key): one was chosen.
    """

    used = Signal(str)

    def __init__(self, window: QWidget) -> None:
        super().__init__(window, Qt.WindowType.Popup)
        self.setObjectName("finder")
        self._window = window
        self._all: Sequence[Findable] = ()
        self._uses: Mapping[str, int] = {}
        self.line = QLineEdit()
        self.line.setPlaceholderText("An action, a station, a run, a claim…")
        self.line.setAccessibleName("Find anything")
        self.line.setClearButtonEnabled(True)
        self._list = QListView()
        self._list.setEditTriggers(QListView.EditTrigger.NoEditTriggers)
        self._list.setAccessibleName("Found")
        self._list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._list.setItemDelegate(_Row(self))
        self._list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._model = _Found(self)
        self._list.setModel(self._model)
        self.nothing = label("Nothing is called that.", "muted")
        within = QVBoxLayout(self._list.viewport())
        within.addWidget(self.nothing, 0, Qt.AlignmentFlag.AlignTop)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 10, 10, 10)
        layout.addWidget(self.line)
        layout.addWidget(self._list)
        self.line.textChanged.connect(self._narrow)
        self.line.installEventFilter(self)
        self._list.clicked.connect(lambda _: self._do())

    def open_with(self, everything: Sequence[Findable], uses: Mapping[str, int]) -> None:
        """Show the finder with what there is now."""
        self._all, self._uses = everything, uses
        self.line.clear()
        self._narrow("")
        room = self._window.size() - QSize(40, 60)
        self.resize((_SIZE * theme.scale).boundedTo(room))
        corner = self._window.mapToGlobal(
            QPoint((self._window.width() - self.width()) // 2, min(90, self._window.height() // 8))
        )
        self.move(corner)
        self.show()
        self.line.setFocus()

    def found(self) -> list[str]:
        """The texts in the list."""
        return [found.text for found in self._model.rows]

    def chosen(self) -> str:
        """The text of the one that Enter does; "" where nothing was found."""
        found = self._list.currentIndex().data()
        return found if isinstance(found, str) else ""

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            key = Qt.Key(event.key())
            if key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                self._move(1 if key is Qt.Key.Key_Down else -1)
                return True
            if key in (Qt.Key.Key_PageDown, Qt.Key.Key_PageUp):
                QCoreApplication.sendEvent(self._list, event)
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._do()
                return True
        return super().eventFilter(watched, event)

    def _narrow(self, words: str) -> None:
        self._model.show_rows(ranked(self._all, words, self._uses))
        self._list.setCurrentIndex(self._model.index(0))
        self.nothing.setVisible(not self._model.rows)

    def _move(self, step: int) -> None:
        row = self._list.currentIndex().row() + step
        self._list.setCurrentIndex(self._model.index(row % max(len(self._model.rows), 1)))

    def _do(self) -> None:
        row = self._list.currentIndex().row()
        if 0 <= row < len(self._model.rows):
            chosen = self._model.rows[row]
            self.hide()
            self.used.emit(chosen.key)
            chosen.do()


class _Found(QAbstractListModel):
    """What was found, in order."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.rows: list[Findable] = []

    def show_rows(self, rows: list[Findable]) -> None:
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not index.isValid():
            return None
        found = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return found.text
        if role == Qt.ItemDataRole.UserRole:
            return found
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return ", ".join(part for part in (found.text, found.kind, found.hint) if part)
        return None


class _Row(QStyledItemDelegate):
    """The text to the left; what it is, and its key, muted to the right."""

    def sizeHint(self, option: QStyleOptionViewItem, index: _Index) -> QSize:  # noqa: ARG002
        return QSize(0, round(TEXT_PX * theme.scale) + _ROW_GAP)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        found = index.data(Qt.ItemDataRole.UserRole)
        assert isinstance(found, Findable)
        palette: QPalette = option.palette
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(option.rect, theme.colour("sunk"))
        else:
            painter.fillRect(option.rect, palette.base())
        inside: QRect = option.rect.adjusted(_EDGE, 0, -_EDGE, 0)
        said = "  ·  ".join(part for part in (found.hint, found.kind) if part)
        painter.setFont(font(SMALL_PX))
        painter.setPen(theme.colour("muted"))
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        half = painter.fontMetrics().elidedText(
            said, Qt.TextElideMode.ElideRight, inside.width() // 2
        )
        painter.drawText(inside, flags, half)
        room = inside.width() - painter.fontMetrics().horizontalAdvance(half) - 2 * _EDGE
        painter.setFont(font(TEXT_PX))
        painter.setPen(theme.colour("ink"))
        text = painter.fontMetrics().elidedText(found.text, Qt.TextElideMode.ElideRight, room)
        painter.drawText(inside, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)
        painter.restore()
