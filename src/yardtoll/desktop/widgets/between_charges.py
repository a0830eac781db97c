"""How long a recharge took from any state of charge to any other: two figures and an answer."""

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QSpinBox, QWidget

from yardtoll.core.charge.soc_times import EnergyCurve, SocReading, time_between
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import decimals_for, format_clock
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import display_step_budget
from yardtoll.desktop.widgets.basics import button, label
from yardtoll.desktop.widgets.wheel import CountBox

_LEAST_READINGS = 2


class BetweenCharges(QWidget):
    """From … % to … %: the time between by the display's readings, hidden without any.

    Signals:
        budget_asked(figure, budget): its ± was pressed.
    """

    budget_asked = Signal(str, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._readings: tuple[SocReading, ...] = ()
        self._curve: EnergyCurve | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 2, 0, 2)
        row.setSpacing(6)
        self.low = self._spin("From this state of charge")
        self.high = self._spin("To this state of charge")
        self.answer = label("")
        row.addWidget(label("By the display, from", "quiet"))
        row.addWidget(self.low)
        row.addWidget(label("to", "quiet"))
        row.addWidget(self.high)
        self.within = button("", self._ask, "figure", "The time's ±: where it comes from")
        self.within.setToolTip("Where the ± comes from")
        self._budget: Budget | None = None
        row.addWidget(self.answer)
        row.addWidget(self.within)
        row.addStretch(1)
        self.hide()

    def _spin(self, name: str) -> QSpinBox:
        spin = CountBox()
        spin.setRange(0, 100)
        spin.setSuffix(" %")
        spin.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        spin.setFixedWidth(58)
        spin.setAccessibleName(name)
        spin.valueChanged.connect(lambda _: self._answer())
        return spin

    def show_readings(
        self, readings: Sequence[SocReading], curve: EnergyCurve | None = None
    ) -> None:
        """Offer the times between these readings; other ones start at their whole range.

        Args:
            curve: what was drawn by when, of a power log.
        """
        self._curve = curve
        self.setVisible(len(readings) >= _LEAST_READINGS)
        if tuple(readings) != self._readings:
            self._readings = tuple(readings)
            if readings:
                self.low.setValue(round(min(r.soc for r in readings)))
                self.high.setValue(round(max(r.soc for r in readings)))
        self._answer()

    def _answer(self) -> None:
        self._budget = None
        try:
            found = time_between(self._readings, self.low.value(), self.high.value(), self._curve)
        except UnusableDataError as error:
            self.answer.setText(f"{str(error).capitalize()}.")
        else:
            self.answer.setText(format_clock(found.s))
            if found.plus_minus_s:
                self._budget = display_step_budget(found.plus_minus_s / 60, "min")
                u = self._budget.expanded
                self.within.setText(f"± {u:.{decimals_for(u)}f} min")
        self.within.setVisible(self._budget is not None)

    def _ask(self) -> None:
        span = f"From {self.low.value()} to {self.high.value()} % by the display"
        self.budget_asked.emit(f"{span}: {self.answer.text()}", self._budget)
