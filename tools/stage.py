"""A window on a fresh demo yard with settings of its own, driven from a script."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QWidget

from yardtoll.demo.yard import fresh_demo
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.frame.main_window import MainWindow
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.views.plan.choices_form import ALL_OFF
from yardtoll.desktop.views.stop import PLAN
from yardtoll.desktop.workbench.settings import UserSettings


def spin(milliseconds: int) -> None:
    """Let the window live for a while."""
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def spin_until(done: Callable[[], bool], timeout_ms: int = 60_000) -> None:
    """Let the window live until something is so."""
    waited = 0
    while not done():
        if waited > timeout_ms:
            raise TimeoutError("the window did not get there in time")
        spin(50)
        waited += 50


def open_stage(size: tuple[int, int] = (1280, 800), colours: str = "day") -> MainWindow:
    """A shown window on a fresh demo yard, everything worked out."""
    make_app()
    folder = Path(tempfile.mkdtemp(prefix="yardtoll-stage-"))
    window = make_window(UserSettings(folder / "settings.ini"))
    theme.apply(colours)
    window.resize(*size)
    window.show()
    window.open_yard(fresh_demo(folder))
    bench = window.bench
    assert bench is not None
    runs = bench.session.yard.runs()
    spin_until(lambda: len(bench.analyses.all_of(runs)) == len(runs))
    spin(200)
    return window


def start_run(window: MainWindow, station_id: int, speed: float) -> None:
    """Start the planned run of a station on the simulated bench, as pressing the button does."""
    bench = window.bench
    assert bench is not None
    bench.settings.simulated_speed = speed
    bench.session.choose_station(station_id)
    window.go_to(PLAN)
    spin(200)
    plan = window.stack.current_view()
    spin_until(lambda: not bench.jobs.busy and plan.form.mix is not None)  # type: ignore[attr-defined]
    pass_checks(plan)
    plan.start_button.click()  # type: ignore[attr-defined]
    spin_until(lambda: bench.live is not None and len(bench.live.samples) > 0)


def pass_checks(plan: QWidget) -> None:
    """Note the settings and tick every box of the Plan view."""
    form, checks = plan.form, plan.checks  # type: ignore[attr-defined]
    form.note_settings(ALL_OFF)
    for box in list(checks.boxes.values()):
        box.setChecked(True)


def close_stage(window: MainWindow) -> None:
    """Leave the run in progress, without asking, and close."""
    if window.bench is not None:
        window.bench.leave_runs()
    window.close()
