"""Dialogs about runs with appliances: which an outage is held against, what one teaches."""

from collections.abc import Sequence

from PySide6.QtWidgets import QWidget

from yardtoll.desktop.dialogs.form import FormDialog, name_is_wrong
from yardtoll.desktop.widgets.basics import choice, label
from yardtoll.review.endurance.tried import appliance_from
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.store.records import Appliance
from yardtoll.store.shown_region import day
from yardtoll.store.site_time import local


def run_line(analysis: RunAnalysis) -> str:
    """A run in a choice, like "Run 5, 2026-11-26: Fridge"."""
    run = analysis.run
    load = f": {run.conditions.load}" if run.conditions.load else ""
    return f"Run {run.number}, {day(local(run.started_at))}{load}"


class TriedRunDialog(FormDialog):
    """Which run an outage was really tried in."""

    manual_page = "outputs"

    def __init__(
        self, runs: Sequence[RunAnalysis], chosen: int | None, parent: QWidget | None = None
    ) -> None:
        super().__init__("Hold it against a run", "Keep it", parent)
        items: list[tuple[str, object]] = [("not tried", None)]
        items += [(run_line(a), a.run.id) for a in reversed(runs)]
        self.run = choice("The run it was tried in", items)
        self.run.setMinimumContentsLength(32)
        self.run.setCurrentIndex(max(self.run.findData(chosen), 0))
        self.rows.addRow("It was tried in", self.run)
        self.rows.addRow(
            "",
            label(
                "A discharge from full to the cut-off, with the appliances of this outage.",
                "muted",
                wrap=True,
            ),
        )

    @property
    def run_id(self) -> int | None:
        """The chosen run."""
        found: int | None = self.run.currentData()
        return found


class LearnDialog(FormDialog):
    """What a run says of its appliance, to be kept among one's own."""

    manual_page = "plan"

    def __init__(self, runs: Sequence[RunAnalysis], parent: QWidget | None = None) -> None:
        super().__init__("Learn an appliance from a run", "Keep it", parent)
        self._runs = {a.run.id: a for a in runs}
        self.run = choice("The run", [(run_line(a), a.run.id) for a in reversed(runs)])
        self.run.setMinimumContentsLength(32)
        self.run.currentIndexChanged.connect(lambda _: self._show())
        self.rows.addRow("Run", self.run)
        self.name = self.line("Name", "", "Fridge in the hall")
        self.said = label("", "quiet", wrap=True)
        self.rows.addRow("", self.said)
        self.made: Appliance | str = "there is no run with a log of watts yet"
        self._show()

    def _show(self) -> None:
        analysis = self._runs.get(self.run.currentData())
        if analysis is None:
            self.said.setText("There is no run with a log of watts yet.")
            return
        self.name.setText(analysis.run.conditions.load or f"Appliance of run {analysis.run.number}")
        self.made = appliance_from(analysis, "")
        if isinstance(self.made, str):
            self.said.setText(f"{self.made[:1].upper()}{self.made[1:]}.")
        else:
            share = 100 * (self.made.high_share - 1)
            self.said.setText(f"{self.made.note}; ± {share:.0f} %.")

    def wrong(self) -> str:
        if isinstance(self.made, str):
            return f"{self.made[:1].upper()}{self.made[1:]}."
        return name_is_wrong(self.name.text().strip(), set())

    def appliance(self) -> Appliance:
        """As it is kept."""
        analysis = self._runs[self.run.currentData()]
        made = appliance_from(analysis, self.name.text().strip())
        assert isinstance(made, Appliance)
        return made
