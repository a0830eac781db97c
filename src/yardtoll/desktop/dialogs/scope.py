"""From which scope a capture is taken, and at what load of the simulated one."""

from PySide6.QtWidgets import QWidget

from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import choice, label, number_box
from yardtoll.store.records import Meter

_MOST_W = 100_000.0


class ScopeDialog(FormDialog):
    """One of the yard's scopes, or the simulated one.

    Args:
        switches: whether the capture is to go across a switch of the wall.
    """

    manual_page = "outputs"

    def __init__(
        self, scopes: list[Meter], *, switches: bool, parent: QWidget | None = None
    ) -> None:
        super().__init__("Capture from a scope", "Capture", parent)
        items: list[tuple[str, object]] = [(scope.name, scope) for scope in scopes]
        items.append(("Simulated scope", None))
        self.scope = choice("Scope", items)
        self.scope.currentIndexChanged.connect(lambda _: self._show())
        self.rows.addRow("Scope", self.scope)
        self.load_w = number_box("Load on the simulated bench", "W", 0, _MOST_W, 0)
        self.rows.addRow("Its load", self.load_w)
        self.way = choice("Switch", [("the wall is pulled", True), ("the wall comes back", False)])
        self.rows.addRow("Switch", self.way)
        self.rows.setRowVisible(self.way, switches)
        words = (
            "Ready the scope for a single capture that begins with the switch, then pull the plug."
            if switches
            else "Ten cycles and more on the screen tell the harmonics best."
        )
        self._words = label(words, "muted", wrap=True)
        self.rows.addRow(self._words)
        self._switches = switches
        self._show()

    @property
    def chosen(self) -> Meter | None:
        """The scope; None for the simulated one."""
        found = self.scope.currentData()
        return found if isinstance(found, Meter) else None

    def _show(self) -> None:
        simulated = self.chosen is None
        self.rows.setRowVisible(self.load_w, simulated)
        self.rows.setRowVisible(self.way, simulated and self._switches)
