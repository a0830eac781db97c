"""A station's photos in a row, small; one opens large by a click or Enter."""

from functools import partial

from PySide6.QtCore import QMargins, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QImage, QPixmap
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from yardtoll.desktop.widgets.basics import plain_tip
from yardtoll.desktop.widgets.photo_reading import read_upright
from yardtoll.desktop.workbench.jobs import JobHandle
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.store.records import Photo
from yardtoll.store.yard_file import YardFile

_H = 92
_THUMB = QSize(112, 72)
_AROUND = QMargins(4, 4, 4, 4)


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
        self._pictures: dict[int | None, QIcon] = {}
        self._job = 0
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
        """Show other photos; their small pictures come as they are read, each once."""
        self.setVisible(bool(photos))
        if photos == self._shown:
            return
        self._shown = photos
        self.clear()
        for photo in photos:
            item = QListWidgetItem(QIcon(), "")
            item.setSizeHint(_THUMB.grownBy(_AROUND))
            item.setData(Qt.ItemDataRole.UserRole, photo)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, photo.caption or photo.name)
            item.setToolTip(plain_tip(photo.caption or photo.name))
            self.addItem(item)
        self._show_pictures()
        missing = [photo.id for photo in photos if photo.id not in self._pictures]
        self._bench.jobs.cancel(self._job)
        if missing:
            work = partial(_read_small, self._bench.session.yard, missing, self.devicePixelRatioF())
            self._job = self._bench.jobs.start("Reading photos", work, self._arrived, self._failed)

    @property
    def is_reading(self) -> bool:
        """Whether pictures are still to come."""
        return self._bench.jobs.is_waiting(self._job)

    def _arrived(self, read: dict[int | None, QImage]) -> None:
        for photo_id, image in read.items():
            self._pictures[photo_id] = QIcon(QPixmap.fromImage(image))
        self._show_pictures()

    def _failed(self, error: Exception) -> None:
        self._bench.trouble.emit(f"The photos could not be read: {error}.")

    def _show_pictures(self) -> None:
        for row, photo in enumerate(self._shown):
            item = self.item(row)
            if item is not None and photo.id in self._pictures:
                item.setIcon(self._pictures[photo.id])


def _read_small(
    yard: YardFile, photo_ids: list[int | None], ratio: float, handle: JobHandle
) -> dict[int | None, QImage]:
    """Small pictures by the photo's id, sharp on a screen of so many pixels a unit."""
    read = {}
    for number, photo_id in enumerate(photo_ids):
        handle.progress("Reading photos", number / len(photo_ids))
        image = read_upright(yard.photo_bytes(photo_id or 0), _THUMB * ratio)
        image.setDevicePixelRatio(ratio)
        read[photo_id] = image
    return read
