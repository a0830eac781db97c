"""A field for a number with its unit: shown in the region's, typed in any."""

from PySide6.QtGui import QValidator
from PySide6.QtWidgets import QDoubleSpinBox

from yardtoll.core.errors import FieldError
from yardtoll.core.region import shown_in, typed_in, unit_shown
from yardtoll.desktop.widgets.wheel import ScrolledPast
from yardtoll.store.shown_region import shown_region

_FINER = 2
"""Decimals kept beyond those shown, so that a whole °F or lb stays one."""


class NumberBox(ScrolledPast, QDoubleSpinBox):
    """Its value is in the SI unit it was made with, whatever it shows.

    Takes "77 F" for °C, "22 lb" for kg, and a comma or a point in any number.
    """

    def __init__(self, unit: str, decimals: int) -> None:
        super().__init__()
        self.let_pass()
        self._unit = ""
        self._shown_decimals = decimals
        self.set_unit(unit)

    def set_unit(self, unit: str) -> None:
        """Hold a value in another SI unit; the figure itself stays."""
        value = self.value()
        self._unit = unit
        suffix = unit_shown(unit, shown_region())
        self.setDecimals(self._shown_decimals + (_FINER if suffix != unit else 0))
        self.setSuffix(f" {suffix}" if suffix else "")
        self.setValue(value)

    def textFromValue(self, value: float) -> str:
        region = shown_region()
        text = f"{shown_in(value, self._unit, region):.{self._shown_decimals}f}"
        return text.replace(".", region.decimal_sign)

    def valueFromText(self, text: str) -> float:
        try:
            return self._typed(text)
        except FieldError:
            return self.value()

    def validate(self, text: str, position: int) -> tuple[QValidator.State, str, int]:
        state = QValidator.State.Intermediate
        try:
            if text == self.specialValueText() or self.minimum() <= self._typed(text) <= (
                self.maximum()
            ):
                state = QValidator.State.Acceptable
        except FieldError:
            pass
        return (state, text, position)

    def _typed(self, text: str) -> float:
        if self.specialValueText() and text == self.specialValueText():
            return self.minimum()
        # Qt puts the suffix back behind a unit that was typed.
        return typed_in(text.removesuffix(self.suffix()), self._unit, shown_region())
