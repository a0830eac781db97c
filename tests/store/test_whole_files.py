"""What is written is whole or was never there; pictures carry pixels alone."""

import io
import os

import pytest
from PIL import Image

from yardtoll import whole_files
from yardtoll.review.sheet.pictures import LARGEST_SIDE, published
from yardtoll.store.pictures import is_picture
from yardtoll.whole_files import write_whole


def test_a_full_disk_leaves_yesterdays_file(tmp_path, monkeypatch):
    path = tmp_path / "sheet.pdf"
    path.write_bytes(b"yesterday's")

    def full(_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(whole_files.os, "fsync", full)
    with pytest.raises(OSError, match="No space"):
        write_whole(path, b"x" * 1000)
    assert path.read_bytes() == b"yesterday's" and os.listdir(tmp_path) == ["sheet.pdf"]


def test_the_rights_of_the_file_are_kept(tmp_path):
    path = tmp_path / "sheet.html"
    write_whole(path, "first")
    fresh = path.stat().st_mode & 0o777
    (tmp_path / "plain").write_text("")
    assert fresh == (tmp_path / "plain").stat().st_mode & 0o777
    path.chmod(0o600)
    write_whole(path, "second")
    assert path.read_text() == "second" and path.stat().st_mode & 0o777 == 0o600


def photo(kind, size=(60, 40), **options):
    made = io.BytesIO()
    picture = Image.new("RGB", size, "white")
    picture.putpixel((0, 0), (255, 0, 0))
    picture.save(made, kind, **options)
    return made.getvalue()


def with_position():
    exif = Image.Exif()
    exif[0x0112] = 6  # to be turned by a quarter
    exif[0x010F] = "Sorrel camera"
    exif.get_ifd(0x8825)[1] = "N"  # GPS latitude reference
    return photo("JPEG", exif=exif, quality=95)


def test_where_a_photo_was_taken_is_not_published():
    stored = with_position()
    assert b"Exif" in stored and b"Sorrel camera" in stored
    kind, data = published(stored)
    assert kind == "image/jpeg" and b"Exif" not in data and b"Sorrel" not in data
    with Image.open(io.BytesIO(data)) as shown:
        assert shown.size == (40, 60) and not shown.getexif()  # upright


def test_text_beside_the_pixels_stays_behind():
    from PIL.PngImagePlugin import PngInfo

    info = PngInfo()
    info.add_text("Comment", "<script>secret</script>")
    kind, data = published(photo("PNG", pnginfo=info))
    assert kind == "image/png" and b"secret" not in data


def test_large_ones_are_scaled_and_broken_ones_left_out():
    _, data = published(photo("JPEG", size=(5000, 100)))
    with Image.open(io.BytesIO(data)) as shown:
        assert shown.width == LARGEST_SIDE
    assert published(b"no picture") is None
    assert published(with_position()[:300]) is None


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP", "GIF", "BMP"])
def test_pictures_by_their_bytes(kind):
    assert is_picture(photo(kind))


@pytest.mark.parametrize("data", [b"", b"<svg xmlns='http://www.w3.org/2000/svg'/>", b"\x89PNG"])
def test_what_is_no_picture(data):
    assert not is_picture(data)
