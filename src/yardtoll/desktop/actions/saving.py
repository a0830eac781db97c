"""Asking where the sheet, its charts, its results or the whole yard are to go, and writing them."""

import re
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QUrl
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import QFileDialog

if TYPE_CHECKING:
    from yardtoll.desktop.frame.main_window import MainWindow


def plain_name(name: str) -> str:
    """A station's name as a file's: letters, figures and dashes."""
    return re.sub(r"[^\w-]+", "-", name).strip("-").lower() or "station"


def ask_save_html(window: "MainWindow") -> None:
    """Write the chosen station's sheet as one HTML file."""
    from yardtoll.report.sheet.render import sheet_html

    _ask_sheet(window, "html", "Web pages (*.html)", lambda sheet: sheet_html(sheet).encode())


def ask_save_pdf(window: "MainWindow") -> None:
    """Write the chosen station's sheet as PDF."""

    def pdf(sheet: Any) -> bytes:
        from yardtoll.report.sheet.pdf import sheet_pdf

        return sheet_pdf(sheet)

    _ask_sheet(window, "pdf", "PDF (*.pdf)", pdf)


def _ask_sheet(
    window: "MainWindow", suffix: str, kinds: str, render: Callable[[Any], bytes]
) -> None:
    station = window.bench.session.station if window.bench else None
    if window.bench is None or station is None:
        return
    start = str(window.settings.last_folder / f"{plain_name(station.name)}.{suffix}")
    chosen, _ = QFileDialog.getSaveFileName(
        window, f"Save the sheet as {suffix.upper()}", start, kinds
    )
    if not chosen:
        return
    path = Path(chosen) if Path(chosen).suffix else Path(f"{chosen}.{suffix}")
    window.settings.last_folder = path.parent
    yard = window.bench.session.yard

    def work(_: object) -> Path:
        from yardtoll.review.sheet.build import build_sheet

        path.write_bytes(render(build_sheet(yard, station)))
        return path

    window.jobs.start(
        f"Writing {path.name}", work, lambda made: _written(window, made),
        lambda error: window.say(f"{path.name} could not be written: {_why(error)}."),
    )  # fmt: skip


def ask_save_charts(window: "MainWindow") -> None:
    """Write the sheet's charts as PNG and SVG into a folder."""
    station = window.bench.session.station if window.bench else None
    if window.bench is None or station is None:
        return
    folder = _ask_folder(window, "A folder for the charts")
    if folder is None:
        return
    yard = window.bench.session.yard

    def work(_: object) -> int:
        from yardtoll.desktop.views.sheet.pictures import save_charts
        from yardtoll.report.charts.sheet_charts import charts_of
        from yardtoll.review.sheet.build import build_sheet

        charts = charts_of(build_sheet(yard, station))
        return len(save_charts(charts, folder, plain_name(station.name)))

    window.jobs.start(
        "Drawing the charts",
        work,
        lambda made: window.say(
            f"{made} pictures written into {folder.name}." if made else "There is no chart yet."
        ),
        lambda error: window.say(f"{_why(error)}."),
    )


def ask_save_results(window: "MainWindow") -> None:
    """Write the results of every station as JSON, with the schema they follow."""
    folder = _ask_folder(window, "A folder for the results") if window.bench else None
    if window.bench is None or folder is None:
        return
    yard = window.bench.session.yard

    def work(_: object) -> str:
        from yardtoll.review.results import RESULTS_FILE, write_results

        write_results(yard, folder)
        return RESULTS_FILE

    window.jobs.start(
        "Writing the results",
        work,
        lambda name: window.say(f"{name} and its schema are in {folder.name}."),
        lambda error: window.say(f"{_why(error)}."),
    )


def ask_export_yard(window: "MainWindow") -> None:
    """Write the whole yard as a data package into a folder."""
    folder = (
        _ask_folder(window, "A new or empty folder for the data package") if window.bench else None
    )
    if window.bench is None or folder is None:
        return
    yard = window.bench.session.yard

    def work(_: object) -> int:
        from yardtoll.review.results import write_results
        from yardtoll.store.package.writing import write_package

        count = write_package(yard, folder)
        write_results(yard, folder)
        return count

    window.jobs.start(
        "Writing the data package",
        work,
        lambda count: window.say(f"The yard is in {folder.name}: {count} files, nothing left out."),
        lambda error: window.say(f"{_why(error)}."),
    )


def ask_import_package(window: "MainWindow") -> None:
    """Make a new yard from a data package, and open it."""
    start = str(window.settings.last_folder)
    kinds = "Data packages (datapackage.json)"
    chosen, _ = QFileDialog.getOpenFileName(window, "Open a data package", start, kinds)
    if not chosen:
        return
    package = Path(chosen)
    proposed = str(package.parent.with_suffix(".yard"))
    target, _ = QFileDialog.getSaveFileName(
        window, "The yard it becomes", proposed, "Yards (*.yard)"
    )
    if not target:
        return
    path = Path(target) if Path(target).suffix == ".yard" else Path(f"{target}.yard")
    window.settings.last_folder = path.parent

    def work(_: object) -> Path:
        from yardtoll.store.package.reading import read_package

        read_package(package, path)
        return path

    window.jobs.start(
        "Reading the data package",
        work,
        window.open_yard,
        lambda error: window.say(f"{_why(error)}. Nothing was imported."),
    )


def _ask_folder(window: "MainWindow", title: str) -> Path | None:
    chosen = QFileDialog.getExistingDirectory(window, title, str(window.settings.last_folder))
    if not chosen:
        return None
    window.settings.last_folder = Path(chosen)
    return Path(chosen)


def _written(window: "MainWindow", path: Path) -> None:
    url = QUrl.fromLocalFile(str(path))
    window.say(f"{path.name} is written.", "Open it", lambda: QDesktopServices.openUrl(url))


def _why(error: Exception) -> str:
    if isinstance(error, OSError):
        return error.strerror or str(error)
    return str(error)
