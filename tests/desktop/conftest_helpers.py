"""Help in driving the real window and its dialogs."""

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QDialog


def worked_out(qtbot, window) -> None:
    bench = window.bench
    ended = [r for r in bench.session.yard.runs() if r.state != "running"]
    qtbot.waitUntil(lambda: len(bench.analyses.all_of(ended)) == len(ended), timeout=60_000)


def leave_run(window) -> None:
    if window.bench is not None and window.bench.live is not None:
        window.bench.live.leave()
        window.bench.live = None


def in_dialog(fill: Callable[[QDialog], None], kind: type = QDialog) -> None:
    """Fill the next modal dialog as soon as it is open; an error in it closes it and is raised."""

    def look() -> None:
        dialog = QApplication.activeModalWidget()
        if not isinstance(dialog, kind):
            QTimer.singleShot(20, look)
            return
        try:
            fill(dialog)
        finally:
            if dialog.isVisible():
                dialog.reject()

    QTimer.singleShot(0, look)
