"""Who takes part in a line-up: every station with a tick."""

from collections.abc import Mapping, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from yardtoll.review.archive.search import Fit

_NAME = Qt.ItemDataRole.UserRole


class WhoList(QListWidget):
    """Names with ticks; what is not ticked is left out.

    Signals:
        ticked: another one takes part, or one less.
    """

    ticked = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.out: set[str] = set()
        self._names: list[str] = []
        self.setAccessibleName("Who takes part")
        self.itemChanged.connect(self._changed)

    @property
    def is_empty(self) -> bool:
        """Whether nobody was shown yet."""
        return not self._names

    @property
    def count_ticked(self) -> int:
        """How many are ticked."""
        return len(self._names) - len(self.out & set(self._names))

    def show_names(self, names: Sequence[str]) -> None:
        """Show these; who was left out stays so."""
        if list(names) != self._names:
            self._names = list(names)
            self._fill()

    def show_found(self, found: Mapping[str, Fit] | None) -> None:
        """Only those that were found, with a ? where they only may fit; None for all."""
        for place in range(self.count()):
            item = self.item(place)
            name = item.data(_NAME)
            item.setHidden(found is not None and name not in found)
            perhaps = found is not None and found.get(name) is Fit.PERHAPS
            self.blockSignals(True)
            item.setText(f"{name} ?" if perhaps else name)
            item.setToolTip("Within its ± of what was asked for" if perhaps else "")
            self.blockSignals(False)

    def tick_only(self, names: set[str]) -> None:
        """Leave all others out."""
        self.out = set(self._names) - names
        self._fill()

    def _fill(self) -> None:
        self.blockSignals(True)
        self.clear()
        for name in self._names:
            item = QListWidgetItem(name)
            item.setData(_NAME, name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            left = name in self.out
            item.setCheckState(Qt.CheckState.Unchecked if left else Qt.CheckState.Checked)
            self.addItem(item)
        self.blockSignals(False)

    def _changed(self, item: QListWidgetItem) -> None:
        if item.checkState() is Qt.CheckState.Checked:
            self.out.discard(item.data(_NAME))
        else:
            self.out.add(item.data(_NAME))
        self.ticked.emit()
