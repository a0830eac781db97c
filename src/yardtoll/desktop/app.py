"""Starting the window."""

import os
import signal
import sys
from collections.abc import MutableMapping
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from yardtoll import __version__
from yardtoll.desktop.actions.region import chosen_region
from yardtoll.desktop.frame.main_window import MainWindow
from yardtoll.desktop.frame.program_log import report_uncaught, start_logging
from yardtoll.desktop.theme.fonts import load_fonts
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.desktop.workbench.tidying import Tidying
from yardtoll.desktop.workbench.warming import Warming
from yardtoll.store.shown_region import show_for

DEMO, ARCHIVE = "--demo", "--archive"
EXIT_CANNOT, EXIT_USAGE = 1, 2
_WARM_AFTER_MS = 250


def use_the_desktops_dialogs(
    environment: MutableMapping[str, str], system: Path = Path("/usr/share")
) -> None:
    """Have files asked for by the desktop's own dialogs, where its portal offers them.

    Args:
        system: where the portal and its backends say that they are there.
    """
    session = environment.get("DBUS_SESSION_BUS_ADDRESS") and environment.get("XDG_CURRENT_DESKTOP")
    portal = system / "dbus-1" / "services" / "org.freedesktop.portal.Desktop.service"
    backends = (system / "xdg-desktop-portal" / "portals").glob("*.portal")
    if session and portal.exists() and any(backends):
        environment.setdefault("QT_QPA_PLATFORMTHEME", "xdgdesktopportal")


_TURN_S = 5e-4


def make_app() -> QApplication:
    """The application object with fonts loaded."""
    # The window's thread waits for its turn each time Qt calls back while work goes on beside it:
    # of Python's usual 5 ms a page with some tens of painted parts would stand still for long.
    sys.setswitchinterval(_TURN_S)
    found = QApplication.instance()
    if found is None:
        use_the_desktops_dialogs(os.environ)
    app = found if isinstance(found, QApplication) else QApplication(sys.argv[:1])
    app.setApplicationName("yardtoll")
    app.setApplicationDisplayName("Yard Toll")
    app.setApplicationVersion(__version__)
    app.setDesktopFileName("yardtoll")
    app.setWindowIcon(QIcon(str(Path(__file__).parent / "assets" / "icons" / "yardtoll.svg")))
    load_fonts()
    return app


def make_window(settings: UserSettings | None = None) -> MainWindow:
    """The main window in the user's theme, with no yard yet."""
    settings = settings or UserSettings()
    prefers = settings.preferences
    theme.apply(prefers.colours, prefers.text_percent)
    show_for(chosen_region(settings))
    return MainWindow(settings)


def _has_display() -> bool:
    """Whether Qt has somewhere to open a window; without, it would end the program itself."""
    return any(os.environ.get(n) for n in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))


def _wrong_archive(address: str) -> str:
    """Why an address will not do; "" where it will."""
    from yardtoll.store.shared.address import ArchiveError, archive_url

    try:
        archive_url(address)
    except ArchiveError as error:
        return str(error)
    return ""


def run_window(arguments: list[str]) -> int:
    """`yardtoll [--archive URL] [FILE.yard]` or `yardtoll --demo`: stay until it closes."""
    archive = None
    if arguments and arguments[0] == ARCHIVE and len(arguments) > 1:
        archive, arguments = arguments[1], arguments[2:]
    files = [a for a in arguments if a != DEMO]
    unknown = any(a.startswith("-") for a in files)
    if unknown or len(files) > 1 or (files and DEMO in arguments):
        print(
            "usage: yardtoll [--archive postgresql://…] [FILE.yard] | yardtoll --demo",
            file=sys.stderr,
        )
        return EXIT_USAGE
    if archive is not None and (wrong := _wrong_archive(archive)):
        print(f"yardtoll: {wrong}", file=sys.stderr)
        return EXIT_CANNOT
    if not _has_display():
        print(
            "yardtoll: there is no display to open a window on; "
            "`yardtoll compute --help` lists what a shell can do",
            file=sys.stderr,
        )
        return EXIT_CANNOT
    start_logging()
    # Ctrl+C in the shell that started the window ends it; the run's samples are on disk.
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    app = make_app()
    window = make_window()
    if archive is not None:
        window.settings.archive = archive
    report_uncaught(window.say)
    window.show()
    if DEMO in arguments:
        window.open_demo()
    elif files:
        window.open_yard(Path(files[0]))
    elif window.settings.recent_yards:
        window.open_yard(window.settings.recent_yards[0])
    tidying = Tidying(app)
    tidying.start()
    warming = Warming(done=tidying.settle)
    QTimer.singleShot(_WARM_AFTER_MS, warming.start)
    app.aboutToQuit.connect(warming.stop)
    app.aboutToQuit.connect(tidying.stop)
    return app.exec()
