"""Help in driving the real window and its dialogs."""

import subprocess
import sys
from collections.abc import Callable
from contextlib import contextmanager

from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QTimer, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QDialog, QLabel

from yardtoll.core.planning.loads import LoadSetting
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.turns import Turns
from yardtoll.store.records import Load

FENNEL, TANSY, SORREL = 1, 2, 3
"""The demo's stations."""


def worked_out(qtbot, window) -> None:
    """Wait until all results are there, and shown."""
    bench = window.bench
    ended = [r for r in bench.session.yard.runs() if r.state != "running"]
    analyses = bench.analyses
    qtbot.waitUntil(
        lambda: (
            len(analyses.all_of(ended)) == len(ended)
            and analyses.settled
            and not any(turns.is_under_way for turns in window.findChildren(Turns))
        ),
        timeout=60_000,
    )


def at_rest(qtbot, window) -> None:
    """Wait until nothing is left to be worked out, set, styled or laid out."""
    calm = 0
    for _ in range(1500):
        busy = (
            theme.is_changing
            or window.jobs.busy
            or not window.bench.analyses.settled
            or any(turns.is_under_way for turns in window.findChildren(Turns))
            or any(soon.isActive() for soon in window.findChildren(QTimer) if _is_soon(soon))
        )
        calm = 0 if busy else calm + 1
        if calm == 4:
            return
        qtbot.wait(20)  # what was asked for in one turn may begin in the next
    raise AssertionError("the window does not come to rest")


def _is_soon(timer: QTimer) -> bool:
    return timer.isSingleShot() and timer.interval() <= 500


def one_setting(name: str, watts: float, **facts) -> Load:
    return Load(name=name, settings=(LoadSetting(name="on", watts=watts),), **facts)


def start_plan(qtbot, window, plan) -> None:
    """Start a run as the button under Plan does, without going there."""
    bench = window.bench
    bench.start_run(plan)
    qtbot.waitUntil(lambda: bench.live is not None and len(bench.live.samples) > 0, timeout=60_000)


def loads_found(qtbot, plan_view) -> None:
    """Wait until the mixer has answered the question that stands now."""
    qtbot.waitUntil(
        lambda: not plan_view.search_timer.isActive() and not plan_view.bench.jobs.busy,
        timeout=60_000,
    )


def pass_checks(plan_view) -> None:
    """Note the settings and tick every box, as a careful person does."""
    by_name(plan_view, "All off, floor 0 %").click()
    for box in list(plan_view.checks.boxes.values()):
        if not box.isChecked():
            box.click()


def by_name(parent, name: str) -> QAbstractButton:
    return next(b for b in parent.findChildren(QAbstractButton) if b.accessibleName() == name)


def leave_run(window) -> None:
    if window.bench is not None:
        window.bench.leave_runs()


def fill_in_station(dialog) -> None:
    """A station entered by hand."""
    QTest.keyClicks(dialog.name, "Clover 1k")
    dialog.rated_wh.setValue(1000)
    dialog.rated_w.setValue(1200)
    QTest.keyClicks(dialog.source, "label")
    dialog.accept_button.click()


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


def drop(window, *paths):
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    for kind in (QDragEnterEvent, QDropEvent):
        at = QPoint(300, 300) if kind is QDragEnterEvent else QPointF(300, 300)
        event = kind(
            at, Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )  # fmt: skip
        QApplication.sendEvent(window, event)


@contextmanager
def held_elsewhere(path):
    """While another program has a yard open, which this one then only shows."""
    holding = (
        "import sys; from pathlib import Path; from yardtoll.store.yard_file import YardFile;"
        "yard = YardFile.open(Path(sys.argv[1])); print('open', flush=True); sys.stdin.read()"
    )
    other = subprocess.Popen(
        [sys.executable, "-c", holding, str(path)],
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    try:
        assert other.stdout.readline() == "open\n"
        yield
    finally:
        other.communicate(timeout=20)


def opened_by(act: Callable[[], object]) -> list[str]:
    """What a budget dialog says that ``act`` opens."""
    said: list[str] = []

    def read(dialog: QDialog) -> None:
        said.extend(label.text() for label in dialog.findChildren(QLabel))
        dialog.accept()

    in_dialog(read, BudgetDialog)
    act()
    return said
