"""Everything the program can do, by name and key; the command finder lists these."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QWidget

from yardtoll.desktop.actions.earlier_day import ask_earlier_day
from yardtoll.desktop.actions.editing import (
    add_claim,
    add_noted_run,
    edit_receiving,
    paste_claims,
)
from yardtoll.desktop.actions.files import (
    ask_export_stations,
    ask_import,
    ask_import_stations,
    ask_new_yard,
    ask_open_yard,
)
from yardtoll.desktop.actions.photos import ask_photos
from yardtoll.desktop.actions.preferences import REGION_PAGE, ask_preferences
from yardtoll.desktop.actions.records import (
    add_configuration,
    ask_about_station,
    ask_new_record,
    ask_site,
    ask_yard_name,
    edit_chosen_station,
)
from yardtoll.desktop.actions.saving import (
    ask_export_yard,
    ask_import_package,
    ask_save_charts,
    ask_save_html,
    ask_save_pdf,
    ask_save_results,
)
from yardtoll.desktop.actions.time_lapse import ask_time_lapse, ask_video
from yardtoll.desktop.frame.questions import show_about
from yardtoll.desktop.host import Host

EVENING = "The first evening…"
FIND = "Find anything…"
HELP_HERE, HELP_METHOD = "Help on this stop", "Help on the planned method"
NEEDS_YARD = "needs_yard"
"""Property of actions that are there only while a yard is open."""

RECENT = "Open recent"
"""Stands for the list of yards opened lately."""
STOP_LIST = "Stops"
"""Stands for the stops of the rail."""

# The menus with their groups; what is in none of them is found by typing.
MENUS = (
    (
        "&File",
        (
            ("New yard…", "Open a yard…", RECENT, "Look at the demo yard"),
            ("Import a meter's log…", "Import stations…", "Open a data package…"),
            ("Export the yard…", "Export the stations…", "Results as JSON…", "Shared archive…"),
            ("Save the sheet as PDF…", "Save the sheet as HTML…", "Charts as pictures…"),
            ("Rename the yard…", "Go back to an earlier day…", "Close the yard"),
            ("Quit",),
        ),
    ),
    ("&Edit", (("Undo", "Redo"), ("Copy",), (FIND,), ("Preferences…",))),
    (
        "&Station",
        (
            ("Add a station…", "Add it with packs…", "Edit the station…"),
            ("As received…", "Add photos…"),
            ("Paste claims from a text…", "Add a claim…"),
        ),
    ),
    (
        "&Bench",
        (
            ("Add a load…", "Add a meter…", "Add a circuit…", "Add a cord…", "Add an array…"),
            ("The site…",),
        ),
    ),
    (
        "&Run",
        (
            ("See the run in progress", "Stop the run"),
            ("Add a run from notes…", "Step through a time-lapse…", "Step through a video…"),
        ),
    ),
    (
        "&View",
        (
            (STOP_LIST,),
            ("Larger text", "Smaller text", "Usual text size"),
            (
                "Day colours",
                "Night colours",
                "High contrast",
                "Colours as the system has them",
            ),
            ("Full screen",),
        ),
    ),
    (
        "&Help",
        (
            (HELP_HERE, HELP_METHOD, "Manual", "Glossary", "Keys"),
            (EVENING,),
            ("Take care",),
            ("About Yard Toll",),
        ),
    ),
)


@dataclass(frozen=True)
class Command:
    """Something the program can do.

    Attributes:
        text: its name, as shown.
        do: does it.
        keys: its keyboard shortcut; "" for none.
        needs_yard: there is nothing to do it with while no yard is open.
    """

    text: str
    do: Callable[[], object]
    keys: str = ""
    needs_yard: bool = True


def make_actions(window: QWidget, commands: Iterable[Command]) -> dict[str, QAction]:
    """The window's actions by their text, added to it with their keys."""
    made = {}
    for command in commands:
        action = QAction(command.text, window)
        if command.keys:
            action.setShortcut(QKeySequence(command.keys))
        action.triggered.connect(lambda _=False, do=command.do: do())
        action.setProperty(NEEDS_YARD, command.needs_yard)
        window.addAction(action)
        made[command.text] = action
    return made


def _ask_archive(host: Host) -> None:
    """What talks to a server is loaded only where it is asked for."""
    from yardtoll.desktop.actions.shared_archive import ask_archive

    ask_archive(host)


def commands(host: Host) -> list[Command]:
    """What can be done with yards, records and files."""
    return [
        Command("Add a station…", partial(ask_new_record, host, "station")),
        Command("Add a load…", partial(ask_new_record, host, "load")),
        Command("Add a meter…", partial(ask_new_record, host, "meter")),
        Command("Add a circuit…", partial(ask_new_record, host, "circuit")),
        Command("Add a cord…", partial(ask_new_record, host, "cord")),
        Command("Add an array…", partial(ask_new_record, host, "array")),
        Command("Add it with packs…", partial(ask_about_station, host, add_configuration)),
        Command("Edit the station…", partial(ask_about_station, host, edit_chosen_station)),
        Command("The site…", partial(ask_site, host)),
        Command("Preferences…", partial(ask_preferences, host), "Ctrl+,", needs_yard=False),
        Command("Units and region…", partial(ask_preferences, host, REGION_PAGE), needs_yard=False),
        Command(
            "Paste claims from a text…",
            partial(ask_about_station, host, paste_claims),
            "Ctrl+Shift+V",
        ),
        Command("Add a run from notes…", partial(ask_about_station, host, add_noted_run)),
        Command("Step through a time-lapse…", partial(ask_time_lapse, host)),
        Command("Step through a video…", partial(ask_video, host)),
        Command("Add a claim…", partial(ask_about_station, host, add_claim)),
        Command("As received…", partial(ask_about_station, host, edit_receiving)),
        Command("Add photos…", partial(ask_photos, host)),
        Command("Export the stations…", partial(ask_export_stations, host)),
        Command("Import stations…", partial(ask_import_stations, host)),
        Command("Save the sheet as PDF…", partial(ask_save_pdf, host), "Ctrl+P"),
        Command("Save the sheet as HTML…", partial(ask_save_html, host)),
        Command("Charts as pictures…", partial(ask_save_charts, host)),
        Command("Results as JSON…", partial(ask_save_results, host)),
        Command("Export the yard…", partial(ask_export_yard, host)),
        Command("Shared archive…", partial(_ask_archive, host), needs_yard=False),
        Command("Rename the yard…", partial(ask_yard_name, host)),
        Command("Go back to an earlier day…", partial(ask_earlier_day, host)),
        Command("New yard…", partial(ask_new_yard, host), "Ctrl+N", needs_yard=False),
        Command("Open a yard…", partial(ask_open_yard, host), "Ctrl+O", needs_yard=False),
        Command("Open a data package…", partial(ask_import_package, host), needs_yard=False),
        Command("Import a meter's log…", partial(ask_import, host), "Ctrl+I", needs_yard=False),
        Command("About Yard Toll", partial(show_about, host.widget), needs_yard=False),
    ]
