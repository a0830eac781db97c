"""Small pieces every view is put together from."""

from collections.abc import Callable
from html import escape

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.line_breaks import held_together, plain
from yardtoll.desktop.widgets.number_box import NumberBox
from yardtoll.desktop.widgets.wheel import ChoiceBox
from yardtoll.manual.book import explained
from yardtoll.store.shown_region import shown

_SHORT = 60
"""Longer texts are sentences; their words are not looked up."""
KEYBOARD_REASONS = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
"""Drawn widgets show their focus ring to who came by keyboard, as others need none."""


class ShownLabel(QLabel):
    """A text in the units and with the decimal sign of the user's region.

    No line of it ends between a figure and its unit.
    """

    def __init__(self, text: str = "") -> None:
        super().__init__(held_together(shown(text)))
        self._explained = ""
        self._explain(text)

    def setText(self, text: str) -> None:
        words = held_together(shown(text))
        if words != super().text():  # live views say most of their words again and again
            super().setText(words)
            self._explain(text)

    def text(self) -> str:
        return plain(super().text())

    def _explain(self, text: str) -> None:
        """Terms of the glossary as a tool tip, unless it has one of its own."""
        if len(text) <= _SHORT and self.toolTip() == self._explained:
            found = explained(text)
            if found != self._explained:
                self._explained = found
                self.setToolTip(found)


class PressedLabel(ShownLabel):
    """Words beside a box; a click on them is one on the box.

    Signals:
        clicked: by the mouse.
    """

    clicked = Signal()

    def __init__(self, text: str = "") -> None:
        super().__init__(text)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setWordWrap(True)

    def mousePressEvent(self, _: QMouseEvent) -> None:
        self.clicked.emit()


class ShownButton(QPushButton):
    """A button whose words are in the units and with the decimal sign of the user's region."""

    def __init__(self, text: str = "") -> None:
        super().__init__(shown(text))
        self._said = text

    def setText(self, text: str) -> None:
        super().setText(shown(text))
        if self.accessibleName() == self._said:  # it has no name of its own
            self.setAccessibleName(text)
        self._said = text


def label(text: str = "", role: str = "", *, wrap: bool = False) -> QLabel:
    """A text; never rich text, since names come from users and files."""
    made = ShownLabel(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setWordWrap(wrap)
    if role:
        made.setProperty("role", role)
    return made


def plain_tip(text: str) -> str:
    """A tool tip that shows a name or text from a file as it is: Qt takes markup for its own."""
    text = shown(text)
    return f"<qt>{escape(text)}</qt>" if "<" in text or "&" in text else text


def set_role(widget: QWidget, role: str) -> None:
    """Change which style rule a widget falls under."""
    widget.setProperty("role", role)
    widget.style().unpolish(widget)
    widget.style().polish(widget)


def button(
    text: str, pressed: Callable[[], object] | None = None, role: str = "", name: str = ""
) -> QPushButton:
    """A push button; ``name`` is its accessible name where the text alone does not say enough."""
    made = ShownButton(text)
    made.setAutoDefault(False)
    if role:
        made.setProperty("role", role)
    if pressed is not None:
        # The signal's "checked" is not for the callee.
        made.clicked.connect(lambda _=False: pressed())
    made.setAccessibleName(name or text)
    return made


class ElidingButton(QPushButton):
    """A flat button whose words are cut with an ellipsis where the place is narrow."""

    def __init__(self, text: str, role: str, name: str) -> None:
        super().__init__()
        self._full = shown(text)
        self.setAutoDefault(False)
        self.setProperty("role", role)
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.setText(self._full)

    def set_full_text(self, text: str) -> None:
        """Show other words."""
        text = shown(text)
        if text != self._full:
            self._full = text
            self._elide()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._elide()

    def _elide(self) -> None:
        room = self.width() - 14
        self.setText(self.fontMetrics().elidedText(self._full, Qt.TextElideMode.ElideRight, room))


def rule() -> QFrame:
    """A hairline."""
    made = QFrame()
    made.setProperty("role", "rule")
    return made


def number_box(
    name: str, unit: str, low: float, high: float, value: float, decimals: int = 0
) -> NumberBox:
    """A number with its unit."""
    box = NumberBox(unit, decimals)
    box.setRange(low, high)
    box.setValue(value)
    box.setAccessibleName(name)
    box.setKeyboardTracking(False)
    box.lineEdit().setAccessibleName(name)  # where the keys go; a reader may stop there
    # The style sheet's padding does not reach the field inside.
    box.lineEdit().setTextMargins(7, 0, 0, 0)
    return box


def choice(name: str, items: list[tuple[str, object]] | None = None) -> QComboBox:
    """A choice of named things."""
    box = ChoiceBox()
    box.setAccessibleName(name)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(14)
    for text, data in items or ():
        box.addItem(shown(text), data)
    return box


def let_type(box: QComboBox) -> None:
    """Let other words be typed into a named choice."""
    box.setEditable(True)
    line = box.lineEdit()
    if line is not None:
        line.setAccessibleName(box.accessibleName())


def refill(box: QComboBox, items: list[tuple[str, object]]) -> None:
    """Replace a choice's items, keeping what is chosen where it is still there."""
    chosen = box.currentData()
    box.blockSignals(True)
    box.clear()
    for text, data in items:
        box.addItem(shown(text), data)
    position = next((i for i in range(box.count()) if box.itemData(i) == chosen), -1)
    box.setCurrentIndex(max(position, 0) if items else -1)
    box.blockSignals(False)


def scrolled(widget: QWidget) -> QScrollArea:
    """A widget of its own height at the top of an area that scrolls downwards.

    It scrolls sideways too where the place is narrower than the widget can be: nothing is cut.
    """
    holder = QWidget()
    inner = QVBoxLayout(holder)
    inner.setContentsMargins(0, 0, 0, 0)
    inner.addWidget(widget)
    inner.addStretch(1)
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setWidget(holder)
    return area
