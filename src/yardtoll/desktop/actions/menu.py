"""Everything the program can do, by name and key; the command finder lists these."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QKeySequence

from yardtoll.desktop.actions.editing import (
    add_claim,
    edit_receiving,
    paste_claims,
    type_run_in,
)
from yardtoll.desktop.actions.files import (
    ask_export_stations,
    ask_import,
    ask_import_stations,
    ask_new_yard,
    ask_open_yard,
)
from yardtoll.desktop.actions.photos import ask_photos
from yardtoll.desktop.actions.records import (
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
from yardtoll.desktop.frame.questions import show_about
from yardtoll.desktop.views.stops import RUN, STOPS

if TYPE_CHECKING:
    from yardtoll.desktop.frame.main_window import MainWindow

NEEDS_YARD = "needs_yard"
"""Property of actions that are there only while a yard is open."""

# What the header's menu shows, in groups; everything else is found by typing.
MENU = (
    ("New yard…", "Open a yard…", "Look at the demo yard", "Rename the yard…", "Close the yard"),
    (
        "Import a meter's log…",
        "Type a run in…",
        "Add a station…",
        "Edit the station…",
        "Paste claims from a text…",
    ),
    ("Add a load…", "Add a meter…", "Add a circuit…", "Add a cord…", "Add an array…", "The site…"),
    ("Save the sheet as PDF…", "Save the sheet as HTML…", "Charts as pictures…"),
    ("Export the yard…", "Open a data package…", "Export the stations…", "Import stations…"),
    ("Undo", "Redo", "Find an action"),
    ("Day colours", "Night colours", "Colours as the system has them"),
    ("About Yard Toll", "Quit"),
)

Do = Callable[[], object]


def make_actions(window: "MainWindow") -> dict[str, QAction]:
    """The window's actions by their text, added to it with their keys."""
    made = {}
    for text, keys, do, needs_yard in (*_in_a_yard(window), *_always(window)):
        action = QAction(text, window)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda _=False, do=do: do())
        action.setProperty(NEEDS_YARD, needs_yard)
        window.addAction(action)
        made[text] = action
    return made


def _in_a_yard(window: "MainWindow") -> list[tuple[str, str, Do, bool]]:
    going: list[tuple[str, str, Do, bool]] = [
        (f"Go to {stop}", f"Alt+{index + 1}", partial(window.go_to, index), True)
        for index, stop in enumerate(STOPS)
    ]
    return [
        *going,
        ("See the run that is going", "Ctrl+R", partial(window.go_to, RUN), True),
        ("Undo", "Ctrl+Z", window.undo, True),
        ("Redo", "Ctrl+Shift+Z", window.redo, True),
        ("Add a station…", "", partial(ask_new_record, window, "station"), True),
        ("Add a load…", "", partial(ask_new_record, window, "load"), True),
        ("Add a meter…", "", partial(ask_new_record, window, "meter"), True),
        ("Add a circuit…", "", partial(ask_new_record, window, "circuit"), True),
        ("Add a cord…", "", partial(ask_new_record, window, "cord"), True),
        ("Add an array…", "", partial(ask_new_record, window, "array"), True),
        ("Edit the station…", "", partial(ask_about_station, window, edit_chosen_station), True),
        ("The site…", "", partial(ask_site, window), True),
        (
            "Paste claims from a text…",
            "Ctrl+Shift+V",
            partial(ask_about_station, window, paste_claims),
            True,
        ),
        ("Type a run in…", "", partial(ask_about_station, window, type_run_in), True),
        ("Add a claim…", "", partial(ask_about_station, window, add_claim), True),
        ("As received…", "", partial(ask_about_station, window, edit_receiving), True),
        ("Add photos…", "", partial(ask_photos, window), True),
        ("Export the stations…", "", partial(ask_export_stations, window), True),
        ("Import stations…", "", partial(ask_import_stations, window), True),
        ("Save the sheet as PDF…", "Ctrl+P", partial(ask_save_pdf, window), True),
        ("Save the sheet as HTML…", "", partial(ask_save_html, window), True),
        ("Charts as pictures…", "", partial(ask_save_charts, window), True),
        ("Results as JSON…", "", partial(ask_save_results, window), True),
        ("Export the yard…", "", partial(ask_export_yard, window), True),
        ("Rename the yard…", "", partial(ask_yard_name, window), True),
        ("Stop the run", "", window.stop_run, True),
        ("Close the yard", "Ctrl+W", window.close_yard, True),
    ]


def _always(window: "MainWindow") -> list[tuple[str, str, Do, bool]]:
    return [
        ("Find an action", "Ctrl+K", window.open_finder, False),
        ("New yard…", "Ctrl+N", partial(ask_new_yard, window), False),
        ("Open a yard…", "Ctrl+O", partial(ask_open_yard, window), False),
        ("Look at the demo yard", "", window.open_demo, False),
        ("Open a data package…", "", partial(ask_import_package, window), False),
        ("Import a meter's log…", "Ctrl+I", partial(ask_import, window), False),
        ("Day colours", "", partial(window.choose_theme, "day"), False),
        ("Night colours", "", partial(window.choose_theme, "night"), False),
        ("Colours as the system has them", "", partial(window.choose_theme, "system"), False),
        ("About Yard Toll", "", partial(show_about, window), False),
        ("Quit", "Ctrl+Q", window.close, False),
    ]
