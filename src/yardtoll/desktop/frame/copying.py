"""Copying what is looked at: the chart, table or figure that has the keys, else the whole stop."""

from PySide6.QtGui import QCursor, QGuiApplication
from PySide6.QtWidgets import QApplication, QWidget

from yardtoll.desktop.frame.stops_stack import StopsStack
from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop_view import StopView


def copy_what_is_seen(host: Host) -> None:
    """Put on the clipboard what has the keys, or is under the pointer, or the stop as a picture."""
    from yardtoll.desktop.widgets.taking_out import chart_of, taken_from

    view = _seen(host.widget)
    if view is None:
        return
    conditions = view.conditions()
    under = QApplication.widgetAt(QCursor.pos())
    if under is None or not view.isAncestorOf(under):
        under = None
    taken = taken_from(QApplication.focusWidget(), conditions) or taken_from(under, conditions)
    what = f"The {taken.what}" if taken is not None else "The whole stop"
    taken = taken or chart_of(view, conditions)
    QGuiApplication.clipboard().setMimeData(taken.mime())
    host.confirm(f"{what} is copied{', as a picture and as text' if taken.image else ''}.")


def _seen(window: QWidget) -> StopView | None:
    stack = window.findChild(StopsStack, "stops")
    view = stack.current_view() if stack is not None else None
    return view if isinstance(view, StopView) else None
