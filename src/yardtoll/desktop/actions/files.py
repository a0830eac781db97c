"""Asking where a yard is to be stored, which to open, and which logs to import."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from yardtoll.core.formatting import counted
from yardtoll.desktop.host import Host
from yardtoll.desktop.workbench.jobs import JobHandle
from yardtoll.store.errors import StoreError
from yardtoll.store.records import Record
from yardtoll.store.site_time import now

LOG_FILTER = "Meter logs (*.csv *.tsv *.txt *.log *.xlsx *.ods *.parquet);;All files (*)"
YARD_FILTER = "Yards (*.yard)"
LIBRARY_FILTER = "Libraries of stations (*.json)"


def ask_new_yard(host: Host) -> None:
    """Ask for a new yard's file name, and create it."""
    start = str(host.settings.yards_folder / "My bench.yard")
    chosen, _ = QFileDialog.getSaveFileName(host.widget, "New yard", start, YARD_FILTER)
    if chosen:
        host.settings.last_folder = Path(chosen).parent
        host.new_yard(Path(chosen))


def ask_open_yard(host: Host) -> None:
    """Ask which yard to open, and open it."""
    start = str(host.settings.yards_folder)
    chosen, _ = QFileDialog.getOpenFileName(host.widget, "Open a yard", start, YARD_FILTER)
    if chosen:
        host.settings.last_folder = Path(chosen).parent
        host.open_soon(Path(chosen))


def ask_export_stations(host: Host) -> None:
    """Ask where the stations and their claims are to be written, and write them."""
    from yardtoll.store.station_library import export_stations

    if host.bench is None:
        return
    start = str(host.settings.last_folder / "stations.json")
    chosen, _ = QFileDialog.getSaveFileName(
        host.widget, "Export the stations", start, LIBRARY_FILTER
    )
    if not chosen:
        return
    host.settings.last_folder = Path(chosen).parent
    try:
        count = export_stations(host.bench.session.yard, Path(chosen))
    except StoreError as error:
        host.say(f"{error}.")
        return
    host.say(f"{counted(count, 'station')} written to {Path(chosen).name}, claims included.")


def ask_import_stations(host: Host) -> None:
    """Ask for a library of stations, and add those that are not in the yard yet."""
    if host.bench is None:
        return
    start = str(host.settings.last_folder)
    chosen, _ = QFileDialog.getOpenFileName(host.widget, "Import stations", start, LIBRARY_FILTER)
    if chosen:
        host.settings.last_folder = Path(chosen).parent
        import_stations_into(host, Path(chosen))


def import_stations_into(host: Host, path: Path) -> None:
    """Add the stations of a library file; one that is there already is left as it is."""
    from yardtoll.store.station_library import keep_entries, read_library

    session = host.bench.session if host.bench else None
    if session is None:
        return
    if session.yard.read_only:
        host.say("This yard is open in another window: nothing can be imported here.")
        return
    yard = session.yard
    today = f"{now():%Y-%m-%d}"
    known = {station.name.casefold() for station in yard.stations()}

    def work(_: JobHandle) -> tuple[int, int, list[Record]]:
        library = read_library(path)
        fresh = [
            entry.came_from(f"{path.name}, {today}")
            for entry in library
            if entry.station.name.casefold() not in known
        ]
        return len(fresh), len(library) - len(fresh), keep_entries(yard, fresh)

    def done(found: tuple[int, int, list[Record]]) -> None:
        count, there, kept = found
        if kept:
            session.note_all_added(kept, f"Import {counted(count, 'station')}")
        left = f"; left as here already: {there}" if there else ""
        host.say(f"{counted(count, 'station')} came from {path.name}{left}.")

    host.jobs.start(
        f"Reading {path.name}",
        work,
        done,
        lambda error: host.say(f"{error}. Nothing was imported."),
    )


def ask_import(host: Host) -> None:
    """Ask which logs to import, and import them."""
    start = str(host.settings.last_folder)
    chosen, _ = QFileDialog.getOpenFileNames(host.widget, "Import meter logs", start, LOG_FILTER)
    if chosen:
        from yardtoll.desktop.actions.import_logs import import_logs

        host.settings.last_folder = Path(chosen[0]).parent
        import_logs(host, [Path(path) for path in chosen])
