"""Stations side by side as rails on one axis, one of them chosen."""

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import (
    QAction,
    QFocusEvent,
    QGuiApplication,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import KEYBOARD_REASONS
from yardtoll.desktop.widgets.scene_painter import paint_scene
from yardtoll.report.charts.lineup import (
    AXIS_H,
    ROW_H,
    TALLEST_ROW,
    Contestant,
    LineupScene,
)
from yardtoll.report.charts.palette import Palette


class LineupRails(QWidget):
    """Rows under one another.

    Signals:
        row_chosen(index): by click or arrow keys.
        row_opened(index): by Enter or double click.
    """

    row_chosen = Signal(int)
    row_opened = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.rows: tuple[Contestant, ...] = ()
        self.chosen = 0
        self._title = self._unit = ""
        self._left_is_better = self._is_ringed = False
        self._row_h, self._room = ROW_H, 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Stations side by side")
        copying = QAction("Copy the picture", self)
        copying.triggered.connect(
            lambda _=False: QGuiApplication.clipboard().setPixmap(self.grab())
        )
        self.addAction(copying)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
        theme.changed.connect(self.update)

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
        self._describe()
        self.update()

    def fit_to(self, room: int) -> None:
        """Let few rows stand further apart in so many pixels of height."""
        self._room = room
        each = (room - AXIS_H) / max(len(self.rows), 1)
        self._row_h = min(max(each, ROW_H), TALLEST_ROW)
        self.setFixedHeight(int(self.scene_for(float(max(self.width(), 400))).height) + 1)

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
            row_h=self._row_h if palette is None else ROW_H,
        )

    def choose(self, index: int) -> None:
        """Choose a row."""
        if 0 <= index < len(self.rows) and index != self.chosen:
            self.chosen = index
            self._describe()
            self.row_chosen.emit(index)
            self.update()

    def _describe(self) -> None:
        if self.chosen < len(self.rows):
            row = self.rows[self.chosen]
            self.setAccessibleDescription(f"{row.name}: {row.figure or row.why}, {row.place}")

    def sizeHint(self) -> QSize:
        return QSize(800, int(ROW_H * max(len(self.rows), 1)) + 40)

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint_scene(painter, self.scene_for(float(self.width())).scene())
            if self.hasFocus() and self._is_ringed:
                painter.setPen(QPen(theme.colour("accent"), 2))
                top = int(self.scene_for(float(self.width())).top_of(self.chosen))
                painter.drawRect(1, top + 1, self.width() - 2, int(self._row_h) - 2)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._is_ringed = False
        self.choose(self.scene_for(float(self.width())).row_at(event.position().y()))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        row = self.scene_for(float(self.width())).row_at(event.position().y())
        if row >= 0:
            self.row_opened.emit(row)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self._is_ringed = True
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.choose(self.chosen + (1 if key is Qt.Key.Key_Down else -1))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.rows:
            self.row_opened.emit(self.chosen)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._is_ringed = event.reason() in KEYBOARD_REASONS
        super().focusInEvent(event)
