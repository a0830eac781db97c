"""Outages of the chosen station: made, changed, their appliances and feeds; with undo."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from yardtoll.core.methods.appliances import METHOD as TRIED
from yardtoll.desktop.host import Host
from yardtoll.desktop.workbench.session import Session
from yardtoll.store.records import Appliance, StoredOutage

if TYPE_CHECKING:
    from yardtoll.review.run_analysis import RunAnalysis


class Outages:
    """What the Endurance view asks for."""

    def __init__(self, host: Host, session: Session) -> None:
        self._host, self._session = host, session

    def keep(self, outage: StoredOutage, text: str) -> StoredOutage:
        """Keep an outage as it is now: one that was only shown so far becomes a record."""
        if self._session.yard.read_only:
            return outage
        if outage.id is None:
            return self._session.add(outage, text)
        self._session.edit(outage, text)
        return outage

    def add(self, outage: StoredOutage) -> StoredOutage:
        """Keep a further outage, like the one that is shown; its name is its own."""
        taken = {other.name for other in self._session.yard.outages(outage.station_id)}
        name, number = outage.name, 2
        while name in taken:
            name, number = f"{outage.name} {number}", number + 1
        return self._session.add(replace(outage, id=None, name=name), f"Add the outage {name}")

    def ask(self, outage: StoredOutage) -> None:
        """Ask for the name, and for figures that are typed."""
        from yardtoll.desktop.dialogs.outage import OutageDialog

        others = self._session.yard.outages(outage.station_id)
        taken = {other.name for other in others if other.id != outage.id}
        dialog = OutageDialog(outage, taken, self._host.widget)
        if not dialog.exec():
            return
        if dialog.removed:
            self.remove(outage)
        else:
            self.keep(dialog.record(), f"Edit the outage {outage.name}")

    def remove(self, outage: StoredOutage) -> None:
        """Take it out of sight; undo brings it back."""
        if outage.id is not None and not self._session.yard.read_only:
            self._session.remove(outage, f"Remove the outage {outage.name}")

    def ask_use(self, outage: StoredOutage, name: str | None) -> None:
        """Ask for changes to an appliance, or for a new one where None."""
        from yardtoll.desktop.dialogs.outage import UseDialog, names_of
        from yardtoll.review.endurance.edits import with_changed_use, with_use

        use = next((u for u in outage.uses if u.name == name), None)
        dialog = UseDialog(use, names_of(outage) - {name}, self._host.widget)
        if not dialog.exec():
            return
        if dialog.removed and use is not None:
            self.remove_lane(outage, use.name)
            return
        made = dialog.use()
        if use is None:
            changed, text = with_use(outage, made), f"Put in {made.name}"
        else:
            changed, text = with_changed_use(outage, use.name, made), f"Edit {made.name}"
        with self._session.together(text):
            self.keep(changed, text)
            if dialog.keep_own.isChecked():
                self._keep_own(dialog.appliance(), text)

    def _keep_own(self, appliance: Appliance, text: str) -> None:
        """Among the reviewer's own; one of that name is changed."""
        own = self._session.yard.appliances()
        before = next((a for a in own if a.name == appliance.name), None)
        if before is None:
            self._session.add(appliance, text)
        else:
            self._session.edit(replace(appliance, id=before.id), text)

    def ask_tried(self, outage: StoredOutage, runs: Sequence[RunAnalysis]) -> None:
        """Ask in which run it was really tried."""
        from yardtoll.desktop.dialogs.tried_run import TriedRunDialog

        dialog = TriedRunDialog(runs, outage.run_id, self._host.widget)
        if dialog.exec():
            changed = replace(outage, run_id=dialog.run_id)
            self.keep(changed, f"Hold {outage.name} against a run")

    def ask_learn(self, runs: Sequence[RunAnalysis]) -> None:
        """Ask which run's appliance is to be one of the reviewer's own."""
        from yardtoll.desktop.dialogs.tried_run import LearnDialog

        dialog = LearnDialog(runs, self._host.widget)
        if dialog.exec():
            made = dialog.appliance()
            self._keep_own(made, f"Learn {made.name}")

    def ask_heat(self, outage: StoredOutage) -> None:
        """Ask for water that is warmed, and put it in."""
        from yardtoll.desktop.dialogs.outage import HeatDialog, names_of
        from yardtoll.review.endurance.edits import with_use

        dialog = HeatDialog(self._own_efficiency(), names_of(outage), self._host.widget)
        if dialog.exec():
            use = dialog.use()
            self.keep(with_use(outage, use), f"Put in {use.name}")

    def _own_efficiency(self) -> float | None:
        """Of the reviewer's own kettle: what the latest try of one says; None where none does."""
        from yardtoll.core.output.appliances import heating_share

        yard, found = self._session.yard, None
        for run in yard.runs():
            if run.method == TRIED.key and run.id is not None:
                for entry in yard.entries(run.id):
                    found = heating_share(entry.fields) or found
        return found

    def ask_feed(self, outage: StoredOutage, name: str | None) -> None:
        """Ask for changes to wall or generator power, or for a new one where None."""
        from yardtoll.desktop.dialogs.outage import FeedDialog, names_of
        from yardtoll.review.endurance.edits import with_feed

        feed = next((f for f in outage.feeds if f.name == name), None)
        dialog = FeedDialog(feed, names_of(outage) - {name}, self._host.widget)
        if not dialog.exec():
            return
        if dialog.removed and feed is not None:
            self.remove_lane(outage, feed.name)
            return
        made = dialog.feed()
        key = feed.name if feed is not None else made.name
        self.keep(with_feed(outage, key, made), f"Power from {made.name}")

    def remove_lane(self, outage: StoredOutage, name: str) -> None:
        """Take an appliance or a feed out of the outage."""
        from yardtoll.review.endurance.edits import with_feed, without_use

        if any(feed.name == name for feed in outage.feeds):
            changed = with_feed(outage, name, None)
        else:
            changed = without_use(outage, name)
        if changed != outage:
            self.keep(changed, f"Take {name} out")
