"""The window, empty and with the demo yard, against a bare Qt window with one plot, in pairs."""

from pathlib import Path

from rows import Row, at_most, in_folder, paired, show

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
import yardtoll.cli
from pathlib import Path
from PySide6.QtCore import QTimer
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.workbench.settings import UserSettings
app = make_app()
window = make_window(UserSettings(Path(sys.argv[1]) / "settings.ini"))
window.show()
if len(sys.argv) > 2:
    window.open_yard(Path(sys.argv[2]))
QTimer.singleShot(0, app.quit)
app.exec()
"""


def rows() -> list[Row]:
    """Both ratios."""

    def measure(folder: Path) -> list[Row]:
        from yardtoll.demo.yard import fresh_demo

        yard = str(fresh_demo(folder))
        return [
            at_most("window, empty ÷ bare Qt + chart", paired(OURS, BARE, str(folder)), 1.5, "×"),
            at_most(
                "window with the demo ÷ the same", paired(OURS, BARE, str(folder), yard), 1.8, "×"
            ),
        ]

    return in_folder(measure)


if __name__ == "__main__":
    show(rows())
