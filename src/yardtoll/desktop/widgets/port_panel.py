"""The port panel: a station's sockets drawn from its claims, grouped as on the box."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFont, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.core.claims.ports import PanelPort, PortGroup
from yardtoll.desktop.theme.fonts import MEDIUM, REGULAR, SEMIBOLD, font, scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import SMALL_PX
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
_PAD = 16.0
_LEAST_PORT_W = 74.0


class PortPanel(QWidget):
    """Groups of ports side by side, wrapped where they do not fit.

    Lengths are those at the usual size of text; all of it is enlarged together.

    Signals:
        port_chosen(port, name): one of the ports was pressed; only where they can be.
    """

    port_chosen = Signal(object, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._groups: list[PortGroup] = []
        self._read: set[str] | None = None
        self._at = 0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Ports of the station")
        theme.changed.connect(self.update)

    def show_ports(self, groups: list[PortGroup], read: set[str]) -> None:
        """Show ports that can be pressed, or chosen by arrows and Enter.

        Args:
            read: names of those that were read already; they are filled.
        """
        self._read = read
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setToolTip("Press a port to type its watts")
        self.show_groups(groups)

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
        bottom = max((top + _height(group) for _, top, group in self._placed()), default=0.0)
        return QSize(400, scaled(bottom + _PAD - 10))

    def resizeEvent(self, _: object) -> None:
        self._fit()

    def paintEvent(self, _: QPaintEvent) -> None:
        if not self._groups:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.scale(theme.scale, theme.scale)
            width, height = self.width() / theme.scale, self.height() / theme.scale
            frame = QRectF(0.5, 0.5, width - 1, height - 1)
            painter.setPen(QPen(theme.colour("muted"), 1.2))
            painter.setBrush(theme.colour("raised"))
            painter.drawRoundedRect(frame, 12, 12)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for left, top, group in self._placed():
                self._paint_group(painter, left, top, group)
            self._paint_focus(painter)

    def sockets(self) -> list[tuple[QRectF, PanelPort, str]]:
        """Where each socket is, and its name."""
        found = []
        for left, row_top, group in self._placed():
            x, top = left, row_top + _TITLE_H
            for port in group.ports:
                for i, name in enumerate(group.names_of(port)):
                    found.append((_socket_at(port, i, x, top), port, name))
                x += _port_width(port) + _PORT_GAP
        return found

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for i, (at, port, name) in enumerate(self.sockets() if self._read is not None else ()):
            if at.adjusted(-4, -6, 4, 6).contains(event.position() / theme.scale):
                self._at = i
                self.update()
                self.port_chosen.emit(port, name)
                return
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        here = event.position() / theme.scale
        over = self._read is not None and any(
            at.adjusted(-4, -6, 4, 6).contains(here) for at, _, _ in self.sockets()
        )
        shape = Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor
        self.setCursor(shape)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        sockets = self.sockets() if self._read is not None else []
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if sockets and step is not None:
            self._at = (self._at + step) % len(sockets)
            self.update()
        elif sockets and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            _, port, name = sockets[min(self._at, len(sockets) - 1)]
            self.port_chosen.emit(port, name)
        else:
            super().keyPressEvent(event)

    def _paint_focus(self, painter: QPainter) -> None:
        sockets = self.sockets()
        if self._read is not None and self.hasFocus() and sockets:
            at, _, _ = sockets[min(self._at, len(sockets) - 1)]
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.drawRoundedRect(at.adjusted(-5, -5, 5, 5), 5, 5)

    def _fit(self) -> None:
        self.setFixedHeight(self.sizeHint().height())

    def _placed(self) -> list[tuple[float, float, PortGroup]]:
        """(left, top, group) for each group."""
        found, left, top, below = [], _PAD, _PAD, _PAD
        for group in self._groups:
            width = _group_width(group)
            if left > _PAD and left + width > self.width() / theme.scale - _PAD:
                left, top = _PAD, below
            found.append((left, top, group))
            left, below = left + width + _GAP, max(below, top + _height(group))
        return found

    def _paint_group(self, painter: QPainter, left: float, top: float, group: PortGroup) -> None:
        painter.setFont(_font(SEMIBOLD))
        painter.setPen(theme.colour("ink" if not group.is_input else "accent"))
        painter.drawText(QPointF(left, top + 14), ("→ " if group.is_input else "") + group.title)
        x = left
        for port in group.ports:
            width = _port_width(port)
            self._paint_port(painter, x, top + _TITLE_H, group, port)
            x += width + _PORT_GAP
        if group.shared:
            self._paint_bracket(painter, left, x - _PORT_GAP, top, group.shared)

    def _paint_port(
        self, painter: QPainter, left: float, top: float, group: PortGroup, port: PanelPort
    ) -> None:
        for i, socket in enumerate(group.names_of(port)):
            tested = port.tested if self._read is None else socket in self._read
            _paint_socket(painter, _socket_at(port, i, left, top), port.shape, tested=tested)
        painter.setFont(_font(MEDIUM))
        painter.setPen(theme.colour("ink"))
        name = f"{port.count} × {port.label}" if port.count > 1 else port.label
        painter.drawText(QPointF(left, top + _PORT_H + 6), name)
        painter.setFont(_font())
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
        painter.setFont(_font(MEDIUM))
        painter.setPen(theme.colour("ink"))
        painter.drawText(QPointF(left, y + 16), words)


def _font(weight: QFont.Weight = REGULAR) -> QFont:
    """Of the panel's words; all of the panel is enlarged as text is, so they must not be."""
    return font(SMALL_PX / theme.scale, weight)


