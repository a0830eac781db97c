"""Explaining what a run cannot be trusted for, so that it may meet a claim after all."""

from collections.abc import Sequence
from dataclasses import replace

from PySide6.QtWidgets import QWidget

from yardtoll.core.electrical.doubts import DOUBTS
from yardtoll.core.electrical.trace import Code
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import label
from yardtoll.store.records import Run

_LEAST_LETTERS = 4


class ExplainDialog(FormDialog):
    """One line for each doubt; what is left empty stays a doubt."""

    manual_page = "claims"

    def __init__(self, run: Run, codes: Sequence[Code], parent: QWidget | None = None) -> None:
        super().__init__(f"What explains run {run.number}?", "Keep it", parent)
        self._run = run
        self.rows.addRow(
            label(
                "Until it is explained, nothing this run found can meet a claim. The words are "
                "kept with the run and stand on the sheet.",
                "muted",
                wrap=True,
            )
        )
        self.fields = {}
        for code in codes:
            words = DOUBTS[code]
            self.rows.addRow(label(f"{words[:1].upper()}{words[1:]}.", wrap=True))
            self.fields[code] = self.line(
                "Because", run.explained.get(code.value, ""), "what was seen, or done, at the bench"
            )

    def wrong(self) -> str:
        for field in self.fields.values():
            if 0 < len(field.text().strip()) < _LEAST_LETTERS:
                return "Say in a few words what explains it, or leave it empty."
        return ""

    def record(self) -> Run:
        """The run with what is explained."""
        explained = dict(self._run.explained)
        for code, field in self.fields.items():
            words = field.text().strip()
            explained.pop(code.value, None)
            if words:
                explained[code.value] = words
        return replace(self._run, explained=explained)
