"""Noting what was seen by eye: a yes or a no, with a word on how."""

from PySide6.QtCore import QDate
from PySide6.QtWidgets import QWidget

from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import choice
from yardtoll.desktop.widgets.days import qt_day
from yardtoll.desktop.widgets.wheel import DayField
from yardtoll.store.records import Observation


class ObservationDialog(FormDialog):
    """Is it so? With the day and how it was seen.

    Args:
        question: what is asked, in words.
        subject: the kind of claim or quantity of the scorecard.
        before: what was noted earlier; None for the first time.
    """

    manual_page = "outputs"

    def __init__(
        self,
        question: str,
        subject: str,
        station_id: int,
        before: Observation | None = None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__("What was seen", "Keep it", parent, removable=before is not None)
        self._subject, self._station_id, self._before = subject, station_id, before
        self.answer = choice(question, [("Yes", True), ("No", False)])
        if before is not None and not before.agrees:
            self.answer.setCurrentIndex(1)
        self.rows.addRow(question, self.answer)
        self.words = self.line("How it was seen", before.words if before else "", "on a scope")
        self.day = DayField()
        seen_on = before.observed_on if before is not None else ""
        self.day.setDate(
            QDate.fromString(seen_on, "yyyy-MM-dd") if seen_on else QDate.currentDate()
        )
        self.day.setDisplayFormat(qt_day())
        self.day.setCalendarPopup(True)
        self.day.setAccessibleName("Seen on")
        self.rows.addRow("Seen on", self.day)

    def record(self) -> Observation:
        """The observation as entered."""
        return Observation(
            id=self._before.id if self._before else None,
            station_id=self._station_id,
            subject=self._subject,
            agrees=bool(self.answer.currentData()),
            words=self.words.text().strip(),
            observed_on=self.day.date().toString("yyyy-MM-dd"),
        )
