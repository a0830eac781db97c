"""Go or no-go: one line a gate, those that ask with a box to tick."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QCheckBox, QGridLayout, QLabel, QWidget

from yardtoll.core.planning.checks import Gate, State
from yardtoll.desktop.widgets.basics import label, set_role

_SIGNS = {State.OPEN: "✓", State.NOTE: "!", State.ASKS: "?", State.SHUT: "✕"}
_ROLES = {State.OPEN: "", State.NOTE: "", State.ASKS: "unsure", State.SHUT: "bad"}


class GatesPanel(QWidget):
    """The gates of a start.

    Signals:
        ticked(key, is_on): the reviewer has confirmed something, or taken it back.
    """

    ticked = Signal(str, bool)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Go or no-go")
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnStretch(2, 1)
        self._keys: list[tuple[str, bool]] = []
        self._signs: list[QLabel] = []
        self._texts: list[QLabel] = []
        self.boxes: dict[str, QCheckBox] = {}

    def show_gates(self, gates: tuple[Gate, ...]) -> None:
        """Show how each gate stands; rows stay in place while the gates are the same."""
        rows = [(gate.key, gate.by_hand) for gate in gates]
        if rows != self._keys:
            self._build(rows)
        for gate, sign, text in zip(gates, self._signs, self._texts, strict=True):
            sign.setText(_SIGNS[gate.state])
            text.setText(gate.text)
            role = _ROLES[gate.state]
            for part, usual in ((sign, "strong"), (text, "")):
                if part.property("role") != (role or usual):
                    set_role(part, role or usual)
            if gate.key in self.boxes:
                self.boxes[gate.key].setAccessibleName(gate.text)

    def clear_ticks(self) -> None:
        """Untick everything, without telling."""
        for box in self.boxes.values():
            box.blockSignals(True)
            box.setChecked(False)
            box.blockSignals(False)

    def _build(self, rows: list[tuple[str, bool]]) -> None:
        was_on = {key for key, box in self.boxes.items() if box.isChecked()}
        while (item := self._grid.takeAt(0)) is not None:
            if widget := item.widget():
                widget.deleteLater()
        self._keys, self._signs, self._texts, self.boxes = rows, [], [], {}
        for row, (key, is_box) in enumerate(rows):
            sign = label("", "strong")
            sign.setFixedWidth(14)
            text = _Words()
            if is_box:
                box = QCheckBox()
                box.setChecked(key in was_on)
                box.toggled.connect(lambda on, k=key: self.ticked.emit(k, on))
                text.clicked.connect(box.toggle)
                self.boxes[key] = box
                self._grid.addWidget(box, row, 1, Qt.AlignmentFlag.AlignTop)
            self._grid.addWidget(sign, row, 0, Qt.AlignmentFlag.AlignTop)
            self._grid.addWidget(text, row, 2 if is_box else 1, 1, 1 if is_box else 2)
            self._signs.append(sign)
            self._texts.append(text)


class _Words(QLabel):
    """A gate's words; a click on them is one on their box.

    Signals:
        clicked: by the mouse.
    """

    clicked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setWordWrap(True)

    def mousePressEvent(self, _: QMouseEvent) -> None:
        self.clicked.emit()
