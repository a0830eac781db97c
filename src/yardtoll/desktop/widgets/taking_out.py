"""Charts, tables and figures as other programs take them: copied, or dragged into their windows."""

from dataclasses import dataclass
from html import escape
from typing import Protocol

from PySide6.QtCore import QBuffer, QByteArray, QMimeData, QPoint, Qt
from PySide6.QtGui import QImage, QImageWriter, QPainter
from PySide6.QtWidgets import QAbstractButton, QTableView, QWidget

PICTURE_SCALE = 2.0
_SVG = "image/svg+xml"


@dataclass(frozen=True, kw_only=True)
class Taken:
    """Something in every form that can be given.

    Attributes:
        what: "chart", "table" or "figure", for the word to the user.
        text: as plain text; a table's cells with tabs between them.
        html: of a table.
        image, svg: of a chart.
    """

    what: str
    text: str
    html: str = ""
    image: QImage | None = None
    svg: str = ""

    def mime(self) -> QMimeData:
        """For the clipboard, or a drag."""
        data = QMimeData()
        data.setText(self.text)
        if self.html:
            data.setHtml(self.html)
        if self.image is not None:
            data.setImageData(self.image)
            buffer = QBuffer()
            buffer.open(QBuffer.OpenModeFlag.WriteOnly)
            QImageWriter(buffer, QByteArray(b"png")).write(self.image)
            data.setData("image/png", buffer.data())
        if self.svg:
            data.setData(_SVG, self.svg.encode("utf-8"))
        return data


def taken_from(widget: QWidget | None, conditions: str) -> Taken | None:
    """What a widget, or the nearest around it, gives; None where there is nothing.

    Args:
        conditions: of what a figure holds, such as its station and run.
    """
    while widget is not None:
        if isinstance(widget, QAbstractButton) and widget.property("role") == "figure":
            return _figure(widget, conditions)
        if isinstance(widget, QTableView):
            return _table(widget)
        if is_chart(widget):
            return chart_of(widget, conditions)
        widget = None if widget.isWindow() else widget.parentWidget()
    return None


class Chart(Protocol):
    """What a chart adds to its picture; both may be missing."""

    def copied_text(self) -> str:
        """Its samples as a table, cells with tabs between them; "" for none."""

    def copied_svg(self) -> str:
        """The whole chart as SVG; "" for none."""


def is_chart(widget: QWidget) -> bool:
    """Whether a widget is a picture of ours rather than a control."""
    if hasattr(widget, "copied_text") or hasattr(widget, "copied_svg"):
        return True
    return "paintEvent" in type(widget).__dict__ and bool(widget.accessibleDescription())


def chart_of(widget: QWidget, conditions: str = "") -> Taken:
    """A chart as a picture twice as sharp as on the screen, with its words or samples."""
    image = QImage(widget.size() * PICTURE_SCALE, QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(PICTURE_SCALE)
    image.fill(widget.palette().window().color())
    with QPainter(image) as painter:
        widget.render(painter, QPoint(), renderFlags=QWidget.RenderFlag.DrawChildren)
    said = [widget.accessibleName().split(";")[0], conditions, widget.accessibleDescription()]
    words = "\n".join(part for part in said if part)
    samples = widget.copied_text() if hasattr(widget, "copied_text") else ""
    svg = widget.copied_svg() if hasattr(widget, "copied_svg") else ""
    return Taken(what="chart", text=samples or words, image=image, svg=svg)


def _figure(figure: QAbstractButton, conditions: str) -> Taken:
    named = figure.accessibleName().split(": where")[0]
    shown = figure.text()
    text = named if shown in named else f"{named}: {shown}" if named else shown
    return Taken(what="figure", text=f"{text} ({conditions})" if conditions else text)


def _table(table: QTableView) -> Taken:
    model, chosen = table.model(), table.selectionModel().selectedIndexes()
    rows = list(range(model.rowCount()))
    columns = [c for c in range(model.columnCount()) if not table.isColumnHidden(c)]
    if len(chosen) > 1:
        rows = sorted({index.row() for index in chosen})
        columns = sorted({index.column() for index in chosen})
    head = [str(model.headerData(c, Qt.Orientation.Horizontal) or "") for c in columns]
    lines = [head] + [[str(model.index(r, c).data() or "") for c in columns] for r in rows]
    text = "\n".join("\t".join(cell.replace("\t", " ") for cell in line) for line in lines)
    body = "".join(
        f"<tr>{''.join(f'<td>{escape(cell)}</td>' for cell in line)}</tr>" for line in lines
    )
    return Taken(what="table", text=text, html=f"<table>{body}</table>")
