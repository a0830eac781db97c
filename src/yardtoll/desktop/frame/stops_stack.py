"""The place of the stops' views: one is seen at a time, and can be scrolled where text is large."""

from PySide6.QtWidgets import QScrollArea, QStackedWidget, QWidget


class StopsStack(QStackedWidget):
    """Views by themselves, or each in an area that scrolls; which, does not show from outside."""

    def add_view(self, view: QWidget, *, scrolls: bool) -> None:
        """Add a view.

        Args:
            scrolls: it keeps the size that its text needs, and is moved about in the window.
        """
        if not scrolls:
            self.addWidget(view)
            return
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(view)
        area.setFocusProxy(view)
        self.addWidget(area)

    def remove_view(self, view: QWidget) -> None:
        """Take a view out, and let it go."""
        area = self._area_of(view)
        self.removeWidget(area or view)
        (area or view).deleteLater()

    def currentWidget(self) -> QWidget:
        shown = super().currentWidget()
        assert shown is not None  # there is always the first page
        inside = shown.widget() if isinstance(shown, QScrollArea) else None
        return inside or shown

    def setCurrentWidget(self, view: QWidget) -> None:
        super().setCurrentWidget(self._area_of(view) or view)

    def _area_of(self, view: QWidget) -> QScrollArea | None:
        for index in range(self.count()):
            area = self.widget(index)
            if isinstance(area, QScrollArea) and area.widget() is view:
                return area
        return None
