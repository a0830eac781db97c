"""What the window's actions ask about the records of the open yard."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PySide6.QtWidgets import QInputDialog, QWidget

from yardtoll.desktop.actions.editing import add_record, edit_record, rating_claims
from yardtoll.desktop.host import Host
from yardtoll.desktop.workbench.session import Session


def ask_new_record(host: Host, kind: str) -> None:
    """Ask for a new station, load, meter or other record and keep it."""
    session = _session_to_change(host)
    if session is not None:
        add_record(host.widget, session, kind)


def ask_about_station(host: Host, do: Callable[[QWidget, Session], object]) -> None:
    """Do something with the chosen station that asks in a dialog of its own."""
    session = _session_to_change(host)
    if session is None:
        return
    if session.station is None:
        new = partial(ask_new_record, host, "station")
        host.say("Add a station first.", "Add a station…", new)
    else:
        do(host.widget, session)


def edit_chosen_station(parent: QWidget, session: Session) -> None:
    """Ask for changes to the chosen station."""
    if session.station is not None:
        edit_record(parent, session, session.station)


def add_configuration(parent: QWidget, session: Session) -> None:
    """Ask for the chosen station with packs, or several of it; its claims begin with its rating."""
    from yardtoll.desktop.dialogs.records import ConfigurationDialog

    chosen = session.station
    if chosen is None:
        return
    every = session.yard.stations()
    base = next((s for s in every if s.id == chosen.base_id), chosen)
    dialog = ConfigurationDialog(base, {station.name for station in every}, parent)
    if not dialog.exec():
        return
    text = f"Add {dialog.record().name}"
    with session.together(text):
        made = session.add(dialog.record(), text)
        for claim in rating_claims(made):
            session.add(claim, text)
    session.choose_station(made.id)


def ask_site(host: Host) -> None:
    """Ask for the site of the bench."""
    session = _session_to_change(host)
    if session is not None:
        edit_record(host.widget, session, session.yard.site())


def ask_yard_name(host: Host) -> None:
    """Ask for the yard's new name."""
    session = _session_to_change(host)
    if session is None:
        return
    info = session.yard.info()
    name, accepted = QInputDialog.getText(host.widget, "Rename the yard", "Name", text=info.name)
    if accepted and name.strip():
        session.edit(replace(info, name=name.strip()), "Rename the yard")
        host.show_yard_name()


def _session_to_change(host: Host) -> Session | None:
    """The open yard's session where it can be changed; a yard that is only shown is reported."""
    if host.bench is None:
        return None
    if host.bench.session.yard.read_only:
        host.say("This yard is open in another window: it can only be looked at here.")
        return None
    return host.bench.session
