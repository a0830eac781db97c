"""Scorecards kept under a name and a version, used again, given away and taken in."""

from dataclasses import asdict
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu

from yardtoll.core.formatting import capitalised
from yardtoll.desktop.host import Host
from yardtoll.desktop.workbench.session import Session
from yardtoll.store.records import ScoreTemplate, StoredScorePoint
from yardtoll.store.site_time import now

_KIND = "Scorecards (*.json)"


class Scorecards:
    """What the sheet asks of them."""

    def __init__(self, host: Host, session: Session) -> None:
        self._host, self._session = host, session

    def fill(self, menu: QMenu) -> None:
        """What can be done now."""
        menu.clear()
        kept = self._session.yard.score_templates()
        writable = not self._session.yard.read_only
        keep = menu.addAction("Keep this scorecard as…", self.ask_keep)
        keep.setEnabled(writable)
        take = menu.addAction("Take a scorecard in…", self.ask_import)
        take.setEnabled(writable)
        for title, act in (("Use", self.use), ("Write to a file", self.ask_export)):
            below = menu.addMenu(title)
            below.setEnabled(bool(kept) and (writable or act != self.use))
            for template in reversed(kept):
                below.addAction(template.title, partial(act, template))

    def ask_keep(self) -> None:
        """Ask for a name, and keep the yard's scorecard under it."""
        kept = self._session.yard.score_templates()
        name, accepted = QInputDialog.getText(
            self._host.widget, "Keep this scorecard", "Name", text=kept[-1].name if kept else ""
        )
        if accepted and name.strip():
            self.keep(" ".join(name.split())[:120])

    def keep(self, name: str) -> ScoreTemplate:
        """Keep it; the same points under the same name are the version that is there."""
        yard = self._session.yard
        points = tuple(stored.point for stored in yard.score_points())
        versions = [t for t in yard.score_templates() if t.name.casefold() == name.casefold()]
        if versions and versions[-1].points == points:
            self._host.say(f"That is {versions[-1].title} as it is.")
            return versions[-1]
        number = versions[-1].version + 1 if versions else 1
        made = ScoreTemplate(name=name, version=number, points=points, made_on=f"{now():%Y-%m-%d}")
        kept = self._session.add(made, f"Keep the scorecard {made.title}")
        self._host.say(f"Kept as {kept.title}.")
        return kept

    def use(self, template: ScoreTemplate) -> None:
        """Score by it from now on: its points take the place of the yard's; one step for undo."""
        text = f"Use the scorecard {template.title}"
        with self._session.together(text):
            for old in self._session.yard.score_points():
                self._session.remove(old, text)
            for position, point in enumerate(template.points):
                self._session.add(StoredScorePoint(position=position, **asdict(point)), text)
        self._host.say(f"Scored by {template.title} from now on.")

    def ask_export(self, template: ScoreTemplate) -> None:
        """Ask for a file, and write it there."""
        from yardtoll.store.score_templates import write_template
        from yardtoll.store.station_library import LibraryError

        name = f"{template.name} {template.version}.json".replace("/", "-")
        start = str(self._host.settings.last_folder / name)
        chosen, _ = QFileDialog.getSaveFileName(self._host.widget, "Write it to", start, _KIND)
        if chosen:
            try:
                write_template(template, Path(chosen))
            except LibraryError as error:
                self._host.say(f"{capitalised(str(error))}.")

    def ask_import(self) -> None:
        """Ask for a file, and keep the scorecard in it."""
        start = str(self._host.settings.last_folder)
        chosen, _ = QFileDialog.getOpenFileName(self._host.widget, "A scorecard", start, _KIND)
        if chosen:
            self.take_in(Path(chosen))

    def take_in(self, path: Path) -> None:
        """Keep the scorecard of a file; a version that is there already stays as it is."""
        from yardtoll.store.score_templates import read_template
        from yardtoll.store.station_library import LibraryError

        try:
            found = read_template(path)
        except LibraryError as error:
            self._host.say(f"{capitalised(str(error))}.")
            return
        same = [t for t in self._session.yard.score_templates() if t.title == found.title]
        if same:
            differs = same[0].points != found.points
            said = "with other points; give one of them another name" if differs else "already"
            self._host.say(f"{found.title} is there {said}.")
            return
        self._session.add(found, f"Take the scorecard {found.title} in")
        self._host.say(f"{found.title} is there to be used.")
