"""Scenes painted by Qt."""

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen, QPolygonF

from yardtoll.desktop.theme.fonts import font, text_scale
from yardtoll.report.charts.hatching import hatching
from yardtoll.report.charts.scene import Area, Box, Dot, Item, Line, Point, Scene, Words
from yardtoll.store.shown_region import shown


def paint_scene(painter: QPainter, scene: Scene, *, scaled_already: bool = False) -> None:
    """Paint every item, in order.

    Args:
        scaled_already: the painter enlarges everything by the size of text, so text must not.
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for item in scene.items:
        paint_item(painter, item, scaled_already=scaled_already)


def paint_item(painter: QPainter, item: Item, *, scaled_already: bool = False) -> None:
    """Paint one item; brush and pen are left empty."""
    if isinstance(item, Box):
        _paint_box(painter, item)
    elif isinstance(item, Line):
        pen = QPen(QColor(item.colour), item.width)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        if item.dash:
            pen.setDashPattern([length / item.width for length in item.dash])
        painter.setPen(pen)
        painter.drawPolyline(_polygon(item.points))
    elif isinstance(item, Area):
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(_with_opacity(item.fill, item.opacity))
        painter.drawPolygon(_polygon(item.points))
    elif isinstance(item, Dot):
        painter.setPen(QPen(QColor(item.stroke), item.width) if item.stroke else Qt.PenStyle.NoPen)
        painter.setBrush(QColor(item.fill) if item.fill else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(*item.at), item.radius, item.radius)
    else:
        _paint_words(painter, item, text_scale() if scaled_already else 1.0)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(Qt.PenStyle.NoPen)


def _paint_box(painter: QPainter, box: Box) -> None:
    ground = QRectF(box.x, box.y, box.width, box.height)
    painter.fillRect(ground, QColor(box.fill))
    lines = hatching(box.x, box.y, box.x + box.width, box.y + box.height, box.hatch)
    if lines:
        painter.setPen(QPen(_with_opacity(box.hatch_colour, box.hatch_opacity), 1))
        painter.drawLines([QLineF(*line) for line in lines])
    if box.stroke:
        painter.setPen(QPen(QColor(box.stroke), 1))
        painter.drawRect(ground)


def _paint_words(painter: QPainter, words: Words, enlarged: float) -> None:
    """One line; with a room it is shortened, or set smaller, where it would not fit."""
    face, text = font(words.size / enlarged, QFont.Weight(words.weight)), shown(words.text)
    metrics = QFontMetricsF(face)
    wide = metrics.horizontalAdvance(text)
    if words.whole and wide > words.room > 0:
        face.setPixelSize(max(int(face.pixelSize() * words.room / wide), 1))
        metrics = QFontMetricsF(face)
    painter.setFont(face)
    painter.setPen(QColor(words.colour))
    if words.room and not words.whole:
        text = metrics.elidedText(text, Qt.TextElideMode.ElideRight, words.room)
    back = {"start": 0.0, "middle": 0.5, "end": 1.0}[words.anchor]
    painter.drawText(QPointF(words.x - back * metrics.horizontalAdvance(text), words.y), text)


def _polygon(points: tuple[Point, ...]) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in points])


def _with_opacity(colour: str, opacity: float) -> QColor:
    made = QColor(colour)
    made.setAlphaF(opacity)
    return made
