"""What a yard without stations shows in the place of lanes: the gates before the first verdict."""

from PySide6.QtCore import QRect, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QWidget

from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import button, label

_STEPS = (
    ("Add the station", "Its name, rated Wh and rated W."),
    ("Write down its claims", "Paste the listing: each figure is kept with its source."),
    ("Plan its first run", "A load, what to check first, and when to be back."),
)
_POST_W, _CAP_W, _CAP_H, _GROUND_H = 6, 18, 8, 2
_BESIDE_POST = 18


class FirstSteps(QWidget):
    """Three gates in a row, and how to pass the first.

    Signals:
        station_asked, import_asked: how a yard gets its first station.
    """

    station_asked = Signal()
    import_asked = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(_CAP_W // 2 + _BESIDE_POST, _CAP_H + 12, 0, _BESIDE_POST)
        self._grid.setHorizontalSpacing(_CAP_W + _BESIDE_POST)
        self._grid.setVerticalSpacing(6)
        for place, (title, words) in enumerate(_STEPS):
            self._grid.addWidget(label(f"{place + 1}  {title}", "heading", wrap=True), 0, place)
            said = label(words, "quiet", wrap=True)
            said.setAlignment(Qt.AlignmentFlag.AlignTop)
            self._grid.addWidget(said, 1, place)
            self._grid.setColumnStretch(place, 1)
        self._grid.setRowStretch(3, 1)
        ways = QHBoxLayout()
        ways.addWidget(button("Add a station", self.station_asked.emit, "primary"))
        ways.addSpacing(8)
        ways.addWidget(button("Import a log", self.import_asked.emit, "link"))
        ways.addStretch(1)
        self._grid.addLayout(ways, 2, 0, 1, len(_STEPS))

    def paintEvent(self, _: QPaintEvent) -> None:
        ink = theme.colour("ink")
        ground = self.height() - _GROUND_H
        with QPainter(self) as painter:
            for place in range(len(_STEPS)):
                cell = self._grid.cellRect(0, place)
                middle = cell.left() - _BESIDE_POST
                painter.fillRect(QRect(middle - _CAP_W // 2, 0, _CAP_W, _CAP_H), ink)
                painter.fillRect(QRect(middle - _POST_W // 2, 0, _POST_W, ground), ink)
            painter.fillRect(QRect(0, ground, self.width(), _GROUND_H), ink)
