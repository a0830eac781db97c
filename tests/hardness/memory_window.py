"""The memory of a window that stands idle, or shows a run being recorded, over a long time.

Usage: memory_window.py FOLDER [--minutes N] [--live]
Prints how fast resident memory grew in MB/h, by a straight line fitted to the last three quarters;
fails above 1 MB/h idle and 5 MB/h recording. Beside it, what came after the warm-up alone: NumPy
keeps the memory of freed arrays under 1 kB, up to seven of each size, and a run read once a second
passes through all those sizes in its first 17 minutes. That is 3.6 MB at most, once, and no leak.
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
WARM_MIN = {False: 4.0, True: 18.0}
"""Minutes of warm-up: of an idle window, and of one that records."""


def main() -> None:
    """Look at the memory every ten seconds."""
    asked = argparse.ArgumentParser()
    asked.add_argument("folder", type=Path)
    asked.add_argument("--minutes", type=float, default=40.0)
    asked.add_argument("--live", action="store_true", help="record a run and show it")
    given = asked.parse_args()
    warm_min = WARM_MIN[given.live]
    if given.minutes < warm_min + 10:
        asked.error(f"--minutes must be {warm_min + 10:g} or more")
    make_app()
    window = make_window(UserSettings(given.folder / "settings.ini"))
    window.resize(1280, 800)
    window.show()
    window.open_yard(fresh_demo(given.folder))
    if given.live:
        begin_run(window)
        window.go_to(RUN)
    seen: list[tuple[float, float]] = []
    began_h = time.monotonic() / 3600
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
    slope_mb_h = _slope_mb_h(seen[len(seen) // 4 :])
    warm = _slope_mb_h([(h, mb) for h, mb in seen if h - began_h > warm_min / 60])
    print(
        f"{slope_mb_h:.2f} MB/h over {given.minutes:g} min, at {seen[-1][1]:.0f} MB; "
        f"{warm:.2f} MB/h from minute {warm_min:g} on",
        flush=True,
    )
    window.bench.leave_runs()
    window.close()
    if slope_mb_h > (MOST_RECORDING_MB_H if given.live else MOST_IDLE_MB_H):
        raise SystemExit(1)


def _slope_mb_h(seen: list[tuple[float, float]]) -> float:
    hours, mb = np.array(seen).T
    return float(np.polyfit(hours, mb, 1)[0])


if __name__ == "__main__":
    main()