def _socket_at(port: PanelPort, number: int, left: float, top: float) -> QRectF:
    """Where one of several sockets alike is; ``left`` and ``top`` are of the first."""
    w, h = _SIZES[port.shape]
    return QRectF(left + number * (w + _PORT_GAP), top + (_PORT_H - 10 - h) / 2, w, h)


def _paint_socket(painter: QPainter, at: QRectF, shape: str, *, tested: bool) -> None:
    """One socket; a tested one is filled and carries a post."""
    ink, ground = theme.colour("ink"), theme.colour("good_ground")
    painter.setPen(QPen(ink, 1.5))
    painter.setBrush(ground if tested else theme.colour("paper"))
    middle = at.center()
    if shape in ("car_out", "dc", "car"):
        painter.drawEllipse(at)
        painter.drawEllipse(middle, at.width() / 6, at.width() / 6)
    elif shape == "usb_c":
        painter.drawRoundedRect(at, at.height() / 2, at.height() / 2)
        painter.drawLine(at.center() - QPointF(6, 0), at.center() + QPointF(6, 0))
    elif shape == "usb_a":
        painter.drawRect(at)
        painter.fillRect(QRectF(at.left() + 4, at.top() + 3, at.width() - 8, 4), ink)
    elif shape == "sun":
        painter.drawRoundedRect(at, 4, 4)
        painter.drawLine(middle - QPointF(7, 0), middle + QPointF(7, 0))
        painter.drawLine(middle - QPointF(0, 7), middle + QPointF(0, 7))
    elif shape == "wall":
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
    if tested:
        post = QRectF(at.right() - 5, at.top() - 4, 6, 9)
        painter.fillRect(post, theme.colour("good"))


def _port_width(port: PanelPort) -> float:
    sockets = port.count * (_SIZES[port.shape][0] + _PORT_GAP) - _PORT_GAP
    metrics = QFontMetrics(_font(MEDIUM))
    name = f"{port.count} × {port.label}"
    words = max(
        metrics.horizontalAdvance(port.rating or "no rating"), metrics.horizontalAdvance(name)
    )
    return max(sockets, words + 6, _LEAST_PORT_W)


def _height(group: PortGroup) -> float:
    """Of a row with this group; a bracket takes room only where one is."""
    return _TITLE_H + _PORT_H + _WORDS_H + 4 + (_BRACKET_H if group.shared else 0.0)


def _group_width(group: PortGroup) -> float:
    ports = sum(_port_width(port) + _PORT_GAP for port in group.ports) - _PORT_GAP
    words = QFontMetrics(_font(MEDIUM)).horizontalAdvance(group.shared)
    return max(ports, float(words))
