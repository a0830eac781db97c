"""A field for a number that may be left empty, with its unit behind it."""

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from yardtoll.core.errors import FieldError
from yardtoll.core.region import shown_in, typed_in, unit_shown
from yardtoll.desktop.widgets.basics import label
from yardtoll.store.shown_region import shown_region


class OptionalNumber(QWidget):
    """Its value is in the SI unit it was made with; "77 F" is taken for °C, a comma or a point."""

    def __init__(self, name: str, unit: str, decimals: int, value: float | None = None) -> None:
        super().__init__()
        self._unit, self._decimals = unit, decimals
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        self.field = QLineEdit()
        self.field.setAccessibleName(name)
        self.field.setPlaceholderText("not noted")
        layout.addWidget(self.field, 1)
        shown = unit_shown(unit, shown_region())
        self._unit_label = label(shown, "muted")
        self._unit_label.setMinimumWidth(56)
        layout.addWidget(self._unit_label)
        self.setFocusProxy(self.field)
        if value is not None:
            self.set_value(value)

    def set_value(self, value: float) -> None:
        """Show a value, given in the SI unit."""
        region = shown_region()
        # No digit that was typed is lost by opening and keeping the form.
        text = f"{round(shown_in(value, self._unit, region), max(self._decimals, 6)):.10g}"
        self.field.setText(text.replace(".", region.decimal_sign))

    def value(self) -> float | None:
        """In the SI unit; None where the field is empty.

        Raises:
            FieldError: it is no number, or its unit is another's.
        """
        text = self.field.text().strip()
        if not text:
            return None
        # The unit that stands behind the field may be typed into it too.
        try:
            return typed_in(text, self._unit, shown_region())
        except FieldError:
            return typed_in(text.removesuffix(self._unit_label.text()), self._unit, shown_region())
