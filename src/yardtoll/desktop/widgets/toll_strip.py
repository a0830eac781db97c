"""The toll strip: energy flows left to right, its height in Wh; at each gate a toll falls away."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
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

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.formatting import decimals_for, format_with_uncertainty
from yardtoll.core.ledger.ledger import Ledger, Stage, Toll
from yardtoll.desktop.theme.fonts import MEDIUM, REGULAR, SEMIBOLD, font
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import KEYBOARD_REASONS

_POST_W = 6
_CAP = (18, 8)
_TOLL_ROOM = 84
_TOP_ROOM = 22
_LEAST_TOLL_PX = 3.0
_WIDE_STAGE = 230
_WORDS_H = 112
_NOTHING_WH = 0.5
_REACH = 40


class TollStrip(QWidget):
    """A ledger as a picture: places are its stages and, at the gates between them, its tolls.

    Signals:
        place_chosen(index): a stage or gate was clicked or chosen by key, in the order of
            :attr:`Ledger.places`.
        budget_asked(index): double click, or Enter.
    """

    place_chosen = Signal(int)
    budget_asked = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._ledger: Ledger | None = None
        self._expanded: Sequence[float | None] = ()
        self._chosen = 1
        self._reaches: dict[int, QRectF] = {}
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(250)
        self._ring = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Toll strip; left and right move along it, Enter opens the ±")
        theme.changed.connect(self.update)

    def show_ledger(self, ledger: Ledger | None, expanded: Sequence[float | None] = ()) -> None:
        """Draw a ledger and U of each of its places in Wh; None, or left out, where unknown."""
        self._ledger, self._expanded, self._chosen = ledger, expanded, 1
        if ledger:
            said = (f"{p.title} {self._shown(i)} Wh" for i, p in enumerate(ledger.places))
            self.setAccessibleDescription(", ".join(said))
        self.update()

    def choose(self, index: int) -> None:
        """Show which place's evidence is open."""
        self._chosen = index
        self.update()

    def _u(self, index: int) -> float:
        """U of a place in Wh; 0 where it is not known."""
        return (self._expanded[index] if index < len(self._expanded) else None) or 0.0

    def _shown(self, index: int) -> str:
        """Like "1718 ± 12", with the digits its U allows."""
        assert self._ledger is not None
        energy, u = self._ledger.places[index].energy_wh, self._u(index)
        return format_with_uncertainty(energy, u) if u else f"{round(energy):d}"

    def sizeHint(self) -> QSize:
        return QSize(900, 300)

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._ledger is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ledger = self._ledger
        base = self.height() - _TOLL_ROOM
        stages = ledger.stages
        scale = (base - _TOP_ROOM) / max(stage.energy_wh for stage in stages)
        width = self.width() / len(stages)
        self._reaches = {}
        grounds = [
            QRectF(i * width, base - stage.energy_wh * scale, width, stage.energy_wh * scale)
            for i, stage in enumerate(stages)
        ]
        for i, (ground, stage) in enumerate(zip(grounds, stages, strict=True)):
            self._fill(painter, ground, stage.kind)
            self._reaches[2 * i] = QRectF(i * width, 0, width, base)
        painter.setPen(QPen(theme.colour("ink"), 1.5))
        painter.drawLine(0, base, self.width(), base)
        for i, toll in enumerate(ledger.tolls):
            self._paint_gate(painter, 2 * i + 1, (i + 1) * width, base, toll, scale)
        for i, (ground, stage) in enumerate(zip(grounds, stages, strict=True)):
            self._paint_words(painter, ground, 2 * i, stage)

    def _fill(self, painter: QPainter, ground: QRectF, kind: EnergyKind) -> None:
        colour = QColor(theme.tokens.energy[kind])
        painter.fillRect(ground, colour)
        if kind is EnergyKind.STORED and self._ledger and ground.left() == 0:
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
        words = QRectF(x - 150, block.bottom() + 3, 300, 22)
        centre = int(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        painter.drawText(words, centre, f"{_lost(toll.energy_wh, self._u(index))} Wh")
        painter.setPen(theme.colour("muted"))
        painter.setFont(font(14))
        painter.drawText(words.translated(0, 20), centre, toll.title)
        self._reaches[index] = QRectF(x - _REACH, 0, 2 * _REACH, self.height())
        if self._ring and self.hasFocus() and index == self._chosen:
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.drawRect(QRectF(x - 14, 0.5, 28, base))

    def _paint_words(self, painter: QPainter, at: QRectF, index: int, stage: Stage) -> None:
        """Name, figure and ± inside a stage."""
        assert self._ledger is not None
        left = at.left() + 22
        # A low stage has no room for its words: they stand on it, not in it.
        inside = at.height() >= _WORDS_H
        ink = QColor(theme.tokens.on_energy[stage.kind]) if inside else theme.colour("ink")
        painter.setPen(ink)
        top = max(at.top() + 12, _TOP_ROOM) if inside else max(at.top() - _WORDS_H + 8, 0)
        room = at.width() - 40
        painter.setFont(font(16, MEDIUM))
        painter.drawText(QRectF(left, top, room, 22), stage.title)
        if index == self._chosen:
            width = painter.fontMetrics().horizontalAdvance(stage.title)
            painter.fillRect(QRectF(left, top + 20, width, 2), ink)
        wide = at.width() > _WIDE_STAGE
        painter.setFont(font(32 if wide else 21, SEMIBOLD))
        painter.drawText(
            QRectF(left, top + 20, room, 42), f"{self._shown(index).split(' ± ')[0]} Wh"
        )
        painter.setFont(font(14, REGULAR))
        below = top + (62 if wide else 48)
        for i, line in enumerate(self._notes(index, stage, painter, room)):
            painter.drawText(QRectF(left, below + 20 * i, room, 22), line)

    def _notes(self, index: int, stage: Stage, painter: QPainter, room: float) -> list[str]:
        """The ± and the share of the rating, on one line where there is room for both."""
        assert self._ledger is not None
        rated, u = self._ledger.rated_wh, self._u(index)
        if index == 0 and not stage.sensitivities.drawn:
            return ["the maker's figure"]
        share = f"{100 * stage.energy_wh / rated:.{_share_decimals(u, rated)}f} % of rated"
        notes = [share]
        if u:
            within = f"± {self._shown(index).split(' ± ')[-1]} Wh"
            both = f"{within} · {share}"
            fits = painter.fontMetrics().horizontalAdvance(both) <= room
            notes = [both] if fits else [within, share]
        if stage.kind is EnergyKind.DELIVERED and self._ledger.own_draw_wh:
            notes.append(f"{self._ledger.own_draw_wh:.1f} Wh of it fed the meter")
        return notes

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._ring = False
        found = self._place_at(event.position())
        if found is not None:
            self._choose(found)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found = self._place_at(event.position())
        if found is not None:
            self.budget_asked.emit(found)

    def _place_at(self, at: QPointF) -> int | None:
        """A gate reaches into the stages beside it."""
        gates_first = sorted(self._reaches, key=lambda index: index % 2 == 0)
        return next((i for i in gates_first if self._reaches[i].contains(at)), None)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._ring = event.reason() in KEYBOARD_REASONS
        super().focusInEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self._ring = True
        key = Qt.Key(event.key())
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(key)
        if self._ledger is not None and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.budget_asked.emit(self._chosen)
        elif step is None or self._ledger is None:
            super().keyPressEvent(event)
        else:
            last = len(self._ledger.places) - 1
            self._choose(min(max(self._chosen + step, 0), last))

    def _choose(self, index: int) -> None:
        self.choose(index)
        self.place_chosen.emit(index)


def _lost(energy_wh: float, expanded: float) -> str:
    """A toll with its sign: what is lost falls, a surplus rises."""
    sign = "" if abs(energy_wh) < _NOTHING_WH else "−" if energy_wh > 0 else "+"
    size = abs(energy_wh)
    return sign + (format_with_uncertainty(size, expanded) if expanded else f"{size:.0f}")


def _share_decimals(expanded: float, rated_wh: float) -> int:
    return min(decimals_for(100 * expanded / rated_wh), 1) if expanded else 1
