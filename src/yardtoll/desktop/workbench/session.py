"""The open yard as the window sees it: its records, the chosen station, and undo for every edit."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack

from yardtoll.core.conformance.yardsticks import Basis, Yardstick
from yardtoll.store.errors import YardError
from yardtoll.store.records import (
    Entry,
    Mark,
    Photo,
    Reading,
    Record,
    Recording,
    Removable,
    Run,
    RunState,
    Site,
    Station,
    StoredYardstick,
    YardInfo,
)
from yardtoll.store.yard_file import YardFile, shipped_yardsticks

R = TypeVar("R", bound=Record)


class Session(QObject):
    """One open yard.

    Signals:
        changed: some record changed; views read again what they show.
        station_changed: another station is chosen.
    """

    changed = Signal()
    station_changed = Signal()

    def __init__(self, yard: YardFile, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.yard = yard
        self.undo_stack = QUndoStack(self)
        self._step = _Step()
        stations = yard.stations()
        self._station_id = stations[0].id if stations else None
        if stations and (runs := yard.runs()):
            latest = runs[-1].station_id
            if any(s.id == latest for s in stations):
                self._station_id = latest

    @property
    def station(self) -> Station | None:
        """The chosen station; None while the yard has none."""
        present = {s.id: s for s in self.yard.stations()}
        return present.get(self._station_id) or next(iter(present.values()), None)

    def choose_station(self, station_id: int | None) -> None:
        """Show another station."""
        if station_id != self._station_id:
            self._station_id = station_id
            self.station_changed.emit()

    def station_runs(self) -> list[Run]:
        """Runs of the chosen station, oldest first."""
        station = self.station
        return self.yard.runs(station.id) if station else []

    def yardstick(self) -> StoredYardstick:
        """The yardstick the yard judges by."""
        yardsticks = self.yard.yardsticks()
        chosen = self.yard.info().yardstick_id
        usual = yardsticks[0] if yardsticks else shipped_yardsticks()[0]
        return next((s for s in yardsticks if s.id == chosen), usual)

    def add(self, record: R, text: str) -> R:
        """Put a new record; undo takes it out of sight again."""
        kept = self.yard.put(record)
        self._done([_out_of_sight(kept)], [kept], text)
        return kept

    @contextmanager
    def together(self, text: str) -> Iterator[None]:
        """Edits made inside are one step for undo."""
        self.undo_stack.beginMacro(text)
        try:
            yield
        finally:
            self.undo_stack.endMacro()

    def undo(self) -> str:
        """Take the last edit back, all that belongs to it or nothing; its words are returned.

        Raises:
            YardError: the yard cannot be written now; it can be tried again.
        """
        stack = self.undo_stack
        return self._go(stack.undoText(), stack.undo, stack.redo)

    def redo(self) -> str:
        """Do again what was taken back last.

        Raises:
            YardError: the yard cannot be written now; it can be tried again.
        """
        stack = self.undo_stack
        return self._go(stack.redoText(), stack.redo, stack.undo)

    def _go(self, text: str, step: Callable[[], None], back: Callable[[], None]) -> str:
        self._step.records = []
        try:
            step()
            try:
                self.yard.put_all(self._step.records)
            except YardError:
                # Qt's stack is one step on already; what it says must be what the yard holds.
                back()
                raise
        finally:
            self._step.records = None
        self.changed.emit()
        return text

    def _done(self, before: Sequence[Record], after: Sequence[Record], text: str) -> None:
        """An edit that is kept becomes one that undo takes back."""
        self.undo_stack.push(_Put(self._step, before, after, text))
        self.changed.emit()

    def note_added(self, record: Mark | Reading | Recording | Photo | Run, text: str) -> None:
        """Make a mark, reading, photo or run that is already kept one that undo takes back."""
        self.note_all_added([record], text)

    def note_all_added(self, records: Sequence[Record], text: str) -> None:
        """Make records that are kept already one step that undo takes back."""
        before = [_out_of_sight(record) for record in records]
        self._done(before, records, text)

    def edit(self, record: Record, text: str) -> None:
        """Replace a record by an edited one."""
        assert record.id is not None
        before = self.yard.get(type(record), record.id)
        if before != record:
            # Before it can be undone: where it cannot be kept there is nothing to undo.
            self.yard.put(record)
            self._done([before], [record], text)

    def remove(self, record: Removable, text: str) -> None:
        """Take a record out of sight; its runs and undo keep it."""
        self.edit(replace(record, removed=True), text)

    def remove_plan(self, run: Run) -> None:
        """Take a planned run off the timetable; undo puts it back."""
        dropped = replace(run, state=RunState.DROPPED.value)
        self.edit(dropped, f"Take the plan of run {run.number} back")

    def put_without_undo(self, record: R) -> R:
        """Put what undo must not take back, such as a run's end."""
        kept = self.yard.put(record)
        self.changed.emit()
        return kept

    @property
    def path(self) -> Path:
        """Where the yard is stored."""
        return self.yard.path

    def close(self) -> None:
        """Close the yard."""
        self.yard.close()


class _Step:
    """What the step in progress puts, kept when all of it is known; nothing between steps."""

    def __init__(self) -> None:
        self.records: list[Record] | None = None

    def add(self, records: Sequence[Record]) -> None:
        """Part of the step in progress; without one the records are kept already."""
        if self.records is not None:
            self.records.extend(records)


class _Put(QUndoCommand):
    """Replaces records by others, which are kept already, and back.

    It does not know the session: a circle through Qt's objects is not safe to collect.
    """

    def __init__(
        self, step: _Step, before: Sequence[Record], after: Sequence[Record], text: str
    ) -> None:
        super().__init__(text)
        self._step = step
        self._before = before
        self._after = after

    def redo(self) -> None:
        """Put the new records."""
        self._step.add(self._after)

    def undo(self) -> None:
        """Put the old records."""
        self._step.add(self._before)


def _out_of_sight(record: Record) -> Record:
    """A record as it is when its adding is undone."""
    if isinstance(record, Mark | Reading | Recording | Entry):
        return replace(record, withdrawn=True)
    if isinstance(record, Run):
        return replace(record, state=RunState.DROPPED.value)
    assert not isinstance(record, YardInfo | Site), "a yard has one of these"
    return replace(record, removed=True)


def as_yardstick(stored: StoredYardstick) -> Yardstick:
    """A stored yardstick as the core judges by it."""
    return Yardstick(name=stored.name, limit=stored.limit_ratio, basis=Basis(stored.basis))
