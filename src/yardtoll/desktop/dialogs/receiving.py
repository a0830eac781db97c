"""The receiving record: what came, in which state, and what was missing."""

from dataclasses import replace
from typing import Any

from PySide6.QtCore import QDate, Qt
from PySide6.QtWidgets import QCheckBox, QListWidget, QListWidgetItem, QWidget

from yardtoll.core.methods import METHODS
from yardtoll.core.notes.slips import weight_meant_kg
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import button, choice, number_box
from yardtoll.desktop.widgets.days import qt_day
from yardtoll.desktop.widgets.wheel import DayField
from yardtoll.store.records import Accessory, Receiving, Site
from yardtoll.store.shown_region import shown, shown_region

_LIST_H = 132
USUAL = tuple(dict.fromkeys(name for method in METHODS.values() for name in method.needs))
"""Accessories that some method cannot do without."""


class ReceivingDialog(FormDialog):
    """A station as it came out of its box.

    Args:
        claimed_kg: what it should weigh, where the maker says so: shows pounds taken for kilograms.
    """

    manual_page = "yard"

    def __init__(
        self,
        kept: Receiving,
        site: Site,
        parent: QWidget | None = None,
        *,
        claimed_kg: float | None = None,
    ) -> None:
        super().__init__("As received", "Keep it", parent)
        self._before = kept
        self.date = DayField()
        self.date.setCalendarPopup(True)
        self.date.setDisplayFormat(qt_day())
        self.date.setAccessibleName("Received on")
        self.date.setDate(
            QDate.fromString(kept.received_on, Qt.DateFormat.ISODate)
            if kept.received_on
            else QDate.currentDate()
        )
        self.price = _optional("Price paid", "", kept.price, 2)
        self.list_price = _optional("List price", "", kept.list_price, 2)
        self.rows.addRow("Received on", self.date)
        self.rows.addRow("Price paid", self.price)
        self.rows.addRow("List price", self.list_price)
        self.currency = self.line(
            "Currency", kept.currency or site.currency, f"such as {shown_region().currency}"
        )
        self.firmware = self.line("Firmware", kept.firmware)
        self.soc = _optional("Charge as received", "%", kept.soc_percent, 0, 100)
        self.weight = _optional("Weight, measured", "kg", kept.weight_kg, 2, 2000)
        self._claimed_kg = claimed_kg
        self.meant = button("", self._take_as_meant)
        self.meant.hide()
        self.weight.valueChanged.connect(self._look_for_pounds)
        words = [w.strip() for w in site.lift_scale.split(";") if w.strip()]
        self.lift = choice("Who can lift it", [("not tried", ""), *((w, w) for w in words)])
        if kept.lift and kept.lift not in words:
            self.lift.addItem(kept.lift, kept.lift)
        self.lift.setCurrentIndex(max(self.lift.findData(kept.lift), 0))
        self.conditioned = QCheckBox("First full cycle is done")
        self.conditioned.setChecked(kept.conditioned)
        self.rows.addRow("Charge as received", self.soc)
        self.rows.addRow("Weight, measured", self.weight)
        self.rows.addRow("", self.meant)
        self.rows.addRow("Lifts with", self.lift)
        self.rows.addRow("Conditioning", self.conditioned)
        self.accessories = QListWidget()
        self.accessories.setAccessibleName("Accessories, ticked where they are there")
        self.accessories.setFixedHeight(_LIST_H)
        listed = kept.accessories or tuple(Accessory(name=name) for name in USUAL)
        for accessory in listed:
            self._add(accessory)
        self.rows.addRow("Listed accessories,\nticked if there", self.accessories)
        self.more = self.line("One more", "", "Type and press Enter")
        self.more.returnPressed.connect(self._add_typed)
        self.note = self.line("Note", kept.note)
        self._look_for_pounds()

    def record(self) -> Receiving:
        """The record as entered."""
        self._add_typed()
        return replace(
            self._before,
            received_on=self.date.date().toString(Qt.DateFormat.ISODate),
            price=_given(self.price),
            list_price=_given(self.list_price),
            currency=self.currency.text().strip(),
            firmware=self.firmware.text().strip(),
            soc_percent=_given(self.soc),
            weight_kg=_given(self.weight),
            lift=self.lift.currentData(),
            conditioned=self.conditioned.isChecked(),
            accessories=tuple(
                Accessory(
                    name=self.accessories.item(row).text(),
                    present=self.accessories.item(row).checkState() == Qt.CheckState.Checked,
                )
                for row in range(self.accessories.count())
            ),
            note=self.note.text().strip(),
        )

    def _try(self) -> None:
        # Enter in the field for one more adds it; it must not close the dialog.
        if self.more.hasFocus() and self.more.text().strip():
            self._add_typed()
        else:
            super()._try()

    def _add(self, accessory: Accessory) -> None:
        item = QListWidgetItem(accessory.name)
        item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsEditable)
        present = accessory.present
        item.setCheckState(Qt.CheckState.Checked if present else Qt.CheckState.Unchecked)
        self.accessories.addItem(item)

    def _add_typed(self) -> None:
        name = self.more.text().strip()
        if name:
            self._add(Accessory(name=name))
            self.more.clear()

    def _look_for_pounds(self) -> None:
        weight_kg = _given(self.weight)
        meant = weight_meant_kg(weight_kg, self._claimed_kg) if weight_kg else None
        self.meant.setVisible(meant is not None)
        if meant is not None:
            self.meant.setText(shown(f"Was {meant:.2f} kg meant, as claimed? Take it"))

    def _take_as_meant(self) -> None:
        meant = weight_meant_kg(self.weight.value(), self._claimed_kg)
        if meant is not None:
            self.weight.setValue(meant)


def _optional(name: str, unit: str, value: float | None, decimals: int, most: float = 1e6) -> Any:
    """A number that may be left open: its lowest value means not noted."""
    box = number_box(name, unit, -1, most, -1 if value is None else value, decimals)
    box.setSpecialValueText("not noted")
    return box


def _given(box: Any) -> float | None:
    return None if box.value() < 0 else float(box.value())
