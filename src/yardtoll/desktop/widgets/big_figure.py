"""A figure that is read across the yard."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFontMetricsF, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from yardtoll.core.uncertainty.figure import Figure
from yardtoll.desktop.theme.fonts import SEMIBOLD, font
from yardtoll.desktop.widgets.basics import button, label
from yardtoll.running.live_figures import value_text, within_text

_BETWEEN = 5


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
        self._pixels = self._set_px = 0
        row = QHBoxLayout()
        row.setSpacing(_BETWEEN)
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
        """Height of the figure on the screen, whatever the size of text; less where it is long."""
        self._pixels = pixels
        self._value.setFixedHeight(int(pixels * 1.08))
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """No digit may be cut: a long figure is set smaller."""
        beside = [w for w in (self._unit, self.within_button) if not w.isHidden()]
        room = self.width() - sum(w.sizeHint().width() + _BETWEEN for w in beside)
        face = font(weight=SEMIBOLD)
        face.setPixelSize(self._pixels)
        wide = QFontMetricsF(face).horizontalAdvance(self._value.text())
        fitting = int(self._pixels * min(max(room, 1) / max(wide, 1.0), 1.0))
        if fitting != self._set_px:
            self._set_px = fitting
            self._value.setStyleSheet(f"font-size: {fitting}px; font-weight: 600;")

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
        self._fit()
        self.note.setText(note)
        self.setAccessibleName(f"{self._name}: {value} {self._unit.text()}")

    def _ask(self) -> None:
        self.budget_asked.emit(self._figure)
