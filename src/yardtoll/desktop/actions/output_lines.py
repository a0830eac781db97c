"""Lines of tests at the outlets: typed, taken from a file, or captured; with undo."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

from yardtoll.core.electrical.roles import Role
from yardtoll.core.formatting import capitalised
from yardtoll.desktop.actions.captures import OF_CURVE, OF_DIVIDER, OF_SOUND, Taken, read_taken
from yardtoll.desktop.host import Host
from yardtoll.desktop.workbench.session import Session
from yardtoll.store.records import Entry, Recording, Run, RunState
from yardtoll.store.yard_file import utc_now

if TYPE_CHECKING:
    from yardtoll.core.output.entries import EntryField, Fields
    from yardtoll.review.output_tests import OutputTest
    from yardtoll.store.scope_files import Channels

TABLE = "table"
"""Origin of a run that is entered line by line."""
_FILTERS = {
    Role.WAVEFORM: "Curves (*.csv *.txt *.tsv *.wav *.CSV *.WAV);;All files (*)",
    Role.SOUND: "Recordings (*.wav *.WAV);;All files (*)",
}


class OutputLines:
    """What the Outputs view asks for.

    Args:
        show: called with the run that a line came to.
    """

    def __init__(self, host: Host, session: Session, show: Callable[[int], object]) -> None:
        self._host, self._session, self._show = host, session, show

    def ask_line(self, test: OutputTest, run: Run | None, known: Fields) -> None:
        """Ask for a new line and keep it."""
        from yardtoll.desktop.dialogs.entry import EntryDialog
        from yardtoll.review.appliance_library import appliance_library

        title = f"{test.title}: a new {test.line}"
        library = appliance_library(self._session.yard, test.fields)
        dialog = EntryDialog(title, test.fields, known, self._host.widget, library=library)
        if dialog.exec():
            self.keep(test, run, dialog.values())

    def edit_line(self, test: OutputTest, entry: Entry) -> None:
        """Ask for changes to a line."""
        from yardtoll.desktop.dialogs.entry import EntryDialog

        kept_beside = [
            f for f in (*OF_CURVE, *OF_DIVIDER, *OF_SOUND) if _may_be_beside(f, entry.fields)
        ]
        dialog = EntryDialog(
            f"{test.title}: a {test.line}",
            (*test.fields, *kept_beside),
            parent=self._host.widget,
            entry=entry,
        )
        if not dialog.exec():
            return
        if dialog.removed:
            self.remove_line(entry)
        else:
            changed = dialog.record(entry.run_id, entry.position)
            self._session.edit(changed, f"Edit a {test.line} of {test.title}")

    def remove_line(self, entry: Entry) -> None:
        """Take a line out of sight; undo brings it back."""
        if not self._session.yard.read_only:
            self._session.edit(replace(entry, withdrawn=True), "Remove a line")

    def new_run(self, test: OutputTest) -> None:
        """Begin another test of this kind."""
        made = self._add_run(test)
        if made is not None:
            self._show(made.id or 0)

    def ask_instrument(self, run: Run) -> None:
        """Ask with which instrument a run's lines were read."""
        from yardtoll.desktop.dialogs.instrument import InstrumentDialog

        dialog = InstrumentDialog(run, self._session.yard.meters(), self._host.widget)
        if dialog.exec():
            self._session.edit(dialog.record(), f"Instrument of run {run.number}")

    # captures

    def take_file(self, test: OutputTest, run: Run | None, path: Path | None) -> None:
        """Read a capture, ask what belongs to it, and keep both."""
        from yardtoll.store.scope_files import channels_of

        role = test.captures
        assert role is not None
        if path is None:
            start = str(self._host.settings.last_folder)
            chosen, _ = QFileDialog.getOpenFileName(
                self._host.widget, "A capture", start, _FILTERS[role]
            )
            if not chosen:
                return
            path = Path(chosen)
            self._host.settings.last_folder = path.parent
        if role is Role.SOUND:
            self._read(test, run, path, role)
            return
        self._host.jobs.start(
            f"Looking into {path.name}",
            lambda _: channels_of(path),
            lambda channels: self._ask_channels(test, run, path, channels),
            lambda error: self._host.say(f"{capitalised(str(error))}."),
        )

    def _ask_channels(
        self, test: OutputTest, run: Run | None, path: Path, channels: Channels | None
    ) -> None:
        """Ask which channel is which, where there is a choice."""
        from yardtoll.desktop.dialogs.channels import ChannelsDialog

        if channels is None or channels.is_plain:
            self._read(test, run, path, Role.WAVEFORM)
            return
        dialog = ChannelsDialog(path.name, channels, self._host.widget)
        if dialog.exec():
            self._read(test, run, path, Role.WAVEFORM, dialog.chosen, dialog.rate_hz)

    def _read(
        self,
        test: OutputTest,
        run: Run | None,
        path: Path,
        role: Role,
        chosen: Mapping[str, str] | None = None,
        rate_hz: float | None = None,
    ) -> None:
        self._host.jobs.start(
            f"Reading {path.name}",
            lambda _: read_taken(path, role, chosen, rate_hz),
            lambda taken: self.ask_taken(test, run, taken),
            lambda error: self._host.say(f"{capitalised(str(error))}."),
        )

    def ask_scope(self, test: OutputTest, run: Run | None) -> None:
        """Capture from an instrument, ask what belongs to it, and keep both."""
        from yardtoll.desktop.actions.scopes import ask_scope

        ask_scope(
            self._host,
            self._session,
            test.fields,
            lambda taken: self.ask_taken(test, run, taken),
        )

    def ask_taken(self, test: OutputTest, run: Run | None, taken: Taken) -> None:
        """Ask what belongs to a capture, and keep both."""
        from yardtoll.desktop.dialogs.entry import EntryDialog

        dialog = EntryDialog(
            f"{taken.trace.name or test.title}: what it shows",
            (*_not_told(test.fields, taken.role), *taken.asked),
            {**_usual_of_told(test.fields), **taken.known},
            self._host.widget,
        )
        if dialog.exec():
            self.keep(test, run, dialog.values(), taken)

    # keeping

    def keep(
        self, test: OutputTest, run: Run | None, fields: Fields, taken: Taken | None = None
    ) -> None:
        """Add a line to a run, to a new one where there is none; one step for undo."""
        from yardtoll.core.output.entries import CAPTURE

        text = f"Add a {test.line} to {test.title}"
        with self._session.together(text):
            into = run if run is not None else self._add_run(test)
            if into is None or into.id is None:
                return
            values = dict(fields)
            if taken is not None:
                recording = Recording(
                    run_id=into.id, role=taken.role.value, instrument=taken.instrument
                )
                kept = self._session.yard.keep_recording(recording, taken.trace)
                self._session.note_added(kept, text)
                values[CAPTURE] = float(kept.id or 0)
            position = max((e.position for e in self._session.yard.entries(into.id)), default=0) + 1
            self._session.add(Entry(run_id=into.id, position=position, fields=values), text)
        self._show(into.id)

    def _add_run(self, test: OutputTest) -> Run | None:
        station = self._session.station
        if station is None or station.id is None or test.method is None:
            return None
        now = utc_now()
        made = Run(
            station_id=station.id,
            number=self._session.yard.next_number(station.id),
            method=test.method.key,
            state=RunState.FINISHED.value,
            origin=TABLE,
            started_at=now,
            ended_at=now,
        )
        return self._session.add(made, f"Begin {test.title}")


def _may_be_beside(field: EntryField, fields: Fields) -> bool:
    """What belongs to a capture can be put right later; the capture itself is kept as it was."""
    from yardtoll.core.output.entries import FULL_SCALE, RELATIVE

    return field.key in fields or (field.key == FULL_SCALE and RELATIVE in fields)


def _not_told(fields: tuple[EntryField, ...], role: Role) -> tuple[EntryField, ...]:
    """The columns that a capture does not tell by itself."""
    kept = (field for field in fields if not field.told)
    if role is Role.SOUND:
        # Without a calibration a recording tells the hum and no level.
        return tuple(replace(field, needed=False) for field in kept)
    return tuple(kept)


def _usual_of_told(fields: tuple[EntryField, ...]) -> dict[str, float | str]:
    """The choices that a capture makes by being one, such as "by scope"."""
    return {f.key: f.default for f in fields if f.told and f.choices and f.default is not None}
