"""Charts, tables and figures as other programs take them: copied, or dragged into their windows."""

import io
from dataclasses import dataclass
from html import escape

import pyqtgraph as pg
from PySide6.QtCore import QBuffer, QEvent, QMimeData, QObject, QPoint, QPointF, QSize, Qt
from PySide6.QtGui import QDrag, QImage, QMouseEvent, QPainter, QPixmap
from PySide6.QtWidgets import QAbstractButton, QApplication, QTableView, QWidget

from yardtoll.desktop.widgets.power_chart import PowerChart
from yardtoll.desktop.widgets.scene_view import SceneView
from yardtoll.report.charts.svg import to_svg

PICTURE_SCALE = 2.0
_MOST_ROWS = 100_000
_SVG = "image/svg+xml"
_DRAG_PICTURE = QSize(320, 220)


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
            self.image.save(buffer, b"PNG")
            data.setData("image/png", buffer.data())
        if self.svg:
            data.setData(_SVG, self.svg.encode("utf-8"))
        return data


def taken_from(widget: QWidget | None, conditions: str) -> Taken | None:
    """What a widget, or the nearest around it, gives; None where there is nothing.

    Args:
        conditions: of what a figure holds, such as its station and run.
    """
    while widget is not None and not widget.isWindow():
        if isinstance(widget, QAbstractButton) and widget.property("role") == "figure":
            return _figure(widget, conditions)
        if isinstance(widget, QTableView):
            return _table(widget)
        if is_chart(widget):
            return chart_of(widget, conditions)
        widget = widget.parentWidget()
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
    at_s, power_w = chart.in_view()
    if not len(at_s):
        return ""
    step = max(1, -(-len(at_s) // _MOST_ROWS))
    made = io.StringIO()
    made.write("time_s\tpower_w\n")
    for s, w in zip(at_s[::step], power_w[::step], strict=True):
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


class DragsOut(QObject):
    """Lets charts be dragged into other programs: plainly, or with Ctrl where a drag moves them.

    One filter on the window's views; it looks only at presses and moves.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._chart: QWidget | None = None
        self._pressed = QPointF()

    def watch(self, view: QWidget) -> None:
        """Let the charts inside a view be dragged."""
        for chart in view.findChildren(QWidget):
            if isinstance(chart, SceneView | PowerChart) or "paintEvent" in type(chart).__dict__:
                target = chart.plot.viewport() if isinstance(chart, PowerChart) else chart
                target.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QMouseEvent) or not isinstance(watched, QWidget):
            return False
        if event.type() == QEvent.Type.MouseButtonPress:
            free = isinstance(watched, SceneView)
            holds = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            taken = event.button() is Qt.MouseButton.LeftButton and (free or holds)
            self._chart = watched if taken else None
            self._pressed = QPointF(event.position())  # the event's own goes with it
            return taken and holds
        if event.type() == QEvent.Type.MouseMove and self._chart is watched:
            moved = (event.position() - self._pressed).manhattanLength()
            if moved >= QApplication.startDragDistance():
                self._chart = None
                self._drag(watched)
            return True
        return False

    def _drag(self, widget: QWidget) -> None:
        plot = widget.parentWidget()
        taken = chart_of(plot if isinstance(plot, pg.PlotWidget) else widget)
        drag = QDrag(widget)
        drag.setMimeData(taken.mime())
        if taken.image is not None:
            small = taken.image.scaled(
                _DRAG_PICTURE,
                Qt.AspectRatioMode.KeepAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
            drag.setPixmap(QPixmap.fromImage(small))
        drag.exec(Qt.DropAction.CopyAction)
