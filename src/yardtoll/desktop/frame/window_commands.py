"""What the window itself can do: its stops, undo, colours, size of text."""

from collections.abc import Callable
from functools import partial
from typing import Protocol

from yardtoll.desktop.actions.looks import change_text_size, choose_colours, usual_text_size
from yardtoll.desktop.frame.copying import copy_what_is_seen
from yardtoll.desktop.frame.evenings import Evenings
from yardtoll.desktop.frame.manual import Manual
from yardtoll.desktop.frame.menu import EVENING, FIND, HELP_HERE, HELP_METHOD, Command
from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import PLAN, RUN, stop_key
from yardtoll.desktop.views.stops import STOPS
from yardtoll.manual.book import CAUTIONS, GLOSSARY, START


class Frame(Host, Protocol):
    """The window as its own commands know it."""

    manual: Manual
    evenings: Evenings

    def visit(self, stop: str) -> None: ...
    def undo(self) -> None: ...
    def redo(self) -> None: ...
    def stop_run(self) -> None: ...
    def close_yard(self) -> None: ...
    def open_finder(self) -> None: ...
    def open_demo(self) -> None: ...
    def fill_screen(self) -> None: ...
    def close(self) -> bool: ...


def stop_texts() -> list[str]:
    """Texts of the commands that go to a stop."""
    return [f"Go to {stop.title}" for stop in STOPS.values()]


def window_commands(window: Frame) -> list[Command]:
    """Everything, in the order of the finder."""
    going: list[Callable[[], None]] = [partial(window.visit, stop) for stop in STOPS]
    return [
        *(
            Command(text, go, stop_key(number))
            for number, (text, go) in enumerate(zip(stop_texts(), going, strict=True), 1)
        ),
        Command("See the run in progress", partial(window.visit, RUN), "Ctrl+R"),
        Command("Plan a run", partial(window.visit, PLAN)),
        Command("Undo", window.undo, "Ctrl+Z"),
        Command("Redo", window.redo, "Ctrl+Shift+Z"),
        Command("Copy", partial(copy_what_is_seen, window), "Ctrl+C"),
        Command("Stop the run", window.stop_run),
        Command("Close the yard", window.close_yard, "Ctrl+W"),
        Command(FIND, window.open_finder, "Ctrl+K", needs_yard=False),
        Command("Look at the demo yard", window.open_demo, needs_yard=False),
        Command(EVENING, window.evenings.open, needs_yard=False),
        *(
            Command(text, partial(choose_colours, window, key), needs_yard=False)
            for text, key in (
                ("Day colours", "day"),
                ("Night colours", "night"),
                ("High contrast", "contrast"),
                ("Colours as the system has them", "system"),
            )
        ),
        Command("Larger text", partial(change_text_size, window, 1), "Ctrl++", needs_yard=False),
        Command("Smaller text", partial(change_text_size, window, -1), "Ctrl+-", needs_yard=False),
        Command("Usual text size", partial(usual_text_size, window), "Ctrl+0", needs_yard=False),
        Command(HELP_HERE, window.manual.open_here, "F1", needs_yard=False),
        Command(HELP_METHOD, window.manual.open_method, "Shift+F1"),
        *(
            Command(text, partial(window.manual.open, key), needs_yard=False)
            for text, key in (
                ("Manual", START),
                ("Glossary", GLOSSARY),
                ("Keys", "keys"),
                ("Take care", CAUTIONS),
            )
        ),
        Command("Full screen", window.fill_screen, "F11", needs_yard=False),
        Command("Quit", window.close, "Ctrl+Q", needs_yard=False),
    ]
