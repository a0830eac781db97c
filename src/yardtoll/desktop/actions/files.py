"""Asking where a yard is to lie, which to open, and which logs to import."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

from yardtoll.core.formatting import counted
from yardtoll.store.errors import StoreError

if TYPE_CHECKING:
    from yardtoll.desktop.frame.main_window import MainWindow

LOG_FILTER = "Meter logs (*.csv *.tsv *.txt *.log *.xlsx *.ods *.parquet);;All files (*)"
YARD_FILTER = "Yards (*.yard)"
LIBRARY_FILTER = "Libraries of stations (*.json)"


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


def ask_export_stations(window: "MainWindow") -> None:
    """Ask where the stations and their claims are to be written, and write them."""
    from yardtoll.store.station_library import export_stations

    if window.bench is None:
        return
    start = str(window.settings.last_folder / "stations.json")
    chosen, _ = QFileDialog.getSaveFileName(window, "Export the stations", start, LIBRARY_FILTER)
    if not chosen:
        return
    window.settings.last_folder = Path(chosen).parent
    try:
        count = export_stations(window.bench.session.yard, Path(chosen))
    except StoreError as error:
        window.say(f"{error}.")
        return
    window.say(f"{counted(count, 'station')} written to {Path(chosen).name}, claims included.")


def ask_import_stations(window: "MainWindow") -> None:
    """Ask for a library of stations, and add those that are not in the yard yet."""
    if window.bench is None:
        return
    start = str(window.settings.last_folder)
    chosen, _ = QFileDialog.getOpenFileName(window, "Import stations", start, LIBRARY_FILTER)
    if chosen:
        window.settings.last_folder = Path(chosen).parent
        import_stations_into(window, Path(chosen))


def import_stations_into(window: "MainWindow", path: Path) -> None:
    """Add the stations of a library file; one that is there already is left as it is."""
    from yardtoll.store.station_library import read_library

    session = window.bench.session if window.bench else None
    if session is None:
        return
    if session.yard.read_only:
        window.say("This yard is open in another window: nothing can be imported here.")
        return
    try:
        library = read_library(path)
    except StoreError as error:
        window.say(f"{error}. Nothing was imported.")
        return
    known = {station.name.casefold() for station in session.yard.stations()}
    fresh = [entry for entry in library if entry.station.name.casefold() not in known]
    with session.together(f"Import {counted(len(fresh), 'station')}"):
        for entry in fresh:
            made = session.add(entry.station, f"Import {entry.station.name}")
            assert made.id is not None
            for record in entry.belongings(made.id):
                session.add(record, f"Import {entry.station.name}")
    there = len(library) - len(fresh)
    left = f"; left as here already: {there}" if there else ""
    window.say(f"{counted(len(fresh), 'station')} came from {path.name}{left}.")


def ask_import(window: "MainWindow") -> None:
    """Ask which logs to import, and import them."""
    start = str(window.settings.last_folder)
    chosen, _ = QFileDialog.getOpenFileNames(window, "Import meter logs", start, LOG_FILTER)
    if chosen:
        from yardtoll.desktop.actions.import_logs import import_logs

        window.settings.last_folder = Path(chosen[0]).parent
        import_logs(window, [Path(path) for path in chosen])
