"""Opening the manual from the main window."""

from PySide6.QtWidgets import QWidget

from yardtoll.desktop.frame.stops_stack import StopsStack
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.widgets.help_window import HelpWindow
from yardtoll.manual.book import METHODS_LIST, START


class Manual:
    """The manual's one window, made when it is first asked for.

    Args:
        window: whose stops it explains.
    """

    def __init__(self, window: QWidget) -> None:
        self._window = window
        self.opened: HelpWindow | None = None

    def open(self, key: str) -> None:
        """Turn to a page, by its key."""
        if self.opened is None:
            self.opened = HelpWindow(self._window)
        self.opened.open_page(key)

    def open_here(self) -> None:
        """The page of what is shown."""
        view = self._view()
        self.open(view.help_page() if view is not None else START)

    def open_method(self) -> None:
        """The page of the method that is shown."""
        view = self._view()
        self.open((view.method_page() if view is not None else "") or METHODS_LIST)

    def _view(self) -> StopView | None:
        stack = self._window.findChild(StopsStack, "stops")
        view = stack.current_view() if stack is not None else None
        return view if isinstance(view, StopView) else None
