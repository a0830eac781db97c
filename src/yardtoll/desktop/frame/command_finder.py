"""The command finder: type a few letters of anything the program can do."""

from PySide6.QtCore import QEvent, QObject, QPoint, QStringListModel, Qt
from PySide6.QtGui import QAction, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QFrame, QLineEdit, QListView, QVBoxLayout, QWidget

_WIDTH, _HEIGHT = 520, 380


def matches(words: str, text: str) -> bool:
    """Whether the text contains every word typed."""
    low = text.lower()
    return all(word in low for word in words.lower().split())


class CommandFinder(QFrame):
    """A list over the window, narrowed by typing; Enter does the chosen action.

    Args:
        actions: called each time it opens, so that what cannot be done now is not offered.
    """

    def __init__(self, window: QWidget) -> None:
        super().__init__(window, Qt.WindowType.Popup)
        self._window = window
        self._actions: list[QAction] = []
        self._shown: list[QAction] = []
        self.line = QLineEdit()
        self.line.setPlaceholderText("What would you like to do?")
        self.line.setAccessibleName("Find an action")
        self.line.setClearButtonEnabled(True)
        self._list = QListView()
        self._list.setEditTriggers(QListView.EditTrigger.NoEditTriggers)
        self._list.setAccessibleName("Actions found")
        self._list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._model = QStringListModel(self)
        self._list.setModel(self._model)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 10, 10, 10)
        layout.addWidget(self.line)
        layout.addWidget(self._list)
        self.resize(_WIDTH, _HEIGHT)
        self.line.textChanged.connect(self._narrow)
        self.line.installEventFilter(self)
        self._list.clicked.connect(lambda _: self._do())

    def open_with(self, actions: list[QAction]) -> None:
        """Show the finder with what can be done now."""
        self._actions = [a for a in actions if a.isEnabled() and a.text()]
        self.line.clear()
        self._narrow("")
        corner = self._window.mapToGlobal(
            QPoint((self._window.width() - self.width()) // 2, min(90, self._window.height() // 8))
        )
        self.move(corner)
        self.show()
        self.line.setFocus()

    def found(self) -> list[str]:
        """The texts in the list."""
        return self._model.stringList()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            key = Qt.Key(event.key())
            if key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                self._move(1 if key is Qt.Key.Key_Down else -1)
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._do()
                return True
        return super().eventFilter(watched, event)

    def _narrow(self, words: str) -> None:
        self._shown = [a for a in self._actions if matches(words, _text(a))]
        self._model.setStringList([_text(a) for a in self._shown])
        self._list.setCurrentIndex(self._model.index(0))

    def _move(self, step: int) -> None:
        row = (self._list.currentIndex().row() + step) % max(len(self._shown), 1)
        self._list.setCurrentIndex(self._model.index(row))

    def _do(self) -> None:
        row = self._list.currentIndex().row()
        if 0 <= row < len(self._shown):
            action = self._shown[row]
            self.hide()
            action.trigger()


def _text(action: QAction) -> str:
    keys = action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
    name = action.text().replace("&", "")
    return f"{name}    {keys}" if keys else name
