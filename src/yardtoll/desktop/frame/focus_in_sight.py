"""What the keys go to is scrolled into sight, also from outside the area that it is in."""

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QApplication, QScrollArea, QWidget


class FocusInSight(QObject):
    """Follows the focus through all windows; the toolkit does so only inside one area."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._follow)

    def _follow(self, _: QWidget | None, now: QWidget | None) -> None:
        # What is seen in part stays where it is: a click on it must not move it.
        if now is None or not now.isVisible() or not now.visibleRegion().isEmpty():
            return
        around = now.parentWidget()
        while around is not None and not around.isWindow():
            if isinstance(around, QScrollArea):
                around.ensureWidgetVisible(now)
            around = around.parentWidget()
