"""Stations side by side as rails on one axis, one of them chosen."""

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QAction, QGuiApplication, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.rails import Rails
from yardtoll.desktop.widgets.scene_painter import paint_scene
from yardtoll.report.charts.lineup import (
    AXIS_H,
    ROW_H,
    TALLEST_ROW,
    Contestant,
    LineupScene,
)
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.svg import to_svg


class LineupRails(Rails):
    """Stations under one another."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Stations side by side", ROW_H, parent)
        self.rows: tuple[Contestant, ...] = ()
        self._title = self._unit = ""
        self._left_is_better = False
        self._room = 0
        copying = QAction("Copy the picture", self)
        copying.triggered.connect(
            lambda _=False: QGuiApplication.clipboard().setPixmap(self.grab())
        )
        self.addAction(copying)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)

    def show_rows(
        self, title: str, unit: str, rows: tuple[Contestant, ...], *, left_is_better: bool
    ) -> None:
        """Replace the rows; the chosen name stays chosen where it is still there."""
        name = self.rows[self.chosen].name if self.chosen < len(self.rows) else ""
        self._title, self._unit, self._left_is_better = title, unit, left_is_better
        self.rows = rows
        names = [row.name for row in rows]
        self.chosen = names.index(name) if name in names else 0
        self.fit_to(self._room)
        self.say_rows([f"{row.name}: {row.figure or row.why}, {row.place}" for row in rows])

    def fit_to(self, room: int) -> None:
        """Let few rows stand further apart in so many pixels of height."""
        self._room = room
        each = (room / theme.scale - AXIS_H) / max(len(self.rows), 1)
        self.row_h = min(max(each, ROW_H), TALLEST_ROW)
        scene = self.scene_for(max(self.width(), 400) / theme.scale)
        self.setFixedHeight(int(scene.height * theme.scale) + 1)

    def scene_for(self, width: float, palette: Palette | None = None) -> LineupScene:
        """As it is drawn for a width."""
        return LineupScene(
            title=self._title,
            unit=self._unit,
            rows=self.rows,
            width=width,
            palette=palette or theme.tokens,
            chosen=self.chosen if palette is None else -1,
            left_is_better=self._left_is_better,
            row_h=self.row_h if palette is None else ROW_H,
        )

    def copied_svg(self) -> str:
        """What is shown, as SVG; "" without rows."""
        return to_svg(self.scene_for(self.width() / theme.scale).scene()) if self.rows else ""

    def row_at(self, y: float) -> int:
        return self.scene_for(self.width() / theme.scale).row_at(y / theme.scale)

    def sizeHint(self) -> QSize:
        return QSize(800, scaled(ROW_H * max(len(self.rows), 1) + 40))

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.scale(theme.scale, theme.scale)
            drawn = self.scene_for(self.width() / theme.scale)
            paint_scene(painter, drawn.scene(), scaled_already=True)
            top = drawn.top_of(self.chosen)
            self.paint_ring(painter, float(int(top)), float(int(self.row_h)))
