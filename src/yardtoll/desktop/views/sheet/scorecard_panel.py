"""The scorecard beside the sheet: each point with what it got, why, and a way to settle it."""

from collections.abc import Iterator, Sequence
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QMenu, QVBoxLayout, QWidget

from yardtoll.core.conformance.scorecard import SEEN_BY_EYE, Scored
from yardtoll.desktop.widgets.basics import button, label, scrolled
from yardtoll.desktop.widgets.kept_grid import TOP, Cell, KeptGrid
from yardtoll.store.records import StoredScorePoint


class ScorecardPanel(QWidget):
    """Rows of points.

    Signals:
        seen_asked(quantity, question): note what was seen.
        edit_asked(point), add_asked: change the scorecard.
        templates_asked(menu): fill the menu of scorecards that are kept under a name.
    """

    seen_asked = Signal(str, str)
    edit_asked = Signal(object)
    add_asked = Signal()
    templates_asked = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        self.sum_line = label("", "strong")
        layout.addWidget(self.sum_line)
        self._rows = KeptGrid(spacing=(8, 1))
        self._rows.grid.setContentsMargins(0, 0, 6, 0)
        self._rows.grid.setColumnStretch(1, 1)
        layout.addWidget(scrolled(self._rows), 1)
        row = QHBoxLayout()
        row.addWidget(button("Add a point…", self.add_asked.emit))
        self.templates = QMenu(self)
        self.templates.aboutToShow.connect(lambda: self.templates_asked.emit(self.templates))
        templates = button("Templates ▾", name="Scorecards kept under a name")
        templates.setMenu(self.templates)
        row.addWidget(templates)
        row.addStretch(1)
        layout.addLayout(row)

    def show_points(
        self, points: Sequence[StoredScorePoint], scored: Sequence[Scored], words: str
    ) -> None:
        """Show every point of the yard's scorecard with what the station got."""
        self.sum_line.setText(words[:1].upper() + words[1:])
        cells: list[Cell] = []
        for index, (point, got) in enumerate(zip(points, scored, strict=True)):
            cells += self._row(2 * index, point, got)
        self._rows.show_cells(cells)

    def _row(self, row: int, point: StoredScorePoint, got: Scored) -> Iterator[Cell]:
        """Points and title, with the evidence below."""
        figure = "–" if got.points is None else f"{got.points:g}"
        yield Cell(row=row, column=0, text=figure, role="strong", align=TOP)
        yield Cell(
            row=row, column=1, text=point.title, role="claim", eliding=True,
            pressed=partial(self.edit_asked.emit, point), name=f"Edit the point {point.title}",
        )  # fmt: skip
        question = SEEN_BY_EYE.get(point.quantity)
        if question is not None:
            asked = partial(self.seen_asked.emit, point.quantity, question)
            name = f"Note what was seen: {question}"
            yield Cell(row=row, column=2, text="Seen…", role="link", pressed=asked, name=name)
        yield Cell(
            row=row + 1, column=1, columns=2, text=got.evidence, role="muted", wrap=True, indent=5
        )
