"""A small form: named fields, one sentence where something does not fit, accept or cancel."""

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QAbstractSpinBox,
    QComboBox,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from yardtoll.desktop.widgets.basics import label
from yardtoll.desktop.widgets.help_window import HelpedDialog
from yardtoll.desktop.widgets.roomy_area import RoomyArea

_MIN_W = 430
_FIELDS = (QLineEdit, QComboBox, QAbstractSpinBox, QPlainTextEdit, QTextEdit, QAbstractItemView)
_LONGEST_NAME = 120


def name_is_wrong(name: str, taken: set[str]) -> str:
    """Why a name will not do, "" if it will."""
    if not name:
        return "Give it a name."
    if len(name) > _LONGEST_NAME:
        return f"The name is longer than {_LONGEST_NAME} characters."
    if name.casefold() in {other.casefold() for other in taken}:
        return f"There is already one called {name}."
    return ""


class FormDialog(HelpedDialog):
    """Base of the record dialogs; subclasses add rows and say what is wrong.

    Attributes:
        removed: True when the user asked to remove what is edited.
    """

    def __init__(
        self,
        title: str,
        accept_text: str,
        parent: QWidget | None = None,
        *,
        removable: bool = False,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(_MIN_W)
        self.removed = False
        self._is_ready = False
        outer = QVBoxLayout(self)
        outer.setContentsMargins(22, 18, 22, 16)
        outer.setSpacing(12)
        outer.addWidget(label(title, "title"))
        self.rows = QFormLayout()
        self.rows.setHorizontalSpacing(14)
        self.rows.setVerticalSpacing(9)
        outer.addWidget(RoomyArea(self.rows), 1)
        self.wrong_label = label("", "bad", wrap=True)
        self.wrong_label.hide()
        outer.addWidget(self.wrong_label)
        buttons = QDialogButtonBox()
        self.accept_button = buttons.addButton(accept_text, QDialogButtonBox.ButtonRole.AcceptRole)
        self.accept_button.setProperty("role", "primary")
        self.accept_button.setDefault(True)
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        self.remove: QPushButton = buttons.addButton(
            "Remove", QDialogButtonBox.ButtonRole.DestructiveRole
        )
        self.remove.clicked.connect(self.remove_button)
        self.remove.setVisible(removable)
        buttons.accepted.connect(self._try)
        buttons.rejected.connect(self.reject)
        outer.addWidget(buttons)

    def wrong(self) -> str:
        """What does not fit, in one sentence; "" when all does."""
        return ""

    def line(self, text: str, value: str = "", hint: str = "") -> QLineEdit:
        """Add a row with one line of text."""
        field = QLineEdit(value)
        field.setPlaceholderText(hint)
        field.setAccessibleName(text)
        self.rows.addRow(text, field)
        return field

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._is_ready:
            return
        self._is_ready = True
        if not isinstance(self.focusWidget(), _FIELDS) and (first := self._first_field()):
            first.setFocus(Qt.FocusReason.OtherFocusReason)
        for field in self.findChildren(QLineEdit):
            field.installEventFilter(self)
        for box in self.findChildren(QComboBox):
            if box.isEditable() and (line := box.lineEdit()) is not None:
                line.returnPressed.connect(self._try)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Keys of the window's stops type nothing into a field."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            return event.modifiers() == Qt.KeyboardModifier.AltModifier and event.text().isdigit()
        return super().eventFilter(watched, event)

    def _first_field(self) -> QWidget | None:
        """The first field from the top that can be filled in."""
        for row in range(self.rows.rowCount()):
            item = self.rows.itemAt(row, QFormLayout.ItemRole.FieldRole) or self.rows.itemAt(
                row, QFormLayout.ItemRole.SpanningRole
            )
            widget = item.widget() if item is not None else None
            if isinstance(widget, _FIELDS) and widget.isVisible() and widget.isEnabled():
                return widget
        return None

    def _try(self) -> None:
        if not self.isVisible():
            return
        said = self.wrong()
        self.wrong_label.setText(said)
        self.wrong_label.setVisible(bool(said))
        if not said:
            self.accept()

    def remove_button(self) -> None:
        self.removed = True
        self.accept()
