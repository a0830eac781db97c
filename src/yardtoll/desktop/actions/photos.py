"""Taking photos into the yard, and looking at one."""

from dataclasses import replace
from functools import partial
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, Qt
from PySide6.QtGui import QImage, QImageReader, QPixmap, QResizeEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from yardtoll.core.formatting import counted
from yardtoll.desktop.host import Host
from yardtoll.desktop.widgets.basics import button, label
from yardtoll.desktop.widgets.help_window import HelpedDialog
from yardtoll.desktop.widgets.photo_reading import read_upright
from yardtoll.desktop.workbench.jobs import CancelledError, JobHandle
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.store.records import Photo
from yardtoll.store.yard_file import YardFile, utc_now

PICTURE_SUFFIXES = (".png", ".jpg", ".jpeg", ".webp", ".gif", ".bmp")
_FILTER = "Pictures (*.png *.jpg *.jpeg *.webp *.gif *.bmp)"
LARGEST_BYTES = 25 * 1024 * 1024
LARGEST_PIXELS = 80_000_000
_DIALOG = (900, 680)


class PhotoError(Exception):
    """A picture cannot be taken in; one sentence."""


def read_photo(path: Path, station_id: int) -> tuple[Photo, bytes]:
    """A picture file as a record and its bytes, looked at before it is taken.

    Raises:
        PhotoError: it is too large, cannot be read, or is no picture.
    """
    from yardtoll.store.pictures import is_picture

    if path.exists() and not path.is_file():
        raise PhotoError(f"{path.name} is not a file")
    try:
        size = path.stat().st_size
        if size > LARGEST_BYTES:
            raise PhotoError(
                f"{path.name} is {size / 1e6:.0f} MB; photos up to {LARGEST_BYTES / 1e6:.0f} MB "
                "are kept, so scale it down first"
            )
        data = path.read_bytes()
    except OSError as error:
        raise PhotoError(f"{path.name} cannot be read: {error.strerror}") from None
    buffer = QBuffer()
    buffer.setData(QByteArray(data))
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(buffer)
    dimensions = reader.size()
    if not reader.canRead() or dimensions.isEmpty():
        raise PhotoError(f"{path.name} is not a picture that can be shown")
    if dimensions.width() * dimensions.height() > LARGEST_PIXELS:
        raise PhotoError(f"{path.name} has too many pixels to be shown; scale it down first")
    kind = bytes(reader.format().data()).decode()
    if not is_picture(data):
        raise PhotoError(f"{path.name} is a {kind.upper()}; photos are PNG, JPEG, WebP, GIF or BMP")
    photo = Photo(
        station_id=station_id,
        name=path.name,
        media_type=f"image/{kind}",
        caption=path.stem,
        added_at=utc_now(),
        size_bytes=size,
    )
    return photo, data


def add_photos(host: Host, paths: list[Path]) -> None:
    """Keep pictures with the chosen station; those that cannot be kept are reported."""
    session = host.bench.session if host.bench else None
    station = session.station if session else None
    if session is None or station is None or station.id is None:
        host.say("Add a station first: a photo is kept with its station.")
        return
    if session.yard.read_only:
        host.say("This yard is open in another window: nothing can be added here.")
        return
    yard, station_id = session.yard, station.id
    reading = partial(_keep_all, yard, station_id, paths)

    def done(found: tuple[list[Photo], list[str]]) -> None:
        kept, refused = found
        if kept:
            with session.together(f"Add {counted(len(kept), 'photo')}"):
                for photo in kept:
                    session.note_added(photo, f"Add the photo {photo.name}")
        if refused:
            host.say(f"{'; '.join(refused)}.")

    host.jobs.start(
        f"Adding {counted(len(paths), 'photo')}",
        reading,
        done,
        lambda error: host.say(f"The photos could not be kept: {error}."),
    )


def _keep_all(
    yard: YardFile, station_id: int, paths: list[Path], handle: JobHandle
) -> tuple[list[Photo], list[str]]:
    """The photos that were kept, and why the others were not."""
    kept: list[Photo] = []
    refused = []
    try:
        for number, path in enumerate(paths):
            handle.progress(f"Adding {path.name}", number / len(paths))
            try:
                photo, data = read_photo(path, station_id)
            except PhotoError as error:
                refused.append(str(error))
                continue
            kept.append(yard.keep_photo(photo, data))
        handle.progress("Adding photos", 1.0)
    except CancelledError:
        for photo in kept:
            yard.put(replace(photo, removed=True))
        raise
    return kept, refused


def ask_photos(host: Host) -> None:
    """Ask for picture files and keep them."""
    start = str(host.settings.last_folder)
    chosen, _ = QFileDialog.getOpenFileNames(host.widget, "Add photos", start, _FILTER)
    if chosen:
        host.settings.last_folder = Path(chosen[0]).parent
        add_photos(host, [Path(path) for path in chosen])


def open_photo(parent: QWidget, bench: Workbench, photo: Photo) -> None:
    """Show a photo large, with its caption, or take it out."""
    session = bench.session
    dialog = PhotoDialog(photo, parent)
    largest = dialog.screen().size() * dialog.devicePixelRatioF()
    job = bench.jobs.start(
        f"Reading {photo.name}",
        lambda _: read_upright(session.yard.photo_bytes(photo.id or 0), largest),
        dialog.show_picture,
        lambda error: dialog.show_trouble(f"The photo could not be read: {error}."),
    )
    dialog.exec()
    bench.jobs.cancel(job)
    if session.yard.read_only:
        return
    if dialog.removed:
        session.remove(photo, f"Remove the photo {photo.name}")
    elif dialog.photo() != photo:
        session.edit(dialog.photo(), "Caption a photo")


class PhotoDialog(HelpedDialog):
    """One photo, as large as fits; the picture comes when it is read."""

    manual_page = "yard"

    def __init__(self, photo: Photo, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(photo.name)
        self.resize(*_DIALOG)
        self.removed = False
        self._photo = photo
        self.picture = QPixmap()
        self._shown = label("")
        self._shown.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._shown.setMinimumSize(320, 240)
        self.caption = QLineEdit(photo.caption)
        self.caption.setAccessibleName("Caption")
        layout = QVBoxLayout(self)
        layout.addWidget(self._shown, 1)
        row = QHBoxLayout()
        row.addWidget(label("Caption", "strong"))
        row.addWidget(self.caption, 1)
        row.addWidget(button("Remove", self._remove))
        row.addWidget(button("Close", self.accept, "primary"))
        layout.addLayout(row)

    def show_picture(self, image: QImage) -> None:
        """Show the picture that was read."""
        if image.isNull():
            self.show_trouble("The picture cannot be shown.")
            return
        self.picture = QPixmap.fromImage(image)
        self._fit()

    def show_trouble(self, words: str) -> None:
        """Say why there is no picture."""
        self._shown.setText(words)

    def photo(self) -> Photo:
        """The record with its caption as typed."""
        return replace(self._photo, caption=self.caption.text().strip())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        if self.picture.isNull():
            return
        ratio = self.devicePixelRatioF()
        fitted = self.picture.scaled(
            self._shown.size() * ratio,
            Qt.AspectRatioMode.KeepAspectRatio,
            Qt.TransformationMode.SmoothTransformation,
        )
        fitted.setDevicePixelRatio(ratio)
        self._shown.setPixmap(fitted)

    def _remove(self) -> None:
        self.removed = True
        self.accept()
