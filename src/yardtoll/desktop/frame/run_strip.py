"""The run strip: in every view, what is running now and when to be back."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from yardtoll.core.uncertainty.figure import Figure
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import MARGIN, STRIP_H
from yardtoll.desktop.widgets.announcing import announce
from yardtoll.desktop.widgets.basics import button, label

if TYPE_CHECKING:
    from yardtoll.running.live_figures import LiveFigures

_LABEL_SPARE = 4


class RunStrip(QWidget):
    """One line at the window's foot.

    Signals:
        run_asked: show the run.
        plan_asked: nothing runs; plan something.
    """

    run_asked = Signal()
    plan_asked = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._told_tenth: int | None = None
        self._name = ""
        self.setAccessibleName("Run strip")
        self.setObjectName("strip")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._fit()
        theme.changed.connect(self._fit)
        self._station = label("", "strong")
        self._method = label("", "muted")
        self._watts, self.energy, self._elapsed = (label("", "strong") for _ in range(3))
        self._track = Track()
        self._end = label("")
        self.go_button = button("Plan a run", self._pressed)
        self._running = False
        layout = QHBoxLayout(self)
        layout.setContentsMargins(20, 0, MARGIN, 0)
        layout.setSpacing(22)
        for widget in (self._station, self._method, self._watts, self.energy, self._elapsed):
            layout.addWidget(widget)
        layout.addWidget(self._track, 1)
        layout.addWidget(self._end)
        layout.addWidget(self.go_button)
        self.show_idle("")

    def _fit(self) -> None:
        """As high as the size of text asks."""
        self.setFixedHeight(scaled(STRIP_H))

    def show_idle(self, said: str) -> None:
        """Nothing is running."""
        self._running = False
        self._told_tenth = None
        self.setAccessibleDescription("Nothing is running")
        self._name = "Nothing is running"
        self._method.setText(said)
        for widget in (self._watts, self.energy, self._elapsed, self._end):
            widget.setText("")
        self._track.setVisible(False)
        self.go_button.setText("Plan a run")
        self._fit_words()
        self.setCursor(Qt.CursorShape.ArrowCursor)

    def show_run(self, figures: LiveFigures) -> None:
        """Show the run in progress."""
        self._running = True
        self._name = figures.station[:28]
        self._method.setText(figures.method)
        self._watts.setText(_in_strip(figures.power, "W"))
        self.energy.setText(_in_strip(figures.energy, "Wh"))
        self._elapsed.setText(figures.elapsed)
        self._track.setVisible(True)
        self._track.set_share(figures.share_done)
        self._end.setText(figures.ends)
        self._tell(figures)
        self.go_button.setText("See the run")
        self._fit_words()
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def _tell(self, figures: LiveFigures) -> None:
        """In words for those who hear it; told by itself at each further tenth of the run."""
        parts = (self._watts.text(), self.energy.text(), figures.elapsed, figures.ends)
        said = f"{figures.station}: {', '.join(part for part in parts if part)}"
        self.setAccessibleDescription(said)
        tenth = None if figures.share_done is None else int(10 * figures.share_done)
        if tenth is not None and tenth != self._told_tenth:
            announce(self, said)
        self._told_tenth = tenth

    def _fit_words(self) -> None:
        """Figures come first: the method gives way to them, then a part of the station's name."""
        figures = (self._watts, self.energy, self._elapsed, self._end, self.go_button)
        needed = sum(widget.sizeHint().width() for widget in figures)
        if not self._track.isHidden():
            needed += self._track.minimumWidth()
        layout = self.layout()
        assert layout is not None
        margins = layout.contentsMargins()
        around = margins.left() + margins.right() + layout.spacing() * (layout.count() - 1)
        room = self.width() - needed - around
        metrics = self._station.fontMetrics()
        wide = metrics.horizontalAdvance(self._name) + _LABEL_SPARE
        self._method.setVisible(room >= wide + self._method.sizeHint().width())
        fitting = metrics.elidedText(self._name, Qt.TextElideMode.ElideRight, max(room, 0))
        if fitting != self._station.text():
            self._station.setText(fitting)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_words()

    def mousePressEvent(self, _: QMouseEvent) -> None:
        if self._running:
            self.run_asked.emit()

    def _pressed(self) -> None:
        (self.run_asked if self._running else self.plan_asked).emit()


def _in_strip(figure: Figure | None, unit: str) -> str:
    """Like "412.3 ± 2.4 W"; its budget opens with the run."""
    from yardtoll.running.live_figures import value_text, within_text

    return " ".join(part for part in (value_text(figure), within_text(figure), unit) if part)


class Track(QWidget):
    """A thin line with a post at how far the run is."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._share = 0.0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumWidth(60)

    def set_share(self, share: float | None) -> None:
        """0–1, or None where it is not known."""
        self._share = min(max(share or 0.0, 0.0), 1.0)
        self.setAccessibleDescription(f"{self._share:.0%} done")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(240, 16)

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as painter:
            middle, width = self.height() / 2, self.width()
            painter.fillRect(QRectF(0, middle - 2, width, 4), theme.colour("muted"))
            done = self._share * (width - 3)
            painter.fillRect(QRectF(0, middle - 2, done, 4), theme.colour("strip_accent"))
            painter.fillRect(QRectF(done, middle - 7, 3, 14), theme.colour("strip_ink"))
