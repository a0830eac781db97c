"""Asking where the sheet, its charts, its results or the whole yard are to go, and writing them."""

import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QUrl
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import QFileDialog

from yardtoll.desktop.host import Host
from yardtoll.whole_files import write_whole


def plain_name(name: str) -> str:
    """A station's name as a file's: letters, figures and dashes."""
    return re.sub(r"[^\w-]+", "-", name).strip("-").lower() or "station"


def ask_save_html(host: Host) -> None:
    """Write the chosen station's sheet as one HTML file."""
    from yardtoll.report.sheet.render import sheet_html

    _ask_sheet(host, "html", "Web pages (*.html)", lambda sheet: sheet_html(sheet).encode())


def ask_save_pdf(host: Host) -> None:
    """Write the chosen station's sheet as PDF."""

    def pdf(sheet: Any) -> bytes:
        from yardtoll.report.sheet.pdf import sheet_pdf

        return sheet_pdf(sheet)

    _ask_sheet(host, "pdf", "PDF (*.pdf)", pdf)


def _ask_sheet(host: Host, suffix: str, kinds: str, render: Callable[[Any], bytes]) -> None:
    station = host.bench.session.station if host.bench else None
    if host.bench is None or station is None:
        return
    start = str(host.settings.last_folder / f"{plain_name(station.name)}.{suffix}")
    chosen, _ = QFileDialog.getSaveFileName(
        host.widget, f"Save the sheet as {suffix.upper()}", start, kinds
    )
    if not chosen:
        return
    path = Path(chosen) if Path(chosen).suffix else Path(f"{chosen}.{suffix}")
    host.settings.last_folder = path.parent
    yard = host.bench.session.yard

    def work(_: object) -> Path:
        from yardtoll.review.sheet.build import build_sheet

        write_whole(path, render(build_sheet(yard, station)))
        return path

    host.jobs.start(
        f"Writing {path.name}", work, lambda made: _written(host, made),
        lambda error: host.say(f"{path.name} could not be written: {_why(error)}."),
    )  # fmt: skip


def ask_save_charts(host: Host) -> None:
    """Write the sheet's charts as PNG and SVG into a folder."""
    station = host.bench.session.station if host.bench else None
    if host.bench is None or station is None:
        return
    folder = _ask_folder(host, "A folder for the charts")
    if folder is None:
        return
    yard = host.bench.session.yard

    # Here, not in the work: Qt's classes come to be on the window's thread.
    from yardtoll.desktop.widgets.chart_image import save_charts

    def work(_: object) -> int:
        from yardtoll.report.charts.sheet_charts import charts_of
        from yardtoll.review.sheet.build import build_sheet

        charts = charts_of(build_sheet(yard, station))
        return len(save_charts(charts, folder, plain_name(station.name)))

    host.jobs.start(
        "Drawing the charts",
        work,
        lambda made: host.say(
            f"{made} pictures written into {folder.name}." if made else "There is no chart yet."
        ),
        lambda error: host.say(f"{_why(error)}."),
    )


def ask_save_results(host: Host) -> None:
    """Write the results of every station as JSON, with the schema they follow."""
    folder = _ask_folder(host, "A folder for the results") if host.bench else None
    if host.bench is None or folder is None:
        return
    yard = host.bench.session.yard

    def work(_: object) -> str:
        from yardtoll.review.results import RESULTS_FILE, write_results

        write_results(yard, folder)
        return RESULTS_FILE

    host.jobs.start(
        "Writing the results",
        work,
        lambda name: host.say(f"{name} and its schema are in {folder.name}."),
        lambda error: host.say(f"{_why(error)}."),
    )


def ask_export_yard(host: Host) -> None:
    """Write the whole yard as a data package into a folder."""
    folder = _ask_folder(host, "A new or empty folder for the data package") if host.bench else None
    if host.bench is None or folder is None:
        return
    yard = host.bench.session.yard

    def work(_: object) -> int:
        from yardtoll.review.results import write_results
        from yardtoll.store.package.writing import write_package

        count = write_package(yard, folder)
        write_results(yard, folder)
        return count

    host.jobs.start(
        "Writing the data package",
        work,
        lambda count: host.say(f"The yard is in {folder.name}: {count} files, nothing left out."),
        lambda error: host.say(f"{_why(error)}."),
    )


def ask_import_package(host: Host) -> None:
    """Make a new yard from a data package, and open it."""
    start = str(host.settings.last_folder)
    kinds = "Data packages (datapackage.json)"
    chosen, _ = QFileDialog.getOpenFileName(host.widget, "Open a data package", start, kinds)
    if not chosen:
        return
    package = Path(chosen)
    proposed = str(package.parent.with_suffix(".yard"))
    target, _ = QFileDialog.getSaveFileName(
        host.widget, "The yard it becomes", proposed, "Yards (*.yard)"
    )
    if not target:
        return
    path = Path(target) if Path(target).suffix == ".yard" else Path(f"{target}.yard")
    host.settings.last_folder = path.parent

    def work(_: object) -> Path:
        from yardtoll.store.package.reading import read_package

        read_package(package, path)
        return path

    host.jobs.start(
        "Reading the data package",
        work,
        host.open_yard,
        lambda error: host.say(f"{_why(error)}. Nothing was imported."),
    )


def _ask_folder(host: Host, title: str) -> Path | None:
    chosen = QFileDialog.getExistingDirectory(host.widget, title, str(host.settings.last_folder))
    if not chosen:
        return None
    host.settings.last_folder = Path(chosen)
    return Path(chosen)


def _written(host: Host, path: Path) -> None:
    url = QUrl.fromLocalFile(str(path))
    host.say(f"{path.name} is written.", "Open it", lambda: QDesktopServices.openUrl(url))


def _why(error: Exception) -> str:
    if isinstance(error, OSError):
        return error.strerror or str(error)
    return str(error)
