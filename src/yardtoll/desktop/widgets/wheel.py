"""Fields that the wheel changes only where the keys go: it scrolls the page over all others.

A setting of a run that was changed by scrolling past it would go unnoticed.
"""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QComboBox, QDateEdit, QSpinBox, QTimeEdit, QWidget

if TYPE_CHECKING:
    _Base = QWidget
else:
    _Base = object


class ScrolledPast(_Base):
    """Comes before the toolkit's class; call ``let_pass`` once it is made."""

    def let_pass(self) -> None:
        """Have no wheel put the focus here."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.hasFocus():
            super().wheelEvent(event)
        else:
            event.ignore()


class ChoiceBox(ScrolledPast, QComboBox):
    """A choice of named things."""

    def __init__(self) -> None:
        super().__init__()
        self.let_pass()


class CountBox(ScrolledPast, QSpinBox):
    """A whole number."""

    def __init__(self) -> None:
        super().__init__()
        self.let_pass()


class DayField(ScrolledPast, QDateEdit):
    """A date."""

    def __init__(self) -> None:
        super().__init__()
        self.let_pass()


class HourField(ScrolledPast, QTimeEdit):
    """A time of day."""

    def __init__(self) -> None:
        super().__init__()
        self.let_pass()
