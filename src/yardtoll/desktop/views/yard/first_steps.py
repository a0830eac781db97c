"""What a yard without stations shows in the place of lanes: the gates before the first verdict."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QGridLayout, QWidget

from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import button, label
from yardtoll.desktop.widgets.wrapped_row import WrappedRow

_STEPS = (
    ("Add the station", "Its name, rated Wh and rated W."),
    ("Write down its claims", "Paste the listing: each figure is kept with its source."),
    ("Plan its first run", "A load, what to check first, and when to be back."),
)
_POST_W, _CAP_W, _CAP_H, _GROUND_H, _BELOW_GROUND = 6, 18, 8, 2, 6
_TITLES, _WORDS, _WAYS, _REST, _GROUND = range(5)


class FirstSteps(QWidget):
    """Three gates in a row, and how to pass the first.

    Signals:
        station_asked, import_asked: how a yard gets its first station.
    """

    station_asked = Signal()
    import_asked = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, _BELOW_GROUND)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(0)
        for number, (title, words) in enumerate(_STEPS, 1):
            post, beside = 2 * number - 2, 2 * number - 1
            grid.addWidget(Post(), _TITLES, post, _GROUND, 1)
            head = label(f"{number}  {title}", "heading", wrap=True)
            head.setContentsMargins(0, _CAP_H + 10, 0, 6)
            head.setAlignment(Qt.AlignmentFlag.AlignTop)
            grid.addWidget(head, _TITLES, beside)
            said = label(words, "quiet", wrap=True)
            said.setContentsMargins(0, 0, 0, 10)
            said.setAlignment(Qt.AlignmentFlag.AlignTop)
            grid.addWidget(said, _WORDS, beside)
            grid.setColumnStretch(beside, 1)
        ways = WrappedRow(12)
        ways.addWidget(button("Add a station", self.station_asked.emit, "primary"))
        ways.addWidget(button("Import a log", self.import_asked.emit, "link"))
        grid.addLayout(ways, _WAYS, 1)
        grid.setRowMinimumHeight(_REST, 14)
        grid.setRowStretch(_REST, 1)
        grid.setRowMinimumHeight(_GROUND, _GROUND_H)

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as painter:
            top = self.height() - _BELOW_GROUND - _GROUND_H
            painter.fillRect(0, top, self.width(), _GROUND_H, theme.colour("ink"))


class Post(QWidget):
    """A gate's post with its cap, as high as its place."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFixedWidth(_CAP_W)

    def paintEvent(self, _: QPaintEvent) -> None:
        ink = theme.colour("ink")
        with QPainter(self) as painter:
            painter.fillRect(0, 0, _CAP_W, _CAP_H, ink)
            painter.fillRect((_CAP_W - _POST_W) // 2, 0, _POST_W, self.height(), ink)
