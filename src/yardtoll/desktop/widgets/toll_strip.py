"""The toll strip: energy flows left to right, its height in Wh; at each gate a toll falls away."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.core.ledger.ledger import Ledger
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import KEYBOARD_REASONS
from yardtoll.desktop.widgets.drag_out import DragOut
from yardtoll.desktop.widgets.scene_painter import paint_scene
from yardtoll.report.charts.svg import to_svg
from yardtoll.report.charts.toll_strip import IN_LOW_WINDOW, IN_WINDOW, TollStripScene

_REACH = 40
_NARROW, _NARROW_H = 560, 300
"""In a narrower view words go on in another line, and the strip is so high."""
_LEAST_H, _LOW_H = 240, 196
_LOW_BELOW = 620
"""A view of less height has a lower strip, so that what is below it is seen too."""


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
        self.ledger: Ledger | None = None
        self._expanded: Sequence[float | None] = ()
        self._chosen = 1
        self._reaches: dict[int, QRectF] = {}
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(scaled(_LEAST_H))
        self._ring = False
        self._drag_out = DragOut(self)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Toll strip; left and right move along it, Enter opens the ±")
        theme.changed.connect(self.update)

    def show_ledger(self, ledger: Ledger | None, expanded: Sequence[float | None] = ()) -> None:
        """Draw a ledger and U of each of its places in Wh; None, or left out, where unknown."""
        self.ledger, self._expanded, self._chosen = ledger, expanded, 1
        if ledger:
            strip = self._strip(ledger)
            said = (f"{p.title} {strip.shown(i)} Wh" for i, p in enumerate(ledger.places))
            self.setAccessibleDescription(", ".join(said))
        self.update()

    def choose(self, index: int) -> None:
        """Show which place's evidence is open."""
        self._chosen = index
        self.update()

    def fit(self, width: int, height: int) -> None:
        """Leave room for what else there is in a view of so many px."""
        is_low = height < scaled(_LOW_BELOW) and width >= scaled(_NARROW)
        least = _LOW_H if is_low else _LEAST_H if width >= scaled(_NARROW) else _NARROW_H
        self.setMinimumHeight(scaled(least))

    def sizeHint(self) -> QSize:
        return QSize(900, self.minimumHeight())

    def paintEvent(self, _: QPaintEvent) -> None:
        if self.ledger is None:
            return
        with QPainter(self) as painter:
            strip = self._strip(self.ledger)
            painter.scale(theme.scale, theme.scale)
            paint_scene(painter, strip.scene(), scaled_already=True)
            self._reaches = self._places(strip)
            if self._ring and self.hasFocus() and self._chosen % 2:
                x = (self._chosen + 1) / 2 * strip.stage_width
                painter.setPen(QPen(theme.colour("accent"), 2))
                painter.drawRect(QRectF(x - 14, 0.5, 28, strip.base))

    def copied_svg(self) -> str:
        """What is shown, as SVG."""
        return to_svg(self._strip(self.ledger).scene()) if self.ledger is not None else ""

    def _strip(self, ledger: Ledger) -> TollStripScene:
        return TollStripScene(
            ledger=ledger,
            width=self.width() / theme.scale,
            height=self.height() / theme.scale,
            look=IN_LOW_WINDOW if self.height() < scaled(_LEAST_H) else IN_WINDOW,
            palette=theme.tokens,
            expanded=self._expanded,
            chosen=self._chosen,
        )

    def _places(self, strip: TollStripScene) -> dict[int, QRectF]:
        """Where each place is chosen by a click."""
        width = strip.stage_width
        stages = {
            2 * i: QRectF(i * width, 0, width, strip.base) for i in range(len(strip.ledger.stages))
        }
        gates = {
            2 * i + 1: QRectF((i + 1) * width - _REACH, 0, 2 * _REACH, strip.height)
            for i in range(len(strip.ledger.tolls))
        }
        return stages | gates

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._ring = False
        self._drag_out.pressed(event)
        found = self._place_at(event.position())
        if found is not None:
            self._choose(found)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._drag_out.moved(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found = self._place_at(event.position())
        if found is not None:
            self.budget_asked.emit(found)

    def _place_at(self, at: QPointF) -> int | None:
        """A gate reaches into the stages beside it; ``at`` in the widget's pixels."""
        at = at / theme.scale
        gates_first = sorted(self._reaches, key=lambda index: index % 2 == 0)
        return next((i for i in gates_first if self._reaches[i].contains(at)), None)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._ring = event.reason() in KEYBOARD_REASONS
        super().focusInEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self._ring = True
        key = Qt.Key(event.key())
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(key)
        if self.ledger is not None and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.budget_asked.emit(self._chosen)
        elif step is None or self.ledger is None:
            super().keyPressEvent(event)
        else:
            last = len(self.ledger.places) - 1
            self._choose(min(max(self._chosen + step, 0), last))

    def _choose(self, index: int) -> None:
        self.choose(index)
        self.place_chosen.emit(index)
