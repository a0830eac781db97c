"""A small form: named fields, one sentence where something does not fit, accept or cancel."""

from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from yardtoll.desktop.widgets.basics import label

_MIN_W = 430
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


class FormDialog(QDialog):
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
        outer = QVBoxLayout(self)
        outer.setContentsMargins(22, 18, 22, 16)
        outer.setSpacing(12)
        outer.addWidget(label(title, "title"))
        self.rows = QFormLayout()
        self.rows.setHorizontalSpacing(14)
        self.rows.setVerticalSpacing(9)
        outer.addLayout(self.rows)
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

    def _try(self) -> None:
        said = self.wrong()
        self.wrong_label.setText(said)
        self.wrong_label.setVisible(bool(said))
        if not said:
            self.accept()

    def remove_button(self) -> None:
        self.removed = True
        self.accept()
