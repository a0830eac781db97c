"""Time to a shown window with the demo yard, against a bare Qt window with one plot."""

import os
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

BARE = """
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QMainWindow
import pyqtgraph as pg
app = QApplication([])
window = QMainWindow()
plot = pg.PlotWidget()
plot.plot([0, 1, 2], [1, 3, 2])
window.setCentralWidget(plot)
window.show()
QTimer.singleShot(0, app.quit)
app.exec()
"""
OURS = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.workbench.settings import UserSettings
app = make_app()
window = make_window(UserSettings(Path(sys.argv[1]) / "settings.ini"))
window.show()
window.open_yard(Path(sys.argv[1]) / "Demo.yard")
QTimer.singleShot(0, app.quit)
app.exec()
"""
REPEATS = 7


def _seconds(code: str, *arguments: str) -> float:
    import time

    env = {**os.environ, "QT_QPA_PLATFORM": os.environ.get("QT_QPA_PLATFORM", "offscreen")}
    start = time.perf_counter()
    subprocess.run(
        [sys.executable, "-c", code, *arguments], check=True, env=env, stderr=subprocess.DEVNULL
    )
    return time.perf_counter() - start


def main() -> None:
    from yardtoll.demo.yard import fresh_demo

    with tempfile.TemporaryDirectory() as folder:
        fresh_demo(Path(folder))
        pairs = [(_seconds(BARE), _seconds(OURS, folder)) for _ in range(REPEATS + 1)][1:]
    bare, ours = (statistics.median(times) for times in zip(*pairs, strict=True))
    print(f"bare window {bare:.2f} s, Yard Toll with the demo {ours:.2f} s: {ours / bare:.2f} x")


if __name__ == "__main__":
    main()
