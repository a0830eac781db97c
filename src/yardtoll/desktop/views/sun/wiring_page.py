"""Before anything is plugged in: the window of volts, what to check, a measured Voc."""

from PySide6.QtWidgets import QBoxLayout, QVBoxLayout, QWidget

from yardtoll.core.methods import METHODS
from yardtoll.core.sun.array_check import Connect
from yardtoll.desktop.views.sun.volts_window import VoltsWindow
from yardtoll.desktop.widgets.basics import (
    label,
    number_box,
    scrolled,
    set_role,
)
from yardtoll.desktop.widgets.kept_grid import KeptGrid, hanging
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.review.sun.wiring import WiringPage, measured_words

_METHOD = next(m for m in METHODS.values() if m.uses_panels)
_STEPS = (
    "Lay the panels face down, or cover them, before any plug is touched.",
    "Uncover, and measure the open-circuit volts and the polarity at the plug.",
    "Only if both are right: cover again, plug in, uncover.",
    "Unplug under cover as well: these plugs are not switches.",
)


class WiringPanel(QWidget):
    """The array check of one station's input.

    Attributes:
        row, side: picture and words, beside each other or not; the words' area.
    """

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.page: WiringPage | None = None
        layout = self.row = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(26)
        self.window_of_volts = VoltsWindow()
        layout.addWidget(self.window_of_volts, 6)
        side = QWidget()
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 10, 0)
        column.setSpacing(10)
        self._facts = KeptGrid(spacing=(10, 5))
        self._facts.grid.setColumnStretch(1, 1)
        self._never = label("Take a panel out of the series before you go on.", "bad", wrap=True)
        column.addWidget(label("Before you connect", "heading"))
        column.addWidget(self._facts)
        column.addWidget(self._never)
        column.addLayout(self._make_measured())
        self.said = label("", "quiet", wrap=True)
        column.addWidget(self.said)
        column.addWidget(label("Step by step", "heading"))
        steps = KeptGrid(spacing=(10, 5))
        steps.grid.setColumnStretch(1, 1)
        steps.show_cells(hanging((f"{i}.", s) for i, s in enumerate(_STEPS, 1)))
        column.addWidget(steps)
        cautions = label(" ".join(_METHOD.cautions), "warning", wrap=True)
        column.addWidget(cautions)
        self.side = scrolled(side)
        layout.addWidget(self.side, 5)

    def _make_measured(self) -> WrappedRow:
        row = WrappedRow(8)
        self.measured_v = number_box("Measured open-circuit volts", "V", 0, 1500, 0, 1)
        self.measured_v.setSpecialValueText("not measured")
        self.cell_c = number_box("Temperature of the panels", "°C", -40, 100, 25)
        self.measured_v.valueChanged.connect(lambda _: self._judge())
        self.cell_c.valueChanged.connect(lambda _: self._judge())
        row.addWidget(label("Measured Voc", "muted"))
        row.addWidget(self.measured_v)
        row.add_together(label("panels at", "muted"), self.cell_c)
        return row

    def show_page(self, page: WiringPage) -> None:
        """Show an array check."""
        self.page = page
        self.window_of_volts.setVisible(bool(page.air_c))
        self.window_of_volts.show_page(page)
        self._facts.show_cells(hanging(page.facts, role=""))
        self._never.setVisible(page.verdict is Connect.NEVER)
        self._judge()

    def _judge(self) -> None:
        if self.page is None or not self.measured_v.value():
            self.said.setText(
                "A voltmeter at the plug shows how many panels are really in series: type what it "
                "shows."
            )
            set_role(self.said, "quiet")
            return
        words, wrong = measured_words(self.page, self.measured_v.value(), self.cell_c.value())
        self.said.setText(words)
        set_role(self.said, "bad" if wrong else "quiet")
