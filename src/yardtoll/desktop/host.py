"""What a window offers to the views and actions inside it."""

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Protocol

from PySide6.QtWidgets import QWidget

from yardtoll.desktop.workbench.jobs import Jobs
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.desktop.workbench.workbench import Workbench


class Host(Protocol):
    """The window as its views and actions know it.

    Attributes:
        settings: the user's settings.
        bench: the open yard at work; None while none is open.
        jobs: what is done on workers, with progress and cancel.
    """

    settings: UserSettings
    bench: Workbench | None
    jobs: Jobs

    @property
    def widget(self) -> QWidget:
        """The parent of dialogs."""

    @property
    def current_stop(self) -> str:
        """Key of the stop that is shown."""

    def say(self, text: str, action: str = "", todo: Callable[[], object] | None = None) -> None:
        """Tell the user one sentence."""

    def confirm(self, text: str) -> None:
        """Tell the user that something was done as asked; it passes by itself."""

    def go_to(self, stop: str) -> None:
        """Show a stop, by its key."""

    def open_run(self, run_id: int) -> None:
        """Show a run where it is to be seen."""

    def plan(self, method: str, watts: float | None = None, at: datetime | None = None) -> None:
        """Plan a run of a method, with the watts a claim asks for, or for a moment to come."""

    def open_soon(self, path: Path) -> None:
        """Open a yard as soon as it is read; on failure the one that is open stays."""

    def open_yard(self, path: Path) -> None:
        """Open a yard at once; on failure the one that is open stays."""

    def new_yard(self, path: Path) -> None:
        """Make a yard and open it."""

    def show_anew(self) -> None:
        """Build the views again, as after another choice of units."""

    def show_yard_name(self) -> None:
        """Name the window after the open yard."""
