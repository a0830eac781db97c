"""Walk the stations and views of a demo yard under live runs, as fast as they are shown.

Run as a program: a crash of the process must not take the caller with it.

Usage: soak_window.py FOLDER [--seed N] [--changes N] [--warm N] [--live N] [--stations-only]
Prints "changes N" and the resident memory in MB after a warm-up and at the end.
"""

import argparse
import gc
import os
import random
import sys
from pathlib import Path

os.environ.setdefault(
    "QT_QPA_PLATFORM",
    f"offscreen:configfile={Path(__file__).parents[2] / 'tools' / 'offscreen.json'}",
)

from PySide6.QtCore import QEvent, QEventLoop, QTimer
from PySide6.QtWidgets import QApplication

from yardtoll.demo.yard import fresh_demo
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.frame.main_window import MainWindow
from yardtoll.desktop.views.stop import LEDGER
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.desktop.workbench.tidying import Tidying
from yardtoll.running.plan import plan_for_load


def resident_mb() -> float:
    """This process's memory in RAM."""
    pages = int(Path("/proc/self/statm").read_text("ascii").split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def begin_run(window: MainWindow) -> None:
    """A run on the simulated bench that outlasts the walk."""
    yard = window.bench.session.yard
    meter = next(meter for meter in yard.meters() if meter.is_simulated)
    plan = plan_for_load(yard.stations()[0], meter, yard.loads()[0])
    window.settings.simulated_speed = 1.0
    if not window.bench.start_run(plan):
        raise SystemExit("the run did not begin")


def main() -> None:
    """Walk, and print what was seen."""
    asked = argparse.ArgumentParser()
    asked.add_argument("folder", type=Path)
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--changes", type=int, default=400)
    asked.add_argument("--warm", type=int, default=0, help="changes before memory is measured")
    asked.add_argument("--live", type=int, default=0, help="simulated runs in progress meanwhile")
    asked.add_argument("--stations-only", action="store_true", help="stay in the Ledger")
    given = asked.parse_args()
    chance = random.Random(given.seed)
    app = make_app()
    tidying = Tidying(app)  # as the program does
    tidying.start()
    tidying.settle()
    window = make_window(UserSettings(given.folder / "settings.ini"))
    window.resize(1280, 800)
    window.show()
    window.open_yard(fresh_demo(given.folder))
    session = window.bench.session
    for _ in range(given.live):
        begin_run(window)
    stations = [station.id for station in session.yard.stations()]
    stops = [LEDGER] if given.stations_only else list(STOPS)
    if given.stations_only:
        window.go_to(LEDGER)
    warm_mb = 0.0
    for number in range(given.changes):
        if chance.random() < 0.5 or given.stations_only:
            session.choose_station(chance.choice(stations))
        else:
            window.go_to(chance.choice(stops))
        if chance.random() < 0.05:
            # What an edit or a live run does: every result is asked for again.
            run = chance.choice(session.yard.runs())
            session.yard.put(run)
            session.changed.emit()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 5)
        if number == given.warm:
            gc.collect()
            warm_mb = resident_mb()
    gc.collect()
    print(f"changes {given.changes}  warm {warm_mb:.0f} MB  end {resident_mb():.0f} MB", flush=True)
    window.bench.leave_runs()
    window.close()
    QTimer.singleShot(0, app.quit)
    app.exec()


if __name__ == "__main__":
    sys.exit(main())
