"""A run by its notes: pasted, typed from a notepad, or from a file, with what comes of it."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path

from PySide6.QtWidgets import QHBoxLayout, QWidget

from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.core.electrical.trace import ClockBasis
from yardtoll.core.methods import METHODS, WITH_POWER
from yardtoll.core.methods.method import Method
from yardtoll.core.notes.read import Notes
from yardtoll.core.notes.slips import Bench
from yardtoll.core.notes.times import DAY_S
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import choice, label, number_box, set_role
from yardtoll.desktop.widgets.clock_field import ClockField
from yardtoll.desktop.widgets.days import qt_clock, qt_day
from yardtoll.desktop.widgets.notes_editor import NotesEditor
from yardtoll.review.analysis import analyse_records
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.run_records import RunRecords
from yardtoll.store.further_meters import subject_of
from yardtoll.store.noted import records_of
from yardtoll.store.records import (
    TYPED,
    Conditions,
    Mark,
    Meter,
    Reading,
    Run,
    RunState,
    Station,
)
from yardtoll.store.site_time import now as now_here
from yardtoll.store.site_time import shown_at
from yardtoll.store.yard_file import YardFile

_TEXT_H, _FURTHER_H, _RESULT_H, _WIDTH = 170, 70, 72, 780
EXAMPLE = (
    "22:04 on 0 Wh 100 %\n22:10 412 W shows 398 W 3.9 h left\n23:20 523 Wh 73 %\n"
    "22:31 fan on\n07:00 found off 1826 Wh"
)


class NotedRunDialog(FormDialog):
    """What was done, with which meter, and the notes of it."""

    manual_page = "notes"

    def __init__(
        self,
        station: Station,
        meters: list[Meter],
        parent: QWidget | None = None,
        *,
        text: str = "",
        file: Path | None = None,
        others: Sequence[tuple[str, float]] = (),
    ) -> None:
        super().__init__(f"A run of {station.name} from notes", "Keep it", parent)
        self.setMinimumWidth(_WIDTH)
        self._station = station
        self._file = file
        self._others = others
        self._window: tuple[float, float] | None = None
        self._clock: tuple[float | None, ClockBasis | None] = (None, None)
        self._meters = {meter.id: meter for meter in meters}
        self._make_fields(meters)
        both = QWidget()
        row = QHBoxLayout(both)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.soc_from)
        row.addWidget(self.soc_to)
        self.rows.addRow(self.editor)
        self.rows.addRow(self.said)
        for words, field in (
            ("What was done", self.method),
            ("Meter", self.meter),
            ("Its own draw", self.own_draw),
            ("Second meter", self.further),
            ("Its notes", self.further_editor),
            ("First line", self.began),
            ("State of charge, from and to", both),
            ("What ended it", self.ended_by),
        ):
            self.rows.addRow(words, field)
        self.method.currentIndexChanged.connect(self._show_method)
        self.meter.currentIndexChanged.connect(self._show_result)
        self.own_draw.currentIndexChanged.connect(self._show_result)
        self.soc_from.valueChanged.connect(self._show_result)
        self.soc_to.valueChanged.connect(self._show_result)
        self.editor.changed.connect(self._read)
        self.further.currentIndexChanged.connect(self._show_result)
        self.further_editor.changed.connect(self._show_result)
        self.text.setFocus()
        self._show_method()
        if text:
            self.editor.set_text(text)

    def _make_fields(self, meters: list[Meter]) -> None:
        self.method = choice("What was done", [(m.title, m.key) for m in WITH_POWER.values()])
        self.meter = choice("Meter", [("not stated", None), *((m.name, m.id) for m in meters)])
        # The list begins with the meter used last; those for other things are at its end.
        real = [m.id for m in meters[:1] if not m.is_simulated]
        self.meter.setCurrentIndex(self.meter.findData(real[0]) if real else 0)
        self.began = ClockField("When the first line was", f"{qt_day()} {qt_clock()}")
        self.began.show_moment(now_here().replace(second=0, microsecond=0))
        self.ended_by = choice("What ended it", [(e.words, e.value) for e in EndedBy])
        self.ended_by.setCurrentIndex(self.ended_by.findData(EndedBy.UNKNOWN.value))
        self.soc_from = number_box("From state of charge", "%", 0, 100, 100)
        self.soc_to = number_box("To state of charge", "%", 0, 100, 0)
        self.own_draw = choice(
            "The meter's own draw", [("added to what it read", True), ("already added", False)]
        )
        self.further = choice(
            "A second meter on the load", [("none", None), *((m.name, m.id) for m in meters)]
        )
        self.further_editor = NotesEditor(self._bench())
        self.further_editor.setMinimumHeight(_FURTHER_H)
        self.further_editor.field.setPlaceholderText("22:04 on 0 Wh\n07:00 1830 Wh")
        self.editor = NotesEditor(self._bench())
        self.text = self.editor.field
        self.text.setPlaceholderText(EXAMPLE)
        self.editor.setMinimumHeight(_TEXT_H)
        self.said = label("", "note", wrap=True)
        self.said.setMinimumHeight(_RESULT_H)

    def chosen_method(self) -> Method:
        """What was done."""
        return METHODS[self.method.currentData()]

    def wrong(self) -> str:
        method = self.chosen_method()
        rises = self.soc_to.value() > self.soc_from.value()
        if rises is not method.charges or self.soc_to.value() == self.soc_from.value():
            return f"The state of charge must {'rise' if method.charges else 'fall'}."
        if self.editor.notes is None:
            return _sentence(self.editor.problem)
        if self._has_further and self.further_editor.notes is None:
            return _sentence(f"of the second meter, {self.further_editor.problem}")
        if self._has_further and self.further.currentData() == self.meter.currentData():
            return "The second meter is the same as the first."
        problem = self.analysed().problem
        return _sentence(problem) if problem else ""

    @property
    def _has_further(self) -> bool:
        return self.further.currentData() is not None and self.chosen_method().delivers

    def _entries(self, notes: Notes, run_id: int) -> list[Reading | Mark]:
        """What is kept of the notes, those of a second meter too; marks are the first's."""
        charges = self.chosen_method().charges
        found = records_of(notes, run_id, charges=charges)
        other = self.further_editor.notes
        if self._has_further and other is not None:
            since_s = 0.0
            if other.clock_s is not None and notes.clock_s is not None:
                since_s = (other.clock_s - notes.clock_s + DAY_S / 2) % DAY_S - DAY_S / 2
            subject = subject_of(self.further.currentData())
            made = records_of(other, run_id, charges=charges, from_s=since_s, subject=subject)
            found += [entry for entry in made if isinstance(entry, Reading)]
        return found

    def analysed(self) -> RunAnalysis:
        """What comes of the notes as they stand."""
        notes = self.editor.notes
        assert notes is not None
        run = self._run(notes)
        entries = self._entries(notes, 0)
        records = RunRecords(
            run=run,
            station=self._station,
            meter=self._meters.get(self.meter.currentData()),
            meters={id_: meter for id_, meter in self._meters.items() if id_ is not None},
            readings=tuple(e for e in entries if isinstance(e, Reading)),
            marks=tuple(e for e in entries if isinstance(e, Mark)),
        )
        return analyse_records(records, ())

    def keep(self, yard: YardFile) -> Run:
        """Keep the run with its readings and marks."""
        notes = self.editor.notes
        assert notes is not None
        assert self._station.id is not None
        kept = yard.put(self._run(notes, yard.next_number(self._station.id)))
        assert kept.id is not None
        for entry in self._entries(notes, kept.id):
            yard.put(entry)
        return kept

    def _run(self, notes: Notes, number: int = 0) -> Run:
        began = self.began.moment().replace(second=0).astimezone(UTC)
        method = self.chosen_method()
        meter = self._meters.get(self.meter.currentData())
        own_w = meter.own_draw_w if meter is not None and method.delivers else 0.0
        return Run(
            station_id=self._station.id or 0,
            number=number,
            method=method.key,
            state=RunState.FINISHED.value,
            origin=TYPED,
            started_at=began.isoformat(timespec="milliseconds"),
            ended_at=(began + timedelta(seconds=notes.notes[-1].s)).isoformat(),
            meter_id=self.meter.currentData(),
            soc_from=self.soc_from.value(),
            soc_to=self.soc_to.value(),
            ended_by=self.ended_by.currentData() if method.delivers else "",
            own_draw_w=own_w if self.own_draw.currentData() else 0.0,
            conditions=Conditions(
                load="by notes", file=self._file.name if self._file is not None else ""
            ),
        )

    def _bench(self) -> Bench:
        method = METHODS[self.method.currentData()]
        given = [wh for key, wh in self._others if METHODS[key].counts_for_capacity]
        return Bench(
            rated_wh=self._station.rated_wh,
            rated_w=self._station.rated_w,
            others_wh=tuple(wh for _, wh in self._others),
            charges=method.charges,
            given_wh=given[-1] if given else None,
        )

    def _show_method(self) -> None:
        method = self.chosen_method()
        start, end = method.soc
        self.soc_from.setValue(start)
        self.soc_to.setValue(end)
        self.rows.setRowVisible(self.ended_by, method.delivers)
        self.editor.set_bench(self._bench())
        self._show_result()

    def _read(self) -> None:
        notes = self.editor.notes
        if notes is not None and (notes.clock_s, notes.clock_basis) != self._clock:
            self._clock = (notes.clock_s, notes.clock_basis)
            self._show_clock(notes)
        if notes is not None and notes.window is not None and notes.window != self._window:
            self._window = notes.window
            self.soc_from.setValue(notes.window[0])
            self.soc_to.setValue(notes.window[1])
        self._show_result()

    def _show_clock(self, notes: Notes) -> None:
        """The first line's own time, and its date where it has one."""
        if notes.clock_s is None or notes.clock_basis is None:
            return
        if notes.clock_basis is ClockBasis.TIME_OF_DAY:
            midnight = self.began.clock().replace(hour=0, minute=0, second=0)
            at = midnight + timedelta(seconds=notes.clock_s % DAY_S)
            if at > now_here().replace(tzinfo=None):
                at -= timedelta(days=1)
        elif notes.clock_basis is ClockBasis.UTC:
            at = shown_at(notes.clock_s).replace(tzinfo=None)
        else:
            at = datetime(1970, 1, 1) + timedelta(seconds=notes.clock_s)
        self.began.show_clock(at)

    def _show_result(self) -> None:
        """The main figure and what is doubtful, as the notes stand."""
        notes = self.editor.notes
        meter = self._meters.get(self.meter.currentData())
        draws = bool(meter and meter.own_draw_w) and self.chosen_method().delivers
        self.rows.setRowVisible(self.own_draw, draws)
        self.rows.setRowVisible(self.further, self.chosen_method().delivers)
        self.rows.setRowVisible(self.further_editor, self._has_further)
        if notes is None:
            empty = "What comes of the notes appears here as they are typed."
            typed = self.editor.text().strip()
            self._say(_sentence(self.editor.problem) if typed else empty, "note")
            return
        found = self.analysed()
        if found.problem:
            self._say(_sentence(found.problem), "warning")
            return
        shown = [f"{figure.title} {figure.shown}" for figure in found.outcome.figures[:4]]
        said = "  ·  ".join(shown)
        notices = [notice.message for notice in found.notices]
        self._say("\n".join([said, *(_sentence(n) for n in notices[:3])]), "note")

    def _say(self, words: str, role: str) -> None:
        self.said.setText(words)
        if self.said.property("role") != role:
            set_role(self.said, role)


def _sentence(words: str) -> str:
    stop = "" if words.endswith(("?", ".")) else "."
    return f"{words[:1].upper()}{words[1:]}{stop}" if words else ""
