"""Photos of a station: dropped, shown upright, opened, captioned, taken out, undone."""

import threading

import pytest
from conftest_helpers import drop, in_dialog
from PIL import Image
from PySide6.QtCore import QSize
from PySide6.QtGui import QColor, QImage

from yardtoll.desktop.actions import photos
from yardtoll.desktop.actions.photos import LARGEST_BYTES, PhotoDialog, PhotoError, read_photo
from yardtoll.desktop.views.claims import photo_row
from yardtoll.desktop.widgets.photo_reading import read_upright

ON_ITS_SIDE = 6
"""EXIF's orientation of a phone that was held upright: the camera's right is up."""


@pytest.fixture
def picture(tmp_path):
    """A small blue picture."""
    path = tmp_path / "front.png"
    image = QImage(64, 48, QImage.Format.Format_RGB32)
    image.fill(0x336699)
    assert image.save(str(path))
    return path


@pytest.fixture
def upright(tmp_path):
    """A photo of a phone held upright: red above, blue below, kept lying on its side."""
    kept = Image.new("RGB", (400, 300), "blue")
    kept.paste((255, 0, 0), (0, 0, 200, 300))
    exif = Image.Exif()
    exif[0x0112] = ON_ITS_SIDE
    path = tmp_path / "phone.jpg"
    kept.save(path, exif=exif, quality=95)
    return path


def added(qtbot, window, claims, *paths):
    """The station's photos after these were dropped on the window."""
    drop(window, *paths)
    qtbot.waitUntil(lambda: not window.jobs.busy)
    return claims.bench.session.yard.photos(claims.bench.session.station.id)


def is_red(colour):
    return colour.red() > 200 and colour.blue() < 60


def test_a_dropped_picture_is_kept_shown_captioned_and_undone(qtbot, window, claims, picture):
    yard, station = claims.bench.session.yard, claims.bench.session.station
    (photo,) = added(qtbot, window, claims, picture)
    assert yard.photo_bytes(photo.id) == picture.read_bytes()
    assert claims.photos.count() == 1 and not claims.photos.is_reading
    small = claims.photos.item(0).icon().pixmap(QSize(64, 48)).toImage()
    assert small.pixelColor(20, 20) == QColor(0x33, 0x66, 0x99)

    def caption(dialog):
        qtbot.waitUntil(lambda: not dialog.picture.isNull())
        dialog.caption.setText("From the front")
        dialog.accept()

    in_dialog(caption, PhotoDialog)
    claims.photos.itemActivated.emit(claims.photos.item(0))
    assert yard.photos(station.id)[0].caption == "From the front"
    claims.bench.session.undo()
    claims.bench.session.undo()
    assert yard.photos(station.id) == []


def test_a_photo_of_a_phone_stands_upright(qtbot, window, claims, upright):
    (photo,) = added(qtbot, window, claims, upright)
    small = claims.photos.item(0).icon().pixmap(QSize(112, 72)).toImage()
    assert small.height() > small.width()
    assert is_red(small.pixelColor(small.width() // 2, 10))
    seen = []

    def look(dialog):
        qtbot.waitUntil(lambda: not dialog.picture.isNull())
        seen.append(dialog.picture.toImage())
        dialog.reject()

    in_dialog(look, PhotoDialog)
    claims.photos.itemActivated.emit(claims.photos.item(0))
    assert seen[0].size() == QSize(300, 400) and is_red(seen[0].pixelColor(150, 50))
    assert claims.bench.session.yard.photo_bytes(photo.id) == upright.read_bytes()


@pytest.mark.parametrize(
    ("within", "found"),
    [((75, 300), (75, 100)), ((30, 400), (30, 40)), ((9000, 9000), (300, 400))],
)
def test_it_is_read_no_larger_than_asked(upright, within, found):
    assert read_upright(upright.read_bytes(), QSize(*within)).size() == QSize(*found)


def test_what_is_no_picture_is_read_as_none():
    assert read_upright(b"", QSize(9, 9)).isNull()
    assert read_upright(b"\x89PNG but no more", QSize(9, 9)).isNull()


def test_a_picture_that_is_broken_is_said_to_be(qtbot, window, claims, picture, monkeypatch):
    added(qtbot, window, claims, picture)
    monkeypatch.setattr(photos, "read_upright", lambda *_: QImage())
    said = []

    def look(dialog):
        shown = dialog.findChildren(type(dialog._shown))
        qtbot.waitUntil(lambda: any("cannot be shown" in label.text() for label in shown))
        said.append(True)
        dialog.reject()

    in_dialog(look, PhotoDialog)
    claims.photos.itemActivated.emit(claims.photos.item(0))
    assert said


def test_photos_are_read_beside_the_window(qtbot, window, claims, picture, upright, monkeypatch):
    threads = set()
    for module, name in ((photos, "read_photo"), (photos, "read_upright"),
                         (photo_row, "read_upright")):  # fmt: skip
        read = getattr(module, name)

        def noted(*args, read=read):
            threads.add(threading.current_thread())
            return read(*args)

        monkeypatch.setattr(module, name, noted)
    assert len(added(qtbot, window, claims, picture, upright)) == 2
    in_dialog(lambda dialog: (qtbot.waitUntil(lambda: not dialog.picture.isNull()),
                              dialog.reject()), PhotoDialog)  # fmt: skip
    claims.photos.itemActivated.emit(claims.photos.item(0))
    assert threads and threading.main_thread() not in threads


def test_adding_that_is_cancelled_adds_nothing(qtbot, window, claims, picture, monkeypatch):
    read, begun, go_on = photos.read_photo, threading.Event(), threading.Event()

    def slowly(path, station_id):
        found = read(path, station_id)
        if path.name == "second.png":
            begun.set()
            go_on.wait(20)
        return found

    monkeypatch.setattr(photos, "read_photo", slowly)
    second = picture.with_name("second.png")
    second.write_bytes(picture.read_bytes())
    drop(window, picture, second)
    qtbot.waitUntil(begun.is_set)
    window.jobs.cancel()
    go_on.set()
    window.jobs.wait()
    yard, station = claims.bench.session.yard, claims.bench.session.station
    assert yard.photos(station.id) == []
    assert len(added(qtbot, window, claims, picture)) == 1


def test_what_cannot_be_kept_is_one_sentence(qtbot, window, claims, tmp_path, picture):
    huge, no_picture = tmp_path / "huge.png", tmp_path / "text.png"
    with huge.open("wb") as file:
        file.truncate(100_000_000)
    no_picture.write_text("<svg onload=evil()>")
    for path, said in ((huge, "huge.png is 100 MB"), (no_picture, "is not a picture"),
                       (tmp_path / "gone.png", "cannot be read")):  # fmt: skip
        with pytest.raises(PhotoError, match=said):
            read_photo(path, 1)
    assert LARGEST_BYTES < 100_000_000
    assert read_photo(picture, 1)[0].media_type == "image/png"
    assert len(added(qtbot, window, claims, no_picture, picture)) == 1
    assert "text.png is not a picture" in window.notice.text
