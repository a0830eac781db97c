"""The sheet's charts as pictures: for the preview, and as PNG and SVG files to publish."""

from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice
from PySide6.QtGui import QImage, QImageReader

from yardtoll.desktop.theme.fonts import FAMILY
from yardtoll.report.charts.svg import FAMILIES
from yardtoll.store.errors import PackageError
from yardtoll.whole_files import write_whole

PNG_SCALE = 3
"""Three times the chart's size: sharp on a phone, and in print."""


def chart_image(svg: str, scale: float) -> QImage:
    """A chart as an image, its text in the program's own face."""
    # Qt takes a list of families for the name of one, which is nowhere.
    svg = svg.replace(f'font-family="{FAMILIES}"', f'font-family="{FAMILY}"')
    held = QBuffer()
    held.setData(QByteArray(svg.encode("utf-8")))
    held.open(QIODevice.OpenModeFlag.ReadOnly)
    # A reader lets other threads go on while Qt draws; a painter does not, and the window stood.
    reader = QImageReader(held, QByteArray(b"svg"))
    reader.setScaledSize(reader.size() * scale)
    image = reader.read()
    if image.isNull():
        raise ValueError(f"the chart cannot be drawn: {reader.errorString()}")
    return image


def save_charts(charts: dict[str, str], folder: Path, prefix: str) -> list[str]:
    """Write every chart as PNG and SVG; returned are the files' names.

    Raises:
        PackageError: the folder cannot be written.
    """
    made = []
    try:
        for key, svg in charts.items():
            name = f"{prefix}-{key}"
            write_whole(folder / f"{name}.svg", svg)
            if not chart_image(svg, PNG_SCALE).save(str(folder / f"{name}.png")):
                raise PackageError(f"{name}.png cannot be written into {folder}")
            made += [f"{name}.svg", f"{name}.png"]
    except OSError as error:
        raise PackageError(f"{folder} cannot be written: {error.strerror}") from None
    return made
