"""The Run view while a run is in progress: four figures, the live chart, marks and readings.

The figures are readable across the yard.
"""

from collections.abc import Iterator
from datetime import datetime, timedelta
from functools import partial

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QBoxLayout, QHBoxLayout, QVBoxLayout, QWidget

from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import format_clock
from yardtoll.core.notes.slips import Slip
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.run.model import (
    END_KEY,
    ENDING_KEYS,
    SPEEDS,
    clock_range,
    ending_words,
    in_steps,
    step_note,
    step_text,
)
from yardtoll.desktop.views.run.notes_panel import MarkPanel, NotePanel, ReadingPanel
from yardtoll.desktop.widgets.basics import button, choice, label, rule, set_role
from yardtoll.desktop.widgets.big_figure import BigFigure
from yardtoll.desktop.widgets.kept_grid import Cell, KeptGrid
from yardtoll.desktop.widgets.power_chart import PowerChart, plot_frame
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.running.ending import end_as, held_now
from yardtoll.running.live_figures import LiveFigures, live_figures, value_text
from yardtoll.running.reading_text import reading_text
from yardtoll.running.session import RunSession
from yardtoll.store.records import Mark, Reading, ReadingKind
from yardtoll.store.site_time import now as now_here

_LEFT_W = 300
_LEFT_SHARE = 0.4
_NARROW, _TIGHT, _TIGHT_MARGIN = 1000, 600, 16
_TICK_MS = 500
_FIGURE_PX = (46, 96)
_UNDER_FIGURE = 40
_BESIDE_FIGURES = 230
"""Height of the rows below the figures: the watch, the simulated bench, the button."""
_NOTES_SHOWN = 7
_BIG_SHOWN, _ENDING_H = 4, 60
_TABS = 20
"""More runs at once than any bench has: the column after them takes the rest of the width."""


