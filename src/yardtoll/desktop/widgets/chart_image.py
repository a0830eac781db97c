"""The sheet's charts as pictures: for the preview, and as PNG and SVG files to publish."""

from pathlib import Path

from PySide6.QtCore import QByteArray, QSize, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtSvg import QSvgRenderer

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
    renderer = QSvgRenderer(QByteArray(svg.encode("utf-8")))
    size = renderer.defaultSize()
    image = QImage(
        QSize(round(size.width() * scale), round(size.height() * scale)),
        QImage.Format.Format_ARGB32_Premultiplied,
    )
    image.fill(Qt.GlobalColor.transparent)
    with QPainter(image) as painter:
        renderer.render(painter)
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
