"""Charts, tables and figures as other programs take them: copied, or dragged into their windows."""

import io
from dataclasses import dataclass
from html import escape

import pyqtgraph as pg
from PySide6.QtCore import QBuffer, QByteArray, QMimeData, QPoint, Qt
from PySide6.QtGui import QImage, QImageWriter, QPainter
from PySide6.QtWidgets import QAbstractButton, QTableView, QWidget

from yardtoll.desktop.widgets.power_chart import PowerChart
from yardtoll.desktop.widgets.scene_view import SceneView
from yardtoll.report.charts.svg import to_svg

PICTURE_SCALE = 2.0
_MOST_ROWS = 100_000
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


def is_chart(widget: QWidget) -> bool:
    """Whether a widget is a picture of ours rather than a control."""
    if isinstance(widget, PowerChart | SceneView | pg.PlotWidget):
        return True
    return "paintEvent" in type(widget).__dict__ and bool(widget.accessibleDescription())


def chart_of(widget: QWidget, conditions: str = "") -> Taken:
    """A chart as a picture twice as sharp as on the screen, with its words and samples."""
    if isinstance(widget, pg.PlotWidget) and isinstance(widget.parentWidget(), PowerChart):
        widget = widget.parentWidget()
    image = QImage(widget.size() * PICTURE_SCALE, QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(PICTURE_SCALE)
    image.fill(widget.palette().window().color())
    with QPainter(image) as painter:
        widget.render(painter, QPoint(), renderFlags=QWidget.RenderFlag.DrawChildren)
    scene = widget.scene() if isinstance(widget, SceneView) else None
    said = [widget.accessibleName().split(";")[0], conditions, widget.accessibleDescription()]
    text = "\n".join(part for part in said if part)
    if isinstance(widget, PowerChart):
        text = _samples(widget) or text
    return Taken(what="chart", text=text, image=image, svg=to_svg(scene) if scene else "")


def _samples(chart: PowerChart) -> str:
    """The curve in view as a table: seconds and watts."""
    at_s, power_w = chart.in_view(_MOST_ROWS)
    if not len(at_s):
        return ""
    made = io.StringIO()
    made.write("time_s\tpower_w\n")
    for s, w in zip(at_s, power_w, strict=True):
        made.write(f"{s:.3f}\t{w:.3f}\n")
    return made.getvalue()


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