class RunningPage(QWidget):
    """What is happening now.

    Signals:
        done: something was typed or chosen; keys are the stop's again.
        moved: what is shown takes other room than before.
    """

    done = Signal()
    moved = Signal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self._reading_at_s: float | None = None
        self._parts: Iterator[None] | None = self._build()

    def build_on(self) -> bool:
        """Make the next part; whether there may be more."""
        if self._parts is None or next(self._parts, self) is self:
            self._parts = None
        return self._parts is not None

    @property
    def is_whole(self) -> bool:
        """Whether all of it is made."""
        return self._parts is None

    def _build(self) -> Iterator[None]:
        outer = self._outer = QHBoxLayout(self)
        left = QVBoxLayout()
        left.setSpacing(8)
        outer.addLayout(left)
        self._add_figures(left)
        yield
        self._add_hands(left)
        yield
        right = QVBoxLayout()
        right.setSpacing(10)
        self._going = KeptGrid(spacing=(18, 0))
        self._going.grid.setColumnStretch(_TABS, 1)
        right.addWidget(self._going)
        self.headline = label("", "title", wrap=True)
        right.addWidget(self.headline)
        frame = plot_frame()
        yield
        self._chart = PowerChart("Power of the run in progress", frame)
        right.addWidget(self._chart, 1)
        yield
        self._ends = label("", "accent", wrap=True)
        self._ends.setAlignment(Qt.AlignmentFlag.AlignRight)
        right.addWidget(self._ends)
        right.addLayout(self._make_notes())
        outer.addLayout(right, 1)
        self._ticker = QTimer(self)
        self._ticker.setInterval(_TICK_MS)
        self._ticker.timeout.connect(self.show_figures)
        self.bench.live_updated.connect(self._on_live_updated)

    def _add_figures(self, column: QVBoxLayout) -> None:
        self.power_figure = BigFigure("W", "Power")
        self.energy_figure = BigFigure("Wh", "Delivered")
        self.elapsed_figure = BigFigure("", "Elapsed")
        self._volts = BigFigure("V", "Voltage")
        # In a test of power these two take the place of energy and elapsed time.
        self.share_figure = BigFigure("%", "Share of the rating")
        self.step_figure = BigFigure("", "Time at this load")
        self._of_power = (self.share_figure, self.step_figure)
        self._big = (
            self.power_figure, self.share_figure, self.step_figure, self.energy_figure,
            self.elapsed_figure, self._volts,
        )  # fmt: skip
        for figure in (self.power_figure, self.energy_figure, self._volts):
            figure.budget_asked.connect(self._open_budget)
        self._rules = []
        for figure in self._big:
            figure.setFixedWidth(_LEFT_W)
            column.addWidget(figure)
            self._rules.append(rule())
            column.addWidget(self._rules[-1])
        self.watch_label = label("", "note", wrap=True)
        self.watch_label.setFixedWidth(_LEFT_W)
        column.addWidget(self.watch_label)

    def _add_hands(self, column: QVBoxLayout) -> None:
        """What ends the run, and what is set on a simulated bench."""
        self._end_button = button(f"{END_KEY}   It shut off, or is full", self.mark_end, "mark")
        self._end_button.hide()
        column.addWidget(self._end_button)
        column.addWidget(self._make_endings())
        column.addStretch(1)
        self._simulated = QWidget()
        line = QVBoxLayout(self._simulated)
        line.setContentsMargins(0, 0, 0, 0)
        self._simulated_display = label("", "muted", wrap=True)
        pace = QHBoxLayout()
        pace.addWidget(label("Bench clock", "muted"))
        self._speed = choice("Speed of the simulated bench", [(f"×{s}", s) for s in SPEEDS])
        self._speed.setMinimumContentsLength(5)
        self._speed.activated.connect(self._set_speed)
        pace.addWidget(self._speed)
        pace.addStretch(1)
        line.addWidget(self._simulated_display)
        line.addLayout(pace)
        column.addWidget(self._simulated)
        row = QHBoxLayout()
        row.addWidget(button("Stop the run", self._stop))
        row.addStretch(1)
        column.addLayout(row)

    def _make_endings(self) -> QWidget:
        """One button for each ending of a test of power."""
        self.endings = [
            button(
                f"{key}  {ending_words(ended_by)}",
                partial(self.end_as, ended_by),
                "mark",
                f"End the run: {ended_by.words}",
            )
            for key, ended_by in ENDING_KEYS
        ]
        self._ending_row = QWidget()
        across = QHBoxLayout(self._ending_row)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(6)
        for made in self.endings:
            across.addWidget(made)
        self._ending_row.hide()
        return self._ending_row

    def _make_notes(self) -> QBoxLayout:
        row = self._notes_row = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        row.setSpacing(30)
        self._mark_panel = MarkPanel()
        self._mark_panel.marked.connect(self.mark)
        row.addWidget(self._mark_panel, 1)
        side = QVBoxLayout()
        self.reading_panel = ReadingPanel()
        self.reading_panel.typing_began.connect(self._stamp_reading)
        self.reading_panel.entered.connect(self._keep_reading)
        self.reading_panel.left.connect(self.done)
        side.addWidget(self.reading_panel)
        self.note_panel = NotePanel()
        self.note_panel.meant_by = self._slip_in
        self.note_panel.typing_began.connect(self._stamp_reading)
        self.note_panel.entered.connect(self._keep_note)
        self.note_panel.left.connect(self.done)
        side.addWidget(self.note_panel)
        self._noted = label("", "quiet", wrap=True)
        self._noted.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._noted.setMinimumHeight(92)
        side.addWidget(self._noted, 1)
        row.addLayout(side, 1)
        return row

    # showing

    def show_run(self, live: RunSession) -> None:
        """Show a run in progress, and go on showing it."""
        self._show_going(live)
        self._simulated.setVisible(live.simulated)
        self.reading_panel.set_typed(typed=live.typed)
        self.reading_panel.set_sun(by_sun=live.method.uses_panels)
        self._end_button.setVisible(live.typed)
        self._show_what_counts(about_power=live.method.ends_early and not live.typed)
        if live.simulated:
            self._speed.setCurrentIndex(max(self._speed.findData(int(live.speed)), 0))
        if not self._ticker.isActive():
            self._ticker.start()
            self.done.emit()
        self._on_live_updated()

    def rest(self) -> None:
        """Nothing is running."""
        self._ticker.stop()

    def _show_what_counts(self, *, about_power: bool) -> None:
        """Seconds and share of the rating, and a key an ending, where the run is about a power."""
        of_energy = (self.energy_figure, self.elapsed_figure)
        for figure, line in zip(self._big, self._rules, strict=True):
            hidden = figure in (of_energy if about_power else self._of_power)
            figure.setVisible(not hidden)
            line.setVisible(not hidden)
        self._ending_row.setVisible(about_power)
        self.moved.emit()

    def _show_going(self, shown: RunSession) -> None:
        """A tab a run, while several are going."""
        sessions = self.bench.sessions
        self._going.setVisible(len(sessions) > 1)
        self._going.show_cells(
            Cell(
                row=0, column=column, text=f"{session.station.name}, run {session.run.number}",
                role="tab", pressed=partial(self.bench.show_run, session.run_id),
                checked=session is shown,
            )
            for column, session in enumerate(sessions)
        )  # fmt: skip

    def _on_live_updated(self) -> None:
        live = self.bench.live
        if live is None or not self.isVisible():
            return
        if live.typed:
            live.sync_typed()
        samples = live.samples
        if len(samples):
            trace = samples.time_s, samples.column(Quantity.POWER)
            if live.typed:
                self._chart.show_trace(*in_steps(*trace))
            else:
                self._chart.show_trace(*trace, growing=live.run_id)
        marks = live.yard.marks(live.run_id)
        readings = live.yard.readings(live.run_id)
        words = [(m.time_s, m.word) for m in marks]
        words += [(r.time_s, f"{r.value:g} %") for r in readings if r.kind == ReadingKind.SOC.value]
        self._chart.show_marks(sorted(words))
        notes = [(m.time_s, m.word) for m in marks]
        notes += [(r.time_s, reading_text(r)) for r in readings]
        latest = sorted(notes, reverse=True)[:_NOTES_SHOWN]
        self._noted.setText(
            "\n".join(f"{format_clock(at)}   {word}" for at, word in latest)
            or "Marks and readings appear here and on the chart. Ctrl+Z takes one back."
        )
        self.show_figures()
        if self._ticker.isActive():
            # It is for the clock alone, while no samples come.
            self._ticker.start()

    def show_figures(self) -> None:
        """The figures of this moment."""
        live = self.bench.live
        if live is None or not self.isVisible():
            return
        now = now_here()
        figures = live_figures(live, now)
        self.headline.setText(figures.headline)
        self.power_figure.show_figure(figures.power, figures.power_note)
        self.energy_figure.show_figure(figures.energy, figures.energy_note)
        self.elapsed_figure.show_text(figures.elapsed, figures.elapsed_note)
        self._volts.show_figure(figures.volts, figures.volts_note)
        self._show_step(live, figures)
        self._show_watch(figures)
        self._show_forecast(live, now)
        shown = live.simulated_display()
        if shown:
            self._simulated_display.setText(
                f"The simulated station's display shows {shown[0]} %, {shown[1]:.0f} W, "
                f"{shown[2] / 3600:.1f} h left."
            )

    def _show_step(self, live: RunSession, figures: LiveFigures) -> None:
        """The load of this moment in a test of power."""
        held = held_now(live)
        beside = f"{figures.elapsed} in all, {value_text(figures.energy)} Wh"
        if held is None:
            self.share_figure.show_text("–", beside)
            self.step_figure.show_text("–", "waiting for a load")
            return
        self.share_figure.show_text(f"{100 * held.share_of_rated:.0f}", beside)
        self.step_figure.show_text(step_text(held.step_s), step_note(held))

    def _open_budget(self, figure: Figure) -> None:
        """The budget of a figure at the moment its ± was pressed."""
        if figure.budget is not None:
            words = f"{figure.title}: {value_text(figure)} {figure.unit}"
            BudgetDialog(words, figure.budget, parent=self).exec()

    def _show_watch(self, figures: LiveFigures) -> None:
        self.watch_label.setText(figures.watch)
        role = "warning" if figures.watch_is_bad else "note"
        if self.watch_label.property("role") != role:
            set_role(self.watch_label, role)

    def _show_forecast(self, live: RunSession, now: datetime) -> None:
        forecast = None if live.is_over else live.forecast()
        self._chart.show_forecast(live.elapsed_s(), forecast, live.samples.recent_mean_w())
        if forecast is None:
            self._ends.setText("")
            return
        soon, late = (
            now + timedelta(seconds=s / live.speed)
            for s in (forecast.earliest_s, forecast.latest_s)
        )
        self._ends.setText(f"ends {clock_range(soon, late)}, based on {forecast.basis}")

    def fit(self, place_w: int, height: int) -> None:
        """Readable from three metres needs size; a small window must still hold all four."""
        left_w = _LEFT_W - 44 if place_w < _NARROW else _LEFT_W
        width = min(scaled(left_w), int(_LEFT_SHARE * place_w))
        direction, is_tight = QBoxLayout.Direction, place_w < scaled(_TIGHT)
        self._notes_row.setDirection(direction.TopToBottom if is_tight else direction.LeftToRight)
        beside = _BESIDE_FIGURES + (_ENDING_H if self._ending_row.isVisibleTo(self) else 0)
        margin = _TIGHT_MARGIN if is_tight else MARGIN
        self._outer.setContentsMargins(margin, 20, margin, 16)
        self._outer.setSpacing(margin)
        room = (height - scaled(beside)) // _BIG_SHOWN - scaled(_UNDER_FIGURE)
        pixels = max(_FIGURE_PX[0], min(scaled(_FIGURE_PX[1]), int(room / 1.08), width // 4))
        for figure in self._big:
            figure.setFixedWidth(width)
            figure.set_size(pixels)
        self.watch_label.setFixedWidth(width)

    # doing

    def begin_note(self) -> None:
        """Type a line of notes."""
        self.note_panel.begin()

    def begin_reading(self) -> None:
        """Type a reading."""
        self.reading_panel.begin()

    def mark(self, word: str) -> None:
        """Mark this moment with a word."""
        live = self.bench.live
        if live is None:
            return
        self._note_mark(live.mark(word))

    def _note_mark(self, mark: Mark) -> None:
        self._offer_undo(mark, f"Mark “{mark.word}”")

    def _offer_undo(self, note: Mark | Reading, text: str) -> None:
        """What waits for a yard that cannot be written has nothing yet that undo could take."""
        if note.id is not None:
            self.bench.session.note_added(note, text)
        self._on_live_updated()

    def mark_end(self) -> None:
        """The moment the station shut off, or was full, where only a person can see it."""
        live = self.bench.live
        if live is not None and live.typed:
            self._note_mark(live.mark_end())

    def _stamp_reading(self) -> None:
        if self.bench.live is not None:
            self._reading_at_s = self.bench.live.now_s()

    def _keep_reading(self, kind: str, value: float) -> None:
        live = self.bench.live
        if live is None:
            return
        reading: Reading = live.read(ReadingKind(kind), value, self._reading_at_s)
        self._offer_undo(reading, f"Reading {reading_text(reading)}")

    def _slip_in(self, text: str) -> Slip | None:
        """What is probably a slip in a line, beside what was noted so far."""
        live = self.bench.live
        return live.slip_in(text) if live is not None else None

    def _keep_note(self, text: str) -> None:
        """A line of notes, at the moment of its first key unless it has a time of its own."""
        live = self.bench.live
        if live is None:
            return
        at_s = self._reading_at_s if self._reading_at_s is not None else live.now_s()
        try:
            entries = live.line_noted(text, at_s)
        except UnusableDataError as error:
            self.note_panel.show_problem(f"{error}.")
            return
        kept = [entry for entry in live.keep_noted(entries) if entry.id is not None]
        if kept:
            self.bench.session.note_all_added(kept, f"Note “{text}”")
        self._reading_at_s = None
        self.note_panel.clear()
        self._on_live_updated()
        self.done.emit()

    def _set_speed(self) -> None:
        speed = float(self._speed.currentData())
        self.bench.settings.simulated_speed = speed
        if self.bench.live is not None:
            self.bench.live.set_speed(speed)
        self.done.emit()

    def end_as(self, ended_by: EndedBy) -> None:
        """End a test of power with the word for what ended it."""
        live = self.bench.live
        if live is not None and live.method.ends_early and not live.typed and not live.is_over:
            end_as(live, ended_by)
            self.show_figures()

    def _stop(self) -> None:
        if self.bench.live is not None:
            self.bench.live.stop()
            self.show_figures()
