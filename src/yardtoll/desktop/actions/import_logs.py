"""Importing logs in the window: read off the GUI thread, asked about, kept as runs."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from yardtoll.core.electrical.trace import Trace
from yardtoll.desktop.actions.editing import add_noted_run
from yardtoll.desktop.host import Host
from yardtoll.desktop.workbench.jobs import JobHandle
from yardtoll.store.records import Meter, Run, Station
from yardtoll.store.yard_file import YardFile

if TYPE_CHECKING:
    from yardtoll.core.notes.read import Notes
    from yardtoll.store.logs.read import OpenLog


def import_logs(host: Host, paths: list[Path]) -> None:
    """Read the first log, ask about it, then go on with the others.

    Without an open yard, one is made first beside the log.
    """
    from yardtoll.core.notes.read import Notes
    from yardtoll.store.logs.notes import notes_in
    from yardtoll.store.logs.read import open_log

    if not paths:
        return
    path, rest = paths[0], paths[1:]

    def work(handle: JobHandle) -> OpenLog | Notes:
        noted = notes_in(path)
        return noted if noted is not None else open_log(path, handle.progress)

    def failed(error: Exception) -> None:
        host.say(f"{_sentence(error)} Nothing was imported.")
        import_logs(host, rest)

    def done(log: OpenLog | Notes) -> None:
        if isinstance(log, Notes):
            _ask_about_notes(host, path)
        else:
            _ask(host, log)
        import_logs(host, rest)

    host.jobs.start(f"Reading {path.name}", work, done, failed)


def _ask_about_notes(host: Host, path: Path) -> None:
    """Notes belong to a station that is there; their text opens in the dialog for them."""
    from yardtoll.store.logs.notes import text_of

    if host.bench is None or host.bench.session.station is None:
        host.say(f"{path.name} holds notes: add the station they are about, then open them again.")
        return
    text = text_of(path)
    if text is not None:
        add_noted_run(host.widget, host.bench.session, text, path)


def _ask(host: Host, log: OpenLog) -> None:
    from yardtoll.bench.instruments import power_meters
    from yardtoll.desktop.dialogs.import_log import ImportDialog

    if host.bench is None:
        host.new_yard(_free_yard_path(log.table.path))
    if host.bench is None:
        return
    session = host.bench.session
    if session.yard.read_only:
        host.say("This yard is open in another window: nothing can be imported here.")
        return
    yard = session.yard
    dialog = ImportDialog(
        log,
        yard.stations(),
        session.station,
        power_meters(yard.meters_by_use()),
        host.jobs,
        host.widget,
    )
    if not dialog.exec() or dialog.preview is None or dialog.preview.trace is None:
        return
    station = dialog.chosen_station()
    if station.id is None:
        station = session.add(station, f"Add the station {station.name}")
    meter = dialog.meter.currentData()
    work = _Keep(
        yard,
        station,
        dialog.preview.trace,
        log.table.path,
        dialog.chosen_columns(),
        meter if isinstance(meter, Meter) else None,
        (dialog.soc_from.value(), dialog.soc_to.value()),
        dialog.method.currentData(),
        dialog.ended_by.currentData(),
    )

    def kept(run: Run) -> None:
        session.note_added(run, f"Import {log.name}")
        assert run.id is not None
        host.open_run(run.id)
        host.say(f"{log.name} is kept as run {run.number} of {station.name}.")

    host.jobs.start(
        f"Keeping {log.name}",
        work,
        kept,
        lambda error: host.say(f"{log.name} could not be kept: {_sentence(error)}"),
    )


@dataclass(frozen=True)
class _Keep:
    """A job's frozen input: a long log takes a while to write."""

    yard: YardFile
    station: Station
    trace: Trace
    path: Path
    columns: dict[str, str]
    meter: Meter | None
    soc: tuple[float, float]
    method: str
    ended_by: str

    def __call__(self, handle: JobHandle) -> Run:
        from yardtoll.store.importing import keep_imported_run

        handle.progress("Writing the samples")
        return keep_imported_run(
            self.yard,
            self.station,
            self.trace,
            self.path,
            self.columns,
            meter_id=self.meter.id if self.meter else None,
            soc=self.soc,
            own_draw_w=self.meter.own_draw_w if self.meter else 0.0,
            method=self.method,
            ended_by=self.ended_by,
        )


def _free_yard_path(log: Path) -> Path:
    """A new yard's place beside a log, "-2" and so on where one is there."""
    path = log.with_suffix(".yard")
    number = 2
    while path.exists():
        path = log.with_name(f"{log.stem}-{number}.yard")
        number += 1
    return path


def _sentence(error: Exception) -> str:
    text = str(error) or type(error).__name__
    return text if text.endswith(".") else f"{text}."
