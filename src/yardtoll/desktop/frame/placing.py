"""Where a window stands and how large it is: within the screen, and as it was left there."""

from PySide6.QtCore import QMargins, QRect, QSize
from PySide6.QtGui import QGuiApplication, QScreen
from PySide6.QtWidgets import QWidget

from yardtoll.desktop.workbench.settings import UserSettings

FIRST_SIZE = QSize(1280, 800)
SMALLEST = QSize(600, 360)
"""Half of a small screen, as a window manager tiles it, or a screen of twice the scale."""
_FRAME = QMargins(6, 38, 6, 6)
"""Of a window manager, at most; none tells before a window is shown (measured on three)."""


def kept_name(screen: QScreen | None) -> str:
    """By which a place is remembered: each screen has its own."""
    if screen is None:
        return "main"
    size = screen.size()
    return f"main {screen.name()} {size.width()}x{size.height()}"


def keep_place(window: QWidget, settings: UserSettings) -> None:
    """Remember size, place and whether it fills the screen."""
    name = kept_name(window.screen())
    settings.keep_geometry(name, window.saveGeometry())
    settings.last_place = name


def restore_place(window: QWidget, settings: UserSettings) -> None:
    """Put a window where it was, on the screen it was left on where that is there still.

    A window that was never here is put in the middle of what is free of the screen.
    """
    room = _room(window)
    least = SMALLEST if room.isNull() else SMALLEST.boundedTo(room.size())
    window.setMinimumSize(least)
    there = [kept_name(screen) for screen in QGuiApplication.screens()]
    last = settings.last_place
    kept = settings.geometry(last if last in there else kept_name(window.screen()))
    if kept is not None and window.restoreGeometry(kept):
        return
    if room.isNull():
        window.resize(FIRST_SIZE)
        return
    window.resize(FIRST_SIZE.boundedTo(room.size()))
    window.move(room.center() - window.rect().center())


def keep_within(window: QWidget) -> None:
    """Draw a window that is seen back into the screen, its title bar with it."""
    screen = window.screen()
    if screen is None or window.isMaximized() or window.isFullScreen():
        return
    free, frame = screen.availableGeometry(), window.frameGeometry()
    if free.contains(frame):
        return
    keep_small_enough(window)
    left = min(max(frame.left(), free.left()), free.right() + 1 - window.frameGeometry().width())
    top = min(max(frame.top(), free.top()), free.bottom() + 1 - window.frameGeometry().height())
    window.move(max(left, free.left()), max(top, free.top()))


def keep_small_enough(window: QWidget) -> None:
    """Make a window no larger than what is free of the screen it has come to."""
    screen = window.screen()
    if screen is None or window.isMaximized() or window.isFullScreen():
        return
    around = window.frameGeometry().size() - window.size()
    window.resize(window.size().boundedTo(screen.availableGeometry().size() - around))


def _room(window: QWidget) -> QRect:
    """What a window may fill, less the frame it will get; null without a screen."""
    screen = window.screen()
    return QRect() if screen is None else screen.availableGeometry() - _FRAME
