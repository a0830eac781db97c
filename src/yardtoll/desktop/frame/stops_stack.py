"""The place of the stops' views: one is seen at a time, and scrolls in a window too small."""

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QFrame, QScrollArea, QStackedLayout, QWidget

from yardtoll.desktop.turns import Turns


class StopsStack(QFrame):
    """Views, each in an area that scrolls, which does not show from outside."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._pages = _OneSeen(self)

    def add_view(self, view: QWidget) -> None:
        """Add a view; it is never less high than it must be, and moved about in a low window."""
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidget(view)
        area.setFocusProxy(view)
        self._pages.addWidget(area)

    def remove_view(self, view: QWidget) -> None:
        """Take a view out, and let it go; what it was at is dropped."""
        for turns in view.findChildren(Turns):
            turns.drop()
        page = self._page_of(view)
        self._pages.removeWidget(page)
        page.deleteLater()

    def current_view(self) -> QWidget:
        """The view that is seen."""
        shown = self._pages.currentWidget()
        assert isinstance(shown, QScrollArea)  # there is always the first page
        view = shown.widget()
        assert view is not None
        return view

    def show_view(self, view: QWidget) -> None:
        """Show a view that was added."""
        self._pages.setCurrentWidget(self._page_of(view))

    def _page_of(self, view: QWidget) -> QWidget:
        pages = map(self._pages.widget, range(self._pages.count()))
        return next(p for p in pages if isinstance(p, QScrollArea) and p.widget() is view)


class _OneSeen(QStackedLayout):
    """Pages of which only the seen one says what room is needed.

    Qt's own asks every page, seen or not, whenever anything on the seen one changes its size: of
    eleven stops that took longer than all else that a change of a figure does.
    """

    def sizeHint(self) -> QSize:
        shown = self.currentWidget()
        return shown.sizeHint() if shown is not None else QSize()

    def minimumSize(self) -> QSize:
        shown = self.currentWidget()
        if shown is None:
            return QSize()
        return shown.minimumSizeHint().expandedTo(shown.minimumSize())

    def hasHeightForWidth(self) -> bool:
        shown = self.currentWidget()
        return shown is not None and shown.hasHeightForWidth()

    def heightForWidth(self, width: int) -> int:
        item = self.itemAt(self.currentIndex())
        return item.heightForWidth(width) if item is not None else -1
