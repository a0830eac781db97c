"""Verdicts as rails: a post at the limit, the result a dot with its U as a whisker."""

from PySide6.QtCore import QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.rails import Rails
from yardtoll.desktop.widgets.scene_painter import paint_item
from yardtoll.report.charts.rails import RailRow, RailScene, words_width

ROW_H = 46
TALLEST_ROW = 84


class VerdictRails(Rails):
    """Verdicts under one another."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Verdicts", scaled(ROW_H), parent)
        self._rows: list[RailRow] = []
        self._room = 0
        self._words_w = 0.0

    def show_rows(self, rows: list[RailRow]) -> None:
        """Replace the rows; those that are shown already are not painted again."""
        if rows == self._rows:
            return
        self._rows, self._words_w = rows, words_width(rows)
        self.chosen = min(self.chosen, max(len(rows) - 1, 0))
        self.fit_to(self._room)
        self.say_rows([f"{row.title}: {row.word}, {row.figure}" for row in rows])

    def fit_to(self, room: int) -> None:
        """Let few rows stand further apart in ``room`` pixels of height."""
        self._room = room
        count = max(len(self._rows), 1)
        self.row_h = min(max(room // count, scaled(ROW_H)), scaled(TALLEST_ROW))
        self.setFixedHeight(int(count * self.row_h) + 1)

    def show_chosen_in(self, area: QScrollArea) -> None:
        """Scroll so that the chosen row is seen."""
        middle = int((self.chosen + 0.5) * self.row_h)
        area.ensureVisible(0, self.y() + middle, 0, int(self.row_h))

    def sizeHint(self) -> QSize:
        return QSize(900, int(max(len(self._rows), 1) * self.row_h) + 1)

    def paintEvent(self, event: QPaintEvent) -> None:
        seen = event.rect()
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for index, row in enumerate(self._rows):
                if seen.top() <= (index + 1) * self.row_h and index * self.row_h <= seen.bottom():
                    self._paint_row(painter, index, row)

    def _paint_row(self, painter: QPainter, index: int, row: RailRow) -> None:
        top, chosen, scale = index * self.row_h, index == self.chosen, theme.scale
        scene = RailScene(
            row=row,
            width=self.width() / scale,
            height=self.row_h / scale,
            palette=theme.tokens,
            top=top / scale,
            is_chosen=chosen,
            words_w=self._words_w,
        )
        painter.save()
        painter.scale(scale, scale)
        for item in scene.items():
            paint_item(painter, item, scaled_already=True)
        painter.restore()
        if chosen:
            self.paint_ring(painter, top, self.row_h)
