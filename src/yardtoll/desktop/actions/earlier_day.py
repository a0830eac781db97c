"""Going back to a yard as it was: its daily copies, opened beside it."""

import shutil
from pathlib import Path

from PySide6.QtWidgets import QListWidget, QWidget

from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.host import Host
from yardtoll.desktop.widgets.basics import label
from yardtoll.store.backups import backups
from yardtoll.store.errors import YardError
from yardtoll.store.shown_region import day


def ask_earlier_day(host: Host) -> None:
    """Ask for a day, and open that day's copy as a yard of its own; the open one stays as it is."""
    if host.bench is None:
        return
    path = host.bench.session.path
    found = backups(path)
    if not found:
        host.say(
            "There is no copy of an earlier day yet: one is kept for each day this yard is changed."
        )
        return
    dialog = EarlierDayDialog([f"{day(on)}   {_size(copy)}" for on, copy in found], host.widget)
    if not dialog.exec():
        return
    on, copy = found[dialog.days.currentRow()]
    made = _free_name(path.with_name(f"{path.stem} as of {on.isoformat()}.yard"))

    def opened(_: object) -> None:
        host.open_yard(made)
        host.say(f"This is the yard as of {day(on)}, in {made.name}. {path.name} is as it was.")

    # A yard may hold a career: it is copied on a worker, beside its name until it is whole.
    host.jobs.start(
        f"Copying the yard as of {day(on)}",
        lambda _: _copy_whole(copy, made),
        opened,
        lambda error: host.say(f"{made.name} cannot be written: {error}. Nothing was changed."),
    )


def _copy_whole(copy: Path, made: Path) -> None:
    """All of it under its name, or nothing."""
    partly = made.with_suffix(".partly")
    try:
        shutil.copyfile(copy, partly)
        partly.replace(made)
    except OSError as error:
        partly.unlink(missing_ok=True)
        raise YardError(error.strerror or str(error)) from None


class EarlierDayDialog(FormDialog):
    """Which day.

    Args:
        days: each copy in words, newest first.
    """

    manual_page = "yard"

    def __init__(self, days: list[str], parent: QWidget | None = None) -> None:
        super().__init__("Go back to an earlier day", "Open that day", parent)
        self.days = QListWidget()
        self.days.setAccessibleName("Days with a copy")
        self.days.addItems(days)
        self.days.setCurrentRow(0)
        self.days.itemActivated.connect(lambda _: self.accept())
        self.rows.addRow(self.days)
        self.rows.addRow(
            label(
                "The copy opens as a yard of its own, beside this one. Nothing is overwritten.",
                "muted",
                wrap=True,
            )
        )


def _size(copy: Path) -> str:
    return f"{copy.stat().st_size / 1e6:.1f} MB"


def _free_name(path: Path) -> Path:
    made, number = path, 2
    while made.exists():
        made = path.with_name(f"{path.stem} ({number}).yard")
        number += 1
    return made
