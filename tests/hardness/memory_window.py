"""The memory of a window that stands idle, or shows a run being recorded, over a long time.

Usage: memory_window.py FOLDER [--minutes N] [--live]
Prints how fast resident memory grew in MB/h (a straight line fitted to the last three quarters);
fails above 1 MB/h idle and 5 MB/h recording. A quarter of an hour is the least that says anything.
"""

import argparse
import gc
import sys
import time
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[2]))

from PySide6.QtCore import QEventLoop, QTimer
from tests.hardness.soak_window import begin_run, resident_mb

from yardtoll.demo.yard import fresh_demo
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.views.stop import RUN
from yardtoll.desktop.workbench.settings import UserSettings

MOST_IDLE_MB_H, MOST_RECORDING_MB_H = 1.0, 5.0


def main() -> None:
    """Look at the memory every ten seconds."""
    asked = argparse.ArgumentParser()
    asked.add_argument("folder", type=Path)
    asked.add_argument("--minutes", type=float, default=20.0)
    asked.add_argument("--live", action="store_true", help="record a run and show it")
    given = asked.parse_args()
    make_app()
    window = make_window(UserSettings(given.folder / "settings.ini"))
    window.resize(1280, 800)
    window.show()
    window.open_yard(fresh_demo(given.folder))
    if given.live:
        begin_run(window)
        window.go_to(RUN)
    seen: list[tuple[float, float]] = []
    loop = QEventLoop()

    def look() -> None:
        gc.collect()
        seen.append((time.monotonic() / 3600, resident_mb()))

    every = QTimer(interval=10_000)
    every.timeout.connect(look)
    every.start()
    QTimer.singleShot(round(given.minutes * 60_000), loop.quit)
    loop.exec()
    every.stop()
    hours, mb = np.array(seen[len(seen) // 4 :]).T
    slope_mb_h = float(np.polyfit(hours, mb, 1)[0])
    print(f"{slope_mb_h:.2f} MB/h over {given.minutes:g} min, at {mb[-1]:.0f} MB", flush=True)
    window.bench.leave_runs()
    window.close()
    if slope_mb_h > (MOST_RECORDING_MB_H if given.live else MOST_IDLE_MB_H):
        raise SystemExit(1)


if __name__ == "__main__":
    main()
