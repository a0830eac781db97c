"""A chart of the report in the window: drawn anew for the size it has, and copied as a picture."""

from collections.abc import Callable

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QAction, QGuiApplication, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.drag_out import DragOut
from yardtoll.desktop.widgets.scene_painter import paint_scene
from yardtoll.desktop.widgets.taking_out import chart_of
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.report.charts.svg import to_svg

MakeScene = Callable[[tuple[float, float], Palette], Scene]


class SceneView(QWidget):
    """Shows what a function draws for a size and a palette."""

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._make: MakeScene | None = None
        self._drag_out = DragOut(self)
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        copying = QAction("Copy the picture", self)
        copying.triggered.connect(lambda _=False: self.copy())
        self.addAction(copying)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
        theme.changed.connect(self.update)

    def show_scene(self, make: MakeScene | None) -> None:
        """Show another one; None for nothing."""
        self._make = make
        scene = self.scene()
        self.setAccessibleDescription(scene.title if scene is not None else "")
        self.update()

    def scene(self) -> Scene | None:
        """What is shown now."""
        if self._make is None or self.width() < 60 or self.height() < 60:
            return None
        size = (self.width() / theme.scale, self.height() / theme.scale)
        return self._make(size, theme.tokens)

    def copied_svg(self) -> str:
        """What is shown, as SVG."""
        scene = self.scene()
        return to_svg(scene) if scene is not None else ""

    def copy(self) -> None:
        """Put the picture as it is shown on the clipboard."""
        QGuiApplication.clipboard().setMimeData(chart_of(self).mime())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not self._drag_out.pressed(event):
            super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._drag_out.moved(event):
            super().mouseMoveEvent(event)

    def sizeHint(self) -> QSize:
        return QSize(480, 280)

    def minimumSizeHint(self) -> QSize:
        return QSize(300, scaled(180))

    def paintEvent(self, _: QPaintEvent) -> None:
        scene = self.scene()
        if scene is not None:
            with QPainter(self) as painter:
                painter.scale(theme.scale, theme.scale)
                paint_scene(painter, scene, scaled_already=True)
