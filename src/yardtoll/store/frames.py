"""The frames of a time-lapse: a folder of pictures, or a video, each frame with its time."""

import contextlib
import io
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps, UnidentifiedImageError

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.store.errors import StoreError
from yardtoll.store.site_time import local, shown_at
from yardtoll.store.video import VideoError, VideoReader

SUFFIXES = (".jpg", ".jpeg", ".png", ".webp", ".bmp")
VIDEOS = (".mp4", ".mov", ".mkv", ".avi", ".webm", ".m4v")
MOST_FRAMES = 1_000_000
_EXIF, _TAKEN, _CHANGED = 0x8769, 36867, 306
"""EXIF: the directory of the camera's tags, when the picture was taken, when it was changed."""
_EPOCH = datetime(1970, 1, 1)
_SEEN_PX = (1200, 1200)
_FORMAT = "%Y:%m:%d %H:%M:%S"
_EVIDENCE_PX, _EVIDENCE_QUALITY = 640, 80


class FramesError(StoreError):
    """A folder holds no time-lapse; one sentence."""


@dataclass(frozen=True)
class Frame:
    """One picture of a time-lapse.

    Attributes:
        s: s since 1970 in the camera's own local time.
        at_s: of a video, s from its beginning; None for a picture of its own.
    """

    path: Path
    s: float
    at_s: float | None = None


def read_frames(folder: Path) -> list[Frame]:
    """The pictures of a folder in order of time: by EXIF, else by the time of the file.

    Args:
        folder: or a video, whose frames count from when it says it was made.

    Raises:
        FramesError: it cannot be read, or holds fewer than two pictures.
    """
    if folder.suffix.lower() in VIDEOS:
        return _read_video(folder)
    try:
        paths = sorted(p for p in folder.iterdir() if p.suffix.lower() in SUFFIXES and p.is_file())
    except OSError as error:
        raise FramesError(f"{folder} cannot be read: {error.strerror}") from None
    if len(paths) < 2:
        raise FramesError(f"{folder.name} holds no time-lapse: at least two pictures are needed")
    if len(paths) > MOST_FRAMES:
        raise FramesError(f"{folder.name} holds more than {MOST_FRAMES} pictures")
    first, last = _taken_s(paths[0]), _taken_s(paths[-1])
    if first is not None and last is not None:
        by_exif = [Frame(path, s) for path in paths if (s := _taken_s(path)) is not None]
        return sorted(by_exif, key=lambda frame: (frame.s, frame.path.name))
    return sorted((Frame(path, _file_s(path)) for path in paths), key=lambda f: (f.s, f.path.name))


def at_interval(frames: list[Frame], start_s: float, interval_s: float) -> list[Frame]:
    """The same frames in order of their names, at a steady interval."""
    by_name = sorted(frames, key=lambda frame: (frame.path.name, frame.at_s or 0.0))
    return [replace(f, s=start_s + i * interval_s) for i, f in enumerate(by_name)]


def grey_of(frame: Frame, box: tuple[float, float, float, float]) -> FloatArray:
    """Grey levels of a part of a frame.

    Args:
        box: left, top, right, bottom as shares of the picture.

    Raises:
        FramesError: the picture cannot be read.
    """
    with _picture(frame) as picture:
        picture.draft("L", _SEEN_PX)
        width, height = picture.size
        left, top = int(box[0] * width), int(box[1] * height)
        right, bottom = max(int(box[2] * width), left + 1), max(int(box[3] * height), top + 1)
        return np.asarray(picture.convert("L").crop((left, top, right, bottom)), dtype=float)


def evidence_of(frame: Frame) -> bytes:
    """A small copy of a frame as JPEG, its pixels alone.

    Raises:
        FramesError: the picture cannot be read.
    """
    with _picture(frame) as picture:
        picture.draft("RGB", (2 * _EVIDENCE_PX, 2 * _EVIDENCE_PX))
        small = ImageOps.exif_transpose(picture).convert("RGB")
        small.thumbnail((_EVIDENCE_PX, _EVIDENCE_PX))
        made = io.BytesIO()
        small.save(made, "JPEG", quality=_EVIDENCE_QUALITY)
        return made.getvalue()


def _taken_s(path: Path) -> float | None:
    """When a picture says it was taken, in its own local time; None where it does not."""
    try:
        with _opened(path) as picture:
            tags = picture.getexif()
            said = tags.get_ifd(_EXIF).get(_TAKEN) or tags.get(_CHANGED)
    except FramesError:
        return None
    if not said:
        return None
    try:
        taken = datetime.strptime(str(said).strip("\x00 "), _FORMAT)
    except ValueError:
        return None
    return (taken - _EPOCH).total_seconds()


def _file_s(path: Path) -> float:
    """When a file was last changed, by the clock at the site: that is what cameras are set to."""
    changed = shown_at(path.stat().st_mtime).replace(tzinfo=None)
    return (changed - _EPOCH).total_seconds()


def rgb_of(frame: Frame) -> NDArray[np.uint8]:
    """(rows, columns, 3) of a frame, as it is to be shown.

    Raises:
        FramesError: it cannot be read.
    """
    with _picture(frame) as picture:
        picture.draft("RGB", (2 * _SEEN_PX[0], 2 * _SEEN_PX[1]))
        return np.asarray(ImageOps.exif_transpose(picture).convert("RGB"))


def _read_video(path: Path) -> list[Frame]:
    """When each frame of a video is shown, without decoding any."""
    try:
        times, said = _reader(path).times()
    except VideoError as error:
        raise FramesError(str(error)) from None
    if len(times) < 2 or len(times) > MOST_FRAMES:
        raise FramesError(f"{path.name} holds {len(times)} frames, which is no time-lapse")
    try:
        made = local(said).replace(tzinfo=None)
        start_s = (made - _EPOCH).total_seconds()
    except ValueError:
        start_s = _file_s(path) - times[-1]
    return [Frame(path, start_s + s - times[0], at_s=s) for s in times]


@lru_cache(maxsize=1)
def _reader(path: Path) -> VideoReader:
    """The video that is looked at; its child is kept from frame to frame."""
    return VideoReader(path)


def _frame_of_video(frame: Frame) -> Image.Image:
    """The frame that is shown at its time."""
    assert frame.at_s is not None
    try:
        return Image.fromarray(_reader(frame.path).pixels(frame.at_s))
    except VideoError as error:
        raise FramesError(str(error)) from None


@contextlib.contextmanager
def _picture(frame: Frame) -> Iterator[Image.Image]:
    """A frame as a picture, of its own or of a video."""
    if frame.at_s is None:
        with _opened(frame.path) as picture:
            yield picture
    else:
        yield _frame_of_video(frame)


@contextlib.contextmanager
def _opened(path: Path) -> Iterator[Image.Image]:
    """A picture, and every way in which it may be none as one error."""
    try:
        with Image.open(path) as picture:
            yield picture
    except (OSError, ValueError, SyntaxError, UnidentifiedImageError, Image.DecompressionBombError):
        raise FramesError(f"{path.name} is no picture that can be read") from None
