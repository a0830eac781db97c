"""The port panel: a station's sockets drawn from its claims, grouped as on the box."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.core.claims.ports import PanelPort, PortGroup
from yardtoll.desktop.theme.fonts import MEDIUM, SEMIBOLD, font
from yardtoll.desktop.theme.theme import theme
from yardtoll.store.shown_region import shown

_SIZES = {
    "ac": (30.0, 30.0),
    "usb_c": (26.0, 11.0),
    "usb_a": (24.0, 15.0),
    "car_out": (28.0, 28.0),
    "dc": (17.0, 17.0),
    "wall": (30.0, 22.0),
    "sun": (26.0, 26.0),
    "car": (24.0, 24.0),
}
_GAP, _PORT_GAP = 24.0, 8.0
_TITLE_H, _PORT_H, _WORDS_H, _BRACKET_H = 24.0, 44.0, 36.0, 26.0
_ROW_H = _TITLE_H + _PORT_H + _WORDS_H + _BRACKET_H + 4
_PAD = 16.0
_LEAST_PORT_W = 74.0


class PortPanel(QWidget):
    """Groups of ports side by side, wrapped where they do not fit."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._groups: list[PortGroup] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Ports of the station")
        theme.changed.connect(self.update)

    def show_groups(self, groups: list[PortGroup]) -> None:
        """Show other ports."""
        self._groups = groups
        said = "; ".join(
            f"{group.title}: "
            + ", ".join(
                f"{port.count} {port.label} {port.rating}{' tested' if port.tested else ''}"
                for port in group.ports
            )
            + (f", {group.shared}" if group.shared else "")
            for group in groups
        )
        self.setAccessibleDescription(said)
        self._fit()
        self.update()

    def sizeHint(self) -> QSize:
        rows = max((row for _, row, _ in self._placed()), default=0) + 1
        return QSize(400, int(rows * _ROW_H + 2 * _PAD - 10))

    def resizeEvent(self, _: object) -> None:
        self._fit()

    def paintEvent(self, _: QPaintEvent) -> None:
        if not self._groups:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            frame = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
            painter.setPen(QPen(theme.colour("muted"), 1.2))
            painter.setBrush(theme.colour("raised"))
            painter.drawRoundedRect(frame, 12, 12)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for left, row, group in self._placed():
                self._paint_group(painter, left, _PAD + row * _ROW_H, group)

    def _fit(self) -> None:
        self.setFixedHeight(self.sizeHint().height())

    def _placed(self) -> list[tuple[float, int, PortGroup]]:
        """(left, row, group) for each group."""
        found, left, row = [], _PAD, 0
        for group in self._groups:
            width = _group_width(group)
            if left > _PAD and left + width > self.width() - _PAD:
                left, row = _PAD, row + 1
            found.append((left, row, group))
            left += width + _GAP
        return found

    def _paint_group(self, painter: QPainter, left: float, top: float, group: PortGroup) -> None:
        painter.setFont(font(13, SEMIBOLD))
        painter.setPen(theme.colour("ink" if not group.is_input else "accent"))
        painter.drawText(QPointF(left, top + 14), ("→ " if group.is_input else "") + group.title)
        x = left
        for port in group.ports:
            width = _port_width(port)
            self._paint_port(painter, x, top + _TITLE_H, port)
            x += width + _PORT_GAP
        if group.shared:
            self._paint_bracket(painter, left, x - _PORT_GAP, top, group.shared)

    def _paint_port(self, painter: QPainter, left: float, top: float, port: PanelPort) -> None:
        w, h = _SIZES[port.shape]
        for i in range(port.count):
            x = left + i * (w + _PORT_GAP)
            at = QRectF(x, top + (_PORT_H - 10 - h) / 2, w, h)
            _paint_socket(painter, at, port)
        painter.setFont(font(13, MEDIUM))
        painter.setPen(theme.colour("ink"))
        name = f"{port.count} × {port.label}" if port.count > 1 else port.label
        painter.drawText(QPointF(left, top + _PORT_H + 6), name)
        painter.setFont(font(13))
        painter.setPen(theme.colour("muted"))
        painter.drawText(QPointF(left, top + _PORT_H + 22), shown(port.rating) or "no rating")

    def _paint_bracket(
        self, painter: QPainter, left: float, right: float, top: float, words: str
    ) -> None:
        """A limit that the group's ports share."""
        y = top + _TITLE_H + _PORT_H + _WORDS_H
        painter.setPen(QPen(theme.colour("muted"), 1.4))
        painter.drawPolyline(
            [QPointF(left, y - 5), QPointF(left, y), QPointF(right, y), QPointF(right, y - 5)]
        )
        painter.setFont(font(13, MEDIUM))
        painter.setPen(theme.colour("ink"))
        painter.drawText(QPointF(left, y + 16), words)


def _paint_socket(painter: QPainter, at: QRectF, port: PanelPort) -> None:
    """One socket; a tested one is filled and carries a post."""
    ink, ground = theme.colour("ink"), theme.colour("good_ground")
    painter.setPen(QPen(ink, 1.5))
    painter.setBrush(ground if port.tested else theme.colour("paper"))
    middle = at.center()
    if port.shape in ("car_out", "dc", "car"):
        painter.drawEllipse(at)
        painter.drawEllipse(middle, at.width() / 6, at.width() / 6)
    elif port.shape == "usb_c":
        painter.drawRoundedRect(at, at.height() / 2, at.height() / 2)
        painter.drawLine(at.center() - QPointF(6, 0), at.center() + QPointF(6, 0))
    elif port.shape == "usb_a":
        painter.drawRect(at)
        painter.fillRect(QRectF(at.left() + 4, at.top() + 3, at.width() - 8, 4), ink)
    elif port.shape == "sun":
        painter.drawRoundedRect(at, 4, 4)
        painter.drawLine(middle - QPointF(7, 0), middle + QPointF(7, 0))
        painter.drawLine(middle - QPointF(0, 7), middle + QPointF(0, 7))
    elif port.shape == "wall":
        painter.drawRoundedRect(at, 6, 6)
        for dx in (-6.0, 0.0, 6.0):
            painter.drawPoint(middle + QPointF(dx, 0))
            painter.drawLine(middle + QPointF(dx, -3), middle + QPointF(dx, 3))
    else:
        painter.drawRoundedRect(at, 7, 7)
        painter.drawLine(middle + QPointF(-5, -6), middle + QPointF(-5, 1))
        painter.drawLine(middle + QPointF(5, -6), middle + QPointF(5, 1))
        painter.drawEllipse(middle + QPointF(0, 7), 2.4, 2.4)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if port.tested:
        post = QRectF(at.right() - 5, at.top() - 4, 6, 9)
        painter.fillRect(post, theme.colour("good"))


def _port_width(port: PanelPort) -> float:
    sockets = port.count * (_SIZES[port.shape][0] + _PORT_GAP) - _PORT_GAP
    metrics = QFontMetrics(font(13, MEDIUM))
    name = f"{port.count} × {port.label}"
    words = max(
        metrics.horizontalAdvance(port.rating or "no rating"), metrics.horizontalAdvance(name)
    )
    return max(sockets, words + 6, _LEAST_PORT_W)


def _group_width(group: PortGroup) -> float:
    ports = sum(_port_width(port) + _PORT_GAP for port in group.ports) - _PORT_GAP
    words = QFontMetrics(font(13, MEDIUM)).horizontalAdvance(group.shared)
    return max(ports, float(words))
