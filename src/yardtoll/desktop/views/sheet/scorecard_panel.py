"""The scorecard beside the sheet: each point with what it got, why, and a way to settle it."""

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from yardtoll.core.conformance.scorecard import SEEN_BY_EYE, Scored
from yardtoll.desktop.widgets.basics import ElidingButton, button, label, scrolled
from yardtoll.store.records import StoredScorePoint


class ScorecardPanel(QWidget):
    """Rows of points.

    Signals:
        seen_asked(quantity, question): note what was seen.
        edit_asked(point), add_asked: change the scorecard.
    """

    seen_asked = Signal(str, str)
    edit_asked = Signal(object)
    add_asked = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        self.sum_line = label("", "strong")
        layout.addWidget(self.sum_line)
        self._inner = QWidget()
        self._rows = QGridLayout(self._inner)
        self._rows.setContentsMargins(0, 0, 6, 0)
        self._rows.setHorizontalSpacing(8)
        self._rows.setVerticalSpacing(1)
        self._rows.setColumnStretch(1, 1)
        layout.addWidget(scrolled(self._inner), 1)
        row = QHBoxLayout()
        row.addWidget(button("Add a point…", self.add_asked.emit))
        row.addStretch(1)
        layout.addLayout(row)

    def show_points(
        self, points: Sequence[StoredScorePoint], scored: Sequence[Scored], words: str
    ) -> None:
        """Show every point of the yard's scorecard with what the station got."""
        self.sum_line.setText(words[:1].upper() + words[1:])
        while (item := self._rows.takeAt(0)) is not None:
            if widget := item.widget():
                widget.deleteLater()
        for index, (point, got) in enumerate(zip(points, scored, strict=True)):
            row = 2 * index
            figure = "–" if got.points is None else f"{got.points:g}"
            self._rows.addWidget(label(figure, "strong"), row, 0, Qt.AlignmentFlag.AlignTop)
            title = ElidingButton(point.title, "claim", f"Edit the point {point.title}")
            title.clicked.connect(lambda _=False, p=point: self.edit_asked.emit(p))
            self._rows.addWidget(title, row, 1)
            question = SEEN_BY_EYE.get(point.quantity)
            if question is not None:
                seen = button(
                    "Seen…",
                    partial(self.seen_asked.emit, point.quantity, question),
                    "link",
                    f"Note what was seen: {question}",
                )
                self._rows.addWidget(seen, row, 2)
            why = label(got.evidence, "muted", wrap=True)
            why.setIndent(5)
            self._rows.addWidget(why, row + 1, 1, 1, 2)
