"""Which columns of a scope's table are volts and amps, and how fast it was sampled."""

from collections.abc import Mapping

from PySide6.QtWidgets import QWidget

from yardtoll.core.errors import FieldError
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import choice
from yardtoll.desktop.widgets.optional_number import OptionalNumber
from yardtoll.store.scope_files import Channels

_NONE = ""


class ChannelsDialog(FormDialog):
    """Of a table with several channels, or without times."""

    manual_page = "outputs"

    def __init__(self, name: str, channels: Channels, parent: QWidget | None = None) -> None:
        super().__init__(f"{name}: its channels", "Read it", parent)
        self._channels = channels
        items: list[tuple[str, object]] = [(found, found) for found in channels.names]
        self.volts = choice("Volts are in", items)
        self.volts.setCurrentIndex(max(self.volts.findData(channels.guessed.get("volts")), 0))
        self.amps = choice("Amps are in", [("no column", _NONE), *items])
        self.amps.setCurrentIndex(max(self.amps.findData(channels.guessed.get("amps")), 0))
        self.rate = OptionalNumber("Samples a second", "/s", 0)
        self.rows.addRow("Volts are in", self.volts)
        self.rows.addRow("Amps are in", self.amps)
        self.rows.addRow("Samples a second", self.rate)
        self.rows.setRowVisible(self.volts, bool(items))
        self.rows.setRowVisible(self.amps, bool(items))
        self.rows.setRowVisible(self.rate, not channels.has_times)

    def wrong(self) -> str:
        if self.amps.currentData() and self.amps.currentData() == self.volts.currentData():
            return "One column cannot be both volts and amps."
        if self._channels.has_times:
            return ""
        try:
            rate = self.rate.value()
        except FieldError as error:
            return f"{str(error)[:1].upper()}{str(error)[1:]}."
        return "" if rate and rate > 0 else "Without times the samples a second are needed."

    @property
    def chosen(self) -> Mapping[str, str]:
        """Purpose → column, as they are chosen."""
        made = {"volts": self.volts.currentData(), "amps": self.amps.currentData()}
        if "time" in self._channels.guessed:
            made["time"] = self._channels.guessed["time"]
        return {purpose: str(name) for purpose, name in made.items() if name}

    @property
    def rate_hz(self) -> float | None:
        """Samples a second; None where the file says it."""
        return None if self._channels.has_times else self.rate.value()
