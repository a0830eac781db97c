"""A figure that is read across the yard."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from yardtoll.core.uncertainty.figure import Figure
from yardtoll.desktop.theme.fonts import SEMIBOLD, font, scaled
from yardtoll.desktop.widgets.basics import button, label
from yardtoll.running.live_figures import value_text, within_text


class BigFigure(QWidget):
    """One figure to be read from afar, its unit small beside it, a note below.

    Signals:
        budget_asked(figure): its ± was pressed.
    """

    budget_asked = Signal(object)

    def __init__(self, unit: str, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._name = name
        self._figure: Figure | None = None
        self._value, self._unit, self.note = label("–"), label(unit, "unit"), label("", "muted")
        row = QHBoxLayout()
        row.setSpacing(5)
        row.addWidget(self._value)
        row.addWidget(self._unit, 0, Qt.AlignmentFlag.AlignBottom)
        words = f"{name}: where the ± comes from"
        self.within_button = button("", self._ask, "figure", words)
        self.within_button.setObjectName("within")
        self.within_button.hide()
        row.addWidget(self.within_button, 0, Qt.AlignmentFlag.AlignBottom)
        row.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 4)
        layout.setSpacing(0)
        layout.addLayout(row)
        layout.addWidget(self.note)
        self.set_size(78)

    def set_size(self, pixels: int) -> None:
        """Height of the figure."""
        self._value.setFont(font(pixels, SEMIBOLD))
        self._value.setStyleSheet(f"font-size: {scaled(pixels)}px; font-weight: 600;")
        self._value.setFixedHeight(scaled(pixels * 1.08))

    def show_figure(self, figure: Figure | None, note: str) -> None:
        """Show a figure, with its ± where that is known."""
        self._figure = figure
        within = within_text(figure)
        self.within_button.setVisible(bool(within))
        self.within_button.setText(within)
        self.show_text(value_text(figure), note)

    def show_text(self, value: str, note: str) -> None:
        """Show what is no measured figure, such as a time."""
        self._value.setText(value)
        self.note.setText(note)
        self.setAccessibleName(f"{self._name}: {value} {self._unit.text()}")

    def _ask(self) -> None:
        self.budget_asked.emit(self._figure)
