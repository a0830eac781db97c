"""The menu bar: the window's actions in menus by the desktop's usual names."""

from collections.abc import Callable, Iterable, Mapping
from functools import partial
from pathlib import Path

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QMenuBar, QToolButton

from yardtoll.desktop.frame.menu import MENUS, RECENT, STOP_LIST


def fill_menu_bar(
    bar: QMenuBar,
    actions: Mapping[str, QAction],
    stops: Iterable[str],
    recent: "RecentYards",
) -> None:
    """Put actions into the menus, a line between groups.

    Args:
        actions: by their text; every text of the menus is among them.
        stops: texts of the actions that go to a stop.
    """
    further = bar.findChild(QToolButton)
    if further is not None:
        further.setAccessibleName("Further menus")
    for title, groups in MENUS:
        menu = bar.addMenu(title)
        for number, group in enumerate(groups):
            if number:
                menu.addSeparator()
            for text in group:
                if text == RECENT:
                    menu.addMenu(recent)
                elif text == STOP_LIST:
                    menu.addActions([actions[stop] for stop in stops])
                else:
                    menu.addAction(actions[text])


class RecentYards(QMenu):
    """The yards opened lately, read anew each time the menu opens.

    Args:
        recent: the yards, newest first.
        open_yard, forget: what is done with one that is chosen, and with the whole list.
    """

    def __init__(
        self,
        recent: Callable[[], list[Path]],
        open_yard: Callable[[Path], object],
        forget: Callable[[], object],
    ) -> None:
        super().__init__(RECENT)
        self._recent, self._open, self._forget = recent, open_yard, forget
        self.aboutToShow.connect(self.fill)
        self.fill()

    def fill(self) -> None:
        """List what is there now."""
        self.clear()
        paths = self._recent()
        for number, path in enumerate(paths, 1):
            name = path.stem.replace("&", "&&")
            action = self.addAction(f"&{number}  {name}    {_folder(path)}")
            action.triggered.connect(partial(_first, self._open, path))
        if paths:
            self.addSeparator()
            self.addAction("Forget these", self._forget)
        else:
            self.addAction("None yet").setEnabled(False)


def _first(do: Callable[[Path], object], path: Path, _checked: bool = False) -> None:
    do(path)


def _folder(path: Path) -> str:
    home = Path.home()
    folder = path.parent
    return f"~/{folder.relative_to(home)}" if folder.is_relative_to(home) else str(folder)
