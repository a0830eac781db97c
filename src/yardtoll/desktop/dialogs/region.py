"""The dialog of units and region."""

from PySide6.QtWidgets import QWidget

from yardtoll.core.region import REGIONS, Region, in_region
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import choice, label

_EXAMPLE = "21.5 °C, 12.35 kg, 1.83 kWh"


class RegionDialog(FormDialog):
    """One choice for units, clock, dates, decimal sign, mains volts and currency."""

    def __init__(self, region: Region, parent: QWidget | None = None) -> None:
        super().__init__("Units and region", "Use it", parent)
        self.regions = choice("Region", [(r.name, r.key) for r in REGIONS.values()])
        self.regions.setCurrentIndex(self.regions.findData(region.key))
        self.rows.addRow("Region", self.regions)
        self.words = label("", "strong")
        self.example = label("", "muted")
        self.rows.addRow("Shown as", self.words)
        self.rows.addRow("For example", self.example)
        self.rows.addRow(
            label(
                "Any of these can be typed: “77 F”, “25 °C”, “27 lb”, “1,5” or “1.5”. Volts and "
                "currency are suggestions for new circuits and sites; the yard keeps what was "
                "noted.",
                "muted",
                wrap=True,
            )
        )
        self.regions.currentIndexChanged.connect(self._show)
        self._show()

    def region(self) -> Region:
        """The chosen one."""
        return REGIONS[self.regions.currentData()]

    def _show(self) -> None:
        region = self.region()
        self.words.setText(region.words)
        # Not by the label's own region, which is the one used until now.
        self.example.setText(f"“{in_region(_EXAMPLE, region)}”")
