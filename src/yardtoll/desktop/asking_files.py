"""Asking where a yard is to lie, which to open, and which logs to import."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

if TYPE_CHECKING:
    from yardtoll.desktop.main_window import MainWindow

LOG_FILTER = "Meter logs (*.csv *.tsv *.txt *.log *.xlsx *.ods *.parquet);;All files (*)"
YARD_FILTER = "Yards (*.yard)"


def ask_new_yard(window: "MainWindow") -> None:
    """Ask where a new yard is to lie, and make it."""
    start = str(window.settings.last_folder / "My bench.yard")
    chosen, _ = QFileDialog.getSaveFileName(window, "New yard", start, YARD_FILTER)
    if chosen:
        window.settings.last_folder = Path(chosen).parent
        window.new_yard(Path(chosen))


def ask_open_yard(window: "MainWindow") -> None:
    """Ask which yard to open, and open it."""
    start = str(window.settings.last_folder)
    chosen, _ = QFileDialog.getOpenFileName(window, "Open a yard", start, YARD_FILTER)
    if chosen:
        window.settings.last_folder = Path(chosen).parent
        window.open_yard(Path(chosen))


def ask_import(window: "MainWindow") -> None:
    """Ask which logs to import, and import them."""
    start = str(window.settings.last_folder)
    chosen, _ = QFileDialog.getOpenFileNames(window, "Import meter logs", start, LOG_FILTER)
    if chosen:
        window.settings.last_folder = Path(chosen[0]).parent
        window.import_logs([Path(path) for path in chosen])
