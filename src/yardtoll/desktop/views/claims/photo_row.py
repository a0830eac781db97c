"""A station's photos in a row, small; one opens large by a click or Enter."""

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from yardtoll.desktop.widgets.basics import plain_tip
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.store.records import Photo

_H = 92
_THUMB = QSize(112, 72)


class PhotoRow(QListWidget):
    """Photos of the chosen station.

    Signals:
        opened(photo): one was asked for.
    """

    opened = Signal(object)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bench = bench
        self._shown: list[Photo] = []
        self.setAccessibleName("Photos")
        self.setViewMode(QListWidget.ViewMode.IconMode)
        self.setFlow(QListWidget.Flow.LeftToRight)
        self.setWrapping(False)
        self.setMovement(QListWidget.Movement.Static)
        self.setIconSize(_THUMB)
        self.setFixedHeight(_H)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.itemActivated.connect(
            lambda item: self.opened.emit(item.data(Qt.ItemDataRole.UserRole))
        )
        self.itemClicked.connect(lambda item: self.opened.emit(item.data(Qt.ItemDataRole.UserRole)))

    def show_photos(self, photos: list[Photo]) -> None:
        """Show other photos; their small pictures are made once."""
        self.setVisible(bool(photos))
        if photos == self._shown:
            return
        self._shown = photos
        self.clear()
        for photo in photos:
            picture = QPixmap()
            picture.loadFromData(self._bench.session.yard.photo_bytes(photo.id or 0))
            small = picture.scaled(_THUMB, Qt.AspectRatioMode.KeepAspectRatio)
            item = QListWidgetItem(QIcon(small), "")
            item.setData(Qt.ItemDataRole.UserRole, photo)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, photo.caption or photo.name)
            item.setToolTip(plain_tip(photo.caption or photo.name))
            self.addItem(item)
