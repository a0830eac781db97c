"""The checks before a start: one line each, pending ones with a box to tick."""

from collections.abc import Mapping
from itertools import count

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QGridLayout, QLabel, QWidget

from yardtoll.core.planning.checks import Check, CheckState
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.widgets.basics import PressedLabel, label, set_role

_SIGNS = {
    CheckState.PASSED: "✓",
    CheckState.NOTE: "!",
    CheckState.PENDING: "?",
    CheckState.FAILED: "✕",
}
_ROW_H = 20
"""Whatever the weight of its text: a tick moves no row below it."""
_ROLES = {
    CheckState.PASSED: "",
    CheckState.NOTE: "",
    CheckState.PENDING: "unsure",
    CheckState.FAILED: "bad",
}


class ChecksPanel(QWidget):
    """The checks of a start.

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
        self.texts: list[QLabel] = []
        self.boxes: dict[str, QCheckBox] = {}
        self._details: dict[str, QLabel] = {}

    def show_checks(
        self, checks: tuple[Check, ...], details: Mapping[str, str] | None = None
    ) -> None:
        """Show the state of each check; rows stay in place while the checks are the same.

        Args:
            details: what a check asks about, to be read where it is ticked, by its key.
        """
        rows = [(check.key, check.by_hand) for check in checks]
        if rows != self._keys:
            self._build(rows)
        for key, detail in self._details.items():
            detail.setText((details or {}).get(key, ""))
            detail.setVisible(bool(detail.text()))
        for check, sign, text in zip(checks, self._signs, self.texts, strict=True):
            sign.setText(_SIGNS[check.state])
            text.setText(check.text)
            role = _ROLES[check.state]
            for part, usual in ((sign, "strong"), (text, "")):
                if part.property("role") != (role or usual):
                    set_role(part, role or usual)
            if check.key in self.boxes:
                self.boxes[check.key].setAccessibleName(check.text)

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
        self._keys, self._signs, self.texts, self.boxes = rows, [], [], {}
        self._details = {}
        for row, (key, is_box) in zip(count(step=2), rows, strict=False):
            self._grid.setRowMinimumHeight(row, scaled(_ROW_H))
            sign = label("", "strong")
            sign.setFixedWidth(14)
            text = PressedLabel()
            if is_box:
                box = QCheckBox()
                box.setChecked(key in was_on)
                box.toggled.connect(lambda on, k=key: self.ticked.emit(k, on))
                text.clicked.connect(box.toggle)
                self.boxes[key] = box
                self._grid.addWidget(box, row, 1, Qt.AlignmentFlag.AlignTop)
                self._details[key] = label("", "quiet", wrap=True)
                self._grid.addWidget(self._details[key], row + 1, 1, 1, 2)
            self._grid.addWidget(sign, row, 0, Qt.AlignmentFlag.AlignTop)
            self._grid.addWidget(text, row, 2 if is_box else 1, 1, 1 if is_box else 2)
            self._signs.append(sign)
            self.texts.append(text)
