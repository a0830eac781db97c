"""With which instrument the lines of a test were read."""

from dataclasses import replace

from PySide6.QtWidgets import QWidget

from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import choice, label
from yardtoll.store.records import Meter, Run


class InstrumentDialog(FormDialog):
    """One of the yard's meters; its limits give the figures their ±."""

    manual_page = "outputs"

    def __init__(self, run: Run, meters: list[Meter], parent: QWidget | None = None) -> None:
        super().__init__(f"Instrument of run {run.number}", "Keep it", parent)
        self._run = run
        items: list[tuple[str, object]] = [("not stated", None)]
        items += [(f"{m.name} {m.accuracy}", m.id) for m in meters]
        self.meter = choice("Instrument", items)
        self.meter.setCurrentIndex(max(self.meter.findData(run.meter_id), 0))
        self.rows.addRow("Instrument", self.meter)
        self.rows.addRow(
            label(
                "Its stated limits of watts, volts and hertz give the figures their ±. "
                "A new one is added under the yard's meters.",
                "muted",
                wrap=True,
            )
        )

    def record(self) -> Run:
        """The run with its instrument."""
        return replace(self._run, meter_id=self.meter.currentData())
