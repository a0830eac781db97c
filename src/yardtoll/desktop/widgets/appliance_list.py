"""A list of appliances that can be dragged onto an outage, or put in by Enter."""

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QMimeData, Qt
from PySide6.QtWidgets import QAbstractItemView, QListWidgetItem, QWidget

from yardtoll.desktop.widgets.basics import plain_tip
from yardtoll.desktop.widgets.outage_picture import APPLIANCE_MIME
from yardtoll.desktop.widgets.record_list import RecordList


class ApplianceList(RecordList):
    """Appliances by name with what is known of each."""

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(name, parent)
        self.setDragEnabled(True)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragOnly)
        self.setDefaultDropAction(Qt.DropAction.CopyAction)

    def show_records(self, rows: list[tuple[str, str, Any]]) -> None:
        super().show_records(rows)
        for place in range(self.count()):
            facts = rows[place][1]
            self.item(place).setToolTip(
                plain_tip(f"{rows[place][0]}, {facts} – drag it on, or press Enter")
            )

    def mimeTypes(self) -> list[str]:
        return [APPLIANCE_MIME]

    def mimeData(self, items: Sequence[QListWidgetItem]) -> QMimeData:
        data = QMimeData()
        if items:
            data.setData(APPLIANCE_MIME, str(self.row(items[0])).encode())
        return data
