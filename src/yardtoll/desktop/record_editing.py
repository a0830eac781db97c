"""Asking for records in dialogs and keeping what was entered, with undo."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from PySide6.QtWidgets import QWidget

from yardtoll.desktop.dialogs.records import (
    LoadDialog,
    MeterDialog,
    RunDialog,
    StationDialog,
    VoidDialog,
    YardstickDialog,
)
from yardtoll.desktop.session import Session
from yardtoll.store.records import Load, Meter, Record, Run, RunState, Station, StoredYardstick

Editable = Station | Load | Meter | StoredYardstick
_DIALOGS = {
    "station": StationDialog,
    "load": LoadDialog,
    "meter": MeterDialog,
    "yardstick": YardstickDialog,
}
_KINDS: dict[type, str] = {
    Station: "station",
    Load: "load",
    Meter: "meter",
    StoredYardstick: "yardstick",
}


def add_record(parent: QWidget, session: Session, kind: str) -> Record | None:
    """Ask for a new record and keep it; None when the user thought better of it."""
    if session.yard.read_only:
        return None
    dialog = _DIALOGS[kind](None, _names(session, kind), parent)
    if not dialog.exec():
        return None
    made = session.add(dialog.record(), f"Add the {kind} {dialog.record().name}")
    if isinstance(made, Station):
        session.choose_station(made.id)
    return made


def edit_record(parent: QWidget, session: Session, record: Editable | Run) -> None:
    """Ask for changes to a record and keep them."""
    if session.yard.read_only:
        return
    if isinstance(record, Run):
        conditions = RunDialog(record, session.yard.meters(), parent)
        if conditions.exec():
            session.edit(conditions.record(), f"Edit run {record.number}")
        return
    kind = _KINDS[type(record)]
    dialog = _DIALOGS[kind](record, _names(session, kind) - {record.name}, parent)
    if not dialog.exec():
        return
    if dialog.removed:
        session.remove(record, f"Remove the {kind} {record.name}")
    else:
        session.edit(dialog.record(), f"Edit the {kind} {record.name}")


def void_run(parent: QWidget, session: Session, run: Run) -> None:
    """Void a run with its reason, or take the void back."""
    if session.yard.read_only:
        return
    if run.state == RunState.VOID.value:
        back = replace(run, state=RunState.FINISHED.value, void_reason="")
        session.edit(back, f"Take back the void of run {run.number}")
        return
    dialog = VoidDialog(run, parent)
    if dialog.exec():
        void = replace(run, state=RunState.VOID.value, void_reason=dialog.reason.text().strip())
        session.edit(void, f"Void run {run.number}")


def _names(session: Session, kind: str) -> set[str]:
    yard = session.yard
    listed: dict[str, Callable[[], Sequence[Editable]]] = {
        "station": yard.stations,
        "load": yard.loads,
        "meter": yard.meters,
        "yardstick": yard.yardsticks,
    }
    return {record.name for record in listed[kind]()}
