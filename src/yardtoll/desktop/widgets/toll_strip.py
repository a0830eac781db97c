"""The toll strip: energy flows left to right, its height in Wh; at each gate a toll falls away."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.core.figures import format_with_uncertainty
from yardtoll.core.ledger import Kind, Ledger, Toll
from yardtoll.desktop.theme.fonts import MEDIUM, REGULAR, SEMIBOLD, font
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import KEYBOARD_REASONS

_POST_W = 6
_CAP = (18, 8)
_TOLL_ROOM = 84
_TOP_ROOM = 22
_LEAST_TOLL_PX = 3.0
_WIDE_STAGE = 230
_WORDS_H = 92
_NOTHING_WH = 0.5


class TollStrip(QWidget):
    """A ledger as a picture.

    Signals:
        gate_chosen(index): a gate was clicked or chosen by key; −1 for the delivered end.
    """

    gate_chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._ledger: Ledger | None = None
        self._expanded_wh: float | None = None
        self._chosen = 0
        self._gates: list[QRectF] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(250)
        self._ring = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Toll strip")
        theme.changed.connect(self.update)

    def show_ledger(self, ledger: Ledger | None, expanded_wh: float | None) -> None:
        """Draw a ledger; U of the delivered energy is None where no meter is stated."""
        self._ledger = ledger
        self._expanded_wh = expanded_wh
        self._chosen = 0
        if ledger:
            parts = [f"{ledger.start_title.lower()} {ledger.start_wh:.0f} Wh"]
            parts += [f"{toll.title} {toll.energy_wh:.0f} Wh" for toll in ledger.tolls]
            parts.append(f"delivered {ledger.delivered_wh:.0f} Wh")
            self.setAccessibleDescription(", ".join(parts))
        self.update()

    def choose(self, index: int) -> None:
        """Show which gate's evidence is open."""
        self._chosen = index
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(900, 300)

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._ledger is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ledger = self._ledger
        base = self.height() - _TOLL_ROOM
        most = max(energy for _, energy, _ in self._stages(ledger))
        scale = (base - _TOP_ROOM) / most
        stages = self._stages(ledger)
        width = self.width() / len(stages)
        self._gates = []
        for i, (kind, energy, _title) in enumerate(stages):
            ground = QRectF(i * width, base - energy * scale, width, energy * scale)
            self._fill(painter, ground, kind)
        painter.setPen(QPen(theme.colour("ink"), 1.5))
        painter.drawLine(0, base, self.width(), base)
        for i, toll in enumerate(ledger.tolls):
            self._paint_gate(painter, i, (i + 1) * width, base, toll, scale)
        for i, (kind, energy, title) in enumerate(stages):
            at = QRectF(i * width, base - energy * scale, width, energy * scale)
            self._paint_words(painter, at, kind, energy, title, last=i == len(stages) - 1)

    def _stages(self, ledger: Ledger) -> list[tuple[Kind, float, str]]:
        """What flows between the gates: (kind, Wh, title)."""
        stages = [(ledger.start_kind, ledger.start_wh, ledger.start_title)]
        left = ledger.start_wh
        for toll in ledger.tolls[:-1]:
            left -= toll.energy_wh
            stages.append((toll.leaves_kind, left, toll.leaves))
        return [*stages, (Kind.DELIVERED, ledger.delivered_wh, "Delivered")]

    def _fill(self, painter: QPainter, ground: QRectF, kind: Kind) -> None:
        colour = QColor(theme.tokens.energy[kind])
        painter.fillRect(ground, colour)
        if kind is Kind.STORED and self._ledger and ground.left() == 0:
            # The rating is the maker's word, not a measurement: hatched, so colour is not alone.
            lines = QColor(theme.tokens.on_energy[kind])
            lines.setAlpha(46)
            painter.fillRect(ground, QBrush(lines, Qt.BrushStyle.BDiagPattern))

    def _paint_gate(
        self, painter: QPainter, index: int, x: float, base: float, toll: Toll, scale: float
    ) -> None:
        """A post, the toll below the line, and its words."""
        ink = theme.colour("accent" if index == self._chosen else "ink")
        painter.fillRect(QRectF(x - _POST_W / 2, 4, _POST_W, base - 4), ink)
        painter.fillRect(QRectF(x - _CAP[0] / 2, 2, *_CAP), ink)
        height = min(max(abs(toll.energy_wh) * scale, _LEAST_TOLL_PX), _TOLL_ROOM - 48)
        block = QRectF(x - 60, base + 6, 120, height)
        painter.fillRect(block, QColor(theme.tokens.energy[toll.kind]))
        painter.setPen(QPen(theme.colour("muted"), 1))
        painter.drawRect(block)
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(16, SEMIBOLD))
        sign = "" if abs(toll.energy_wh) < _NOTHING_WH else "−" if toll.energy_wh > 0 else "+"
        words = QRectF(x - 150, block.bottom() + 3, 300, 22)
        centre = int(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        painter.drawText(words, centre, f"{sign}{abs(toll.energy_wh):.0f} Wh")
        painter.setPen(theme.colour("muted"))
        painter.setFont(font(14))
        painter.drawText(words.translated(0, 20), centre, toll.title)
        reach = QRectF(x - 70, 0, 140, self.height())
        self._gates.append(reach)
        if self._ring and self.hasFocus() and index == self._chosen:
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.drawRect(QRectF(x - 14, 0.5, 28, base))

    def _paint_words(
        self, painter: QPainter, at: QRectF, kind: Kind, energy: float, title: str, *, last: bool
    ) -> None:
        """Name, figure and ± inside a stage."""
        assert self._ledger is not None
        left = at.left() + 22
        # A low stage has no room for its words: they stand on it, not in it.
        inside = at.height() >= _WORDS_H
        painter.setPen(QColor(theme.tokens.on_energy[kind]) if inside else theme.colour("ink"))
        top = max(at.top() + 12, _TOP_ROOM) if inside else max(at.top() - _WORDS_H + 8, 0)
        room = at.width() - 40
        painter.setFont(font(16, MEDIUM))
        painter.drawText(QRectF(left, top, room, 22), title)
        wide = at.width() > _WIDE_STAGE
        painter.setFont(font(32 if wide else 21, SEMIBOLD))
        painter.drawText(QRectF(left, top + 20, room, 42), f"{energy:.0f} Wh")
        painter.setFont(font(14, REGULAR))
        share = f"{100 * energy / self._ledger.rated_wh:.1f} % of rated"
        if last and self._expanded_wh is not None:
            plus_minus = format_with_uncertainty(energy, self._expanded_wh).split(" ± ")[-1]
            share = f"± {plus_minus} Wh · {share}" if at.width() > 190 else f"± {plus_minus} Wh"
        elif title == "Rated":
            share = "the maker's figure"
        below = top + (62 if wide else 48)
        painter.drawText(QRectF(left, below, room, 22), share)
        if last and self._ledger.own_draw_wh:
            own = f"{self._ledger.own_draw_wh:.1f} Wh of it fed the meter"
            painter.drawText(QRectF(left, below + 20, room, 22), own)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._ring = False
        for index, reach in enumerate(self._gates):
            if reach.contains(event.position()):
                self._choose(index)
                return
        self._choose(-1)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._ring = event.reason() in KEYBOARD_REASONS
        super().focusInEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self._ring = True
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None or self._ledger is None:
            super().keyPressEvent(event)
            return
        order = [*range(len(self._ledger.tolls)), -1]
        at = min(max(order.index(self._chosen) + step, 0), len(order) - 1)
        self._choose(order[at])

    def _choose(self, index: int) -> None:
        self.choose(index)
        self.gate_chosen.emit(index)
