"""The readings and marks of a run as notes, to be corrected or added to afterwards."""

from collections import Counter
from dataclasses import replace
from datetime import timedelta

from PySide6.QtWidgets import QWidget

from yardtoll.core.electrical.trace import ClockBasis
from yardtoll.core.methods import METHODS
from yardtoll.core.notes.read import Notes
from yardtoll.core.notes.slips import Bench
from yardtoll.core.notes.times import DAY_S
from yardtoll.core.notes.write import write_notes
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import label
from yardtoll.desktop.widgets.notes_editor import NotesEditor
from yardtoll.store.noted import NOTED_KINDS, notes_of, records_of
from yardtoll.store.records import Mark, Reading, Run
from yardtoll.store.site_time import local

_TEXT_H, _WIDTH = 320, 780


class RunNotesDialog(FormDialog):
    """One line a moment, by the clock; lines may be changed, removed or added at any time."""

    manual_page = "notes"

    def __init__(
        self, run: Run, readings: list[Reading], marks: list[Mark], parent: QWidget | None = None
    ) -> None:
        super().__init__(f"Notes of run {run.number}", "Keep them", parent)
        self.setMinimumWidth(_WIDTH)
        assert run.id is not None
        self._run, self._run_id = run, run.id
        self._charges = METHODS[run.method].charges
        shown: list[Reading | Mark] = [
            r for r in readings if r.kind in NOTED_KINDS and not r.subject
        ]
        self._kept = [*shown, *marks]
        began = local(run.started_at)
        self._day_s = (
            began - began.replace(hour=0, minute=0, second=0, microsecond=0)
        ) / timedelta(seconds=1)
        self.editor = NotesEditor(Bench(charges=self._charges))
        self.editor.setMinimumHeight(_TEXT_H)
        noted = [r for r in shown if isinstance(r, Reading)]
        notes = notes_of("the notes", noted, marks, charges=self._charges)
        self._before = self._text_of(notes)
        self.rows.addRow(
            label(
                f"The run began at {began:%H:%M:%S} on {began:%Y-%m-%d}. Times are of the clock, "
                "or +h:mm since the first line; an end that nobody saw is “found off”.",
                "muted", wrap=True,
            )
        )  # fmt: skip
        self.rows.addRow(self.editor)
        self.editor.set_text(self._before)
        self.editor.field.setFocus()

    def wrong(self) -> str:
        if not self.editor.text().strip():
            return ""
        if self.editor.notes is None:
            return f"{self.editor.problem[:1].upper()}{self.editor.problem[1:]}."
        unread = [line for line in self.editor.notes.lines if line.unread]
        if unread:
            part = unread[0].unread[0]
            said = unread[0].text[part.start : part.end].strip()
            return f"Line {unread[0].number}: “{said}” is not understood ({part.why})."
        return ""

    def withdrawn(self) -> list[Reading | Mark]:
        """What is kept now and does not stand in the text any more."""
        left = Counter(self._same(record) for record in self._made())
        gone = []
        for record in self._kept:
            key = self._same(record)
            if left[key]:
                left[key] -= 1
            else:
                gone.append(record)
        return gone

    def added(self) -> list[Reading | Mark]:
        """What stands in the text and is not kept yet."""
        known = Counter(self._same(record) for record in self._kept)
        new = []
        for record in self._made():
            key = self._same(record)
            if known[key]:
                known[key] -= 1
            else:
                new.append(record)
        return new

    def _made(self) -> list[Reading | Mark]:
        notes = self.editor.notes if self.editor.text().strip() else None
        if notes is None:
            return []
        return records_of(notes, self._run_id, charges=self._charges, from_s=self._from_s(notes))

    def _from_s(self, notes: Notes) -> float:
        """Of the first line, s from the run's start."""
        if notes.clock_s is None:
            first = next(line.time for line in notes.lines if line.time is not None)
            return first.seconds
        since_s = notes.clock_s % DAY_S - self._day_s
        # A first line a little before the start is of the same evening.
        return since_s if since_s > -DAY_S / 2 else since_s + DAY_S

    def _text_of(self, notes: Notes) -> str:
        if not notes.notes:
            return ""
        first_s = notes.notes[0].s
        shifted = tuple(replace(note, s=note.s - first_s) for note in notes.notes)
        return write_notes(
            replace(
                notes, notes=shifted, clock_s=self._day_s + first_s,
                clock_basis=ClockBasis.TIME_OF_DAY,
            )
        )  # fmt: skip

    def _same(self, record: Reading | Mark) -> tuple[object, ...]:
        """What makes two records the same to a reader of the text: times to the second."""
        at = round(self._day_s + record.time_s)
        if isinstance(record, Reading):
            return ("reading", record.kind, round(record.value, 4), at)
        return ("mark", record.word, record.ends_run, record.starts_run, record.seen, at)
