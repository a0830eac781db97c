"""Looking a solar module's label up in the tables."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from yardtoll.desktop.widgets.basics import button, label
from yardtoll.desktop.widgets.help_window import HelpedDialog
from yardtoll.desktop.workbench.jobs import Jobs

if TYPE_CHECKING:
    from yardtoll.store.module_tables import ModuleLabel

_SIZE = (620, 460)
_MOST = 200


def _read_tables() -> "tuple[ModuleLabel, ...]":
    """On a worker: the tables, and what reads them, take a second or two to load."""
    from yardtoll.store.module_tables import known_modules

    return known_modules()


class ModuleTableDialog(HelpedDialog):
    """Words of the name, or watts such as 200w, and the modules that have them.

    Attributes:
        chosen: the module; None until one is taken.
    """

    manual_page = "sun"

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Module tables")
        self.resize(*_SIZE)
        self.chosen: ModuleLabel | None = None
        self._modules: tuple[ModuleLabel, ...] = ()
        self._jobs = Jobs(self)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(22, 18, 22, 16)
        outer.setSpacing(10)
        outer.addWidget(label("Which module?", "title"))
        self.words = QLineEdit()
        self.words.setPlaceholderText("Words of its name, or watts such as 200w")
        self.words.setAccessibleName("Words of the module's name")
        self.words.textChanged.connect(lambda _: self._search())
        outer.addWidget(self.words)
        self.list = QListWidget()
        self.list.setAccessibleName("Modules found")
        self.list.itemActivated.connect(lambda _: self.use_row())
        outer.addWidget(self.list, 1)
        self.said = label("Reading the tables…", "muted", wrap=True)
        outer.addWidget(self.said)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(button("Cancel", self.reject))
        self._accept = button("Use its label", self.use_row, "primary")
        self._accept.setEnabled(False)
        row.addWidget(self._accept)
        outer.addLayout(row)
        self.list.currentRowChanged.connect(lambda at: self._accept.setEnabled(at >= 0))
        self._jobs.start("Reading", lambda _: _read_tables(), self._show, self._failed)

    def done(self, result: int) -> None:
        self._jobs.wait()
        super().done(result)

    def _show(self, modules: "tuple[ModuleLabel, ...]") -> None:
        self._modules = modules
        self._search()

    def _failed(self, error: Exception) -> None:
        self.said.setText(f"The tables could not be read ({error}); type the label instead.")

    def _search(self) -> None:
        if not self._modules:
            return
        from yardtoll.store.module_tables import search

        found = search(self._modules, self.words.text(), _MOST)
        self.list.clear()
        for module in found:
            facts = (
                f"{module.power_w:.0f} W · Voc {module.voc_v:.1f} V · Vmp {module.vmp_v:.1f} V · "
                f"Isc {module.isc_a:.2f} A"
            )
            item = QListWidgetItem(f"{module.name}\n{facts}")
            item.setData(Qt.ItemDataRole.UserRole, module)
            self.list.addItem(item)
        many = "the first 200 shown" if len(found) == _MOST else f"{len(found)} found"
        self.said.setText(
            f"{len(self._modules)} modules in the tables, {many}. The label on the panel goes "
            "before the table."
        )

    def use_row(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            self.chosen = item.data(Qt.ItemDataRole.UserRole)
            self.accept()
