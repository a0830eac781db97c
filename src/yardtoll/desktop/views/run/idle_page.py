"""The Run view while nothing runs: runs left behind by a program that died, and the latest run."""

from collections.abc import Iterator
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from yardtoll.core.formatting import format_clock
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.turns import Turns
from yardtoll.desktop.widgets.basics import button, label
from yardtoll.desktop.widgets.kept_grid import Cell, KeptGrid
from yardtoll.desktop.widgets.power_chart import PowerChart, plot_frame
from yardtoll.desktop.workbench.courtesy import courtesy
from yardtoll.desktop.workbench.curves import CurveQuestion
from yardtoll.desktop.workbench.latest import LatestAnswer
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.report.charts.curve import Curve
from yardtoll.review.kinds import kind_of
from yardtoll.store.records import Run, Station
from yardtoll.store.shown_region import clock
from yardtoll.store.site_time import shown_at


class IdlePage(QWidget):
    """What can be resumed, closed, planned or looked at.

    Signals:
        plan_asked, ledger_asked(run_id): where to go from here.
    """

    plan_asked = Signal()
    ledger_asked = Signal(int)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bench = bench
        self.reading = LatestAnswer[CurveQuestion](bench.jobs, self._curve_came)
        self._showing = Turns(self)
        self._last_run: Run | None = None
        self._charted: int | None = None
        self._recorded: dict[int | None, tuple[str, str]] = {}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(MARGIN, 22, MARGIN, MARGIN)
        layout.setSpacing(12)
        self.title = label("Nothing is running", "title")
        self.text = label("", "quiet", wrap=True)
        layout.addWidget(self.title)
        layout.addWidget(self.text)
        self._left_behind = KeptGrid(spacing=(6, 12))
        self._left_behind.grid.setColumnStretch(0, 1)
        layout.addWidget(self._left_behind)
        row = QHBoxLayout()
        self.plan_button = button("Plan a run", self.plan_asked.emit, "primary")
        self._ledger = button("See its ledger", self._open_last)
        row.addWidget(self.plan_button)
        row.addWidget(self._ledger)
        row.addStretch(1)
        layout.addLayout(row)

    def chart_made(self) -> Iterator[None]:
        """In parts, once the page is in its place: a chart takes as long to make as all else."""
        frame = plot_frame()
        yield
        self._chart = PowerChart("Power of the latest run", frame)
        layout = self.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addWidget(self._chart, 1)
        layout.addStretch(0)  # where there is no chart the rest stays at the top
        yield

    def refresh(self) -> None:
        """Read again what was left behind and what ran last."""
        for _ in self.filling():
            pass

    def filling(self) -> Iterator[None]:
        """The same, a part at a time."""
        left, recorded = self._bench.interrupted(), {}
        for run in left:
            recorded[run.id] = self._recorded_of(run)
            yield
        self._recorded = recorded
        self._left_behind.setVisible(bool(left))
        self._left_behind.show_cells(
            cell for row, run in enumerate(left) for cell in self._interrupted_cells(row, run)
        )
        runs = [r for r in self._bench.session.station_runs() if r.has_ended]
        self._last_run = runs[-1] if runs else None
        self.title.setText(
            "A run was left unfinished" if left else "Nothing is running" if runs else "No run yet"
        )
        self._ledger.setVisible(self._last_run is not None)
        yield
        self._show_latest()

    def _show_latest(self) -> None:
        run = self._last_run
        found = self._bench.analyses.of(run) if run else None
        self._chart.setVisible(bool(found and found.has_trace))
        charted = found.run.id if found is not None else None
        if charted != self._charted:
            # Another run's power must not stand here until this one's has been read.
            self._charted = charted
            self._chart.show_nothing()
        if found is None:
            self.reading.withdraw()
        if run is None:
            self.text.setText(
                "Plan a discharge, press start, and its watts, watt-hours and end appear here."
            )
            return
        said = f"Latest: run {run.number} of {self._name(run)}"
        if found is None:
            self.text.setText(f"{said}.")
            return
        if not found.has_outcome:
            self.text.setText(f"{said}. It has no result: {found.problem}.")
        else:
            result_text = kind_of(run.method).latest_words(found)
            ended = run.conditions.end_reason
            self.text.setText(f"{said}, {result_text}" + (f"; {ended}." if ended else "."))
        self.reading.ask(CurveQuestion(found))

    def _curve_came(self, asked: CurveQuestion, curve: Curve | str | None) -> None:
        run = asked.analysis.run
        last = self._last_run
        if isinstance(curve, Curve) and run.id is not None and last and run.id == last.id:
            marks = [(m.time_s, m.word) for m in self._bench.session.yard.marks(run.id)]
            self._showing.begin(courtesy.first(self._chart.showing(curve, marks)))

    def _interrupted_cells(self, row: int, run: Run) -> Iterator[Cell]:
        """What is known of a run left behind, and what can be done with it."""
        length, until = self._recorded[run.id]
        said = (
            f"Run {run.number} of {self._name(run)} was in progress when the program stopped. "
            f"{length} of it is recorded, up to {until}."
        )
        yield Cell(row=row, column=0, text=said, role="warning", wrap=True)
        yield Cell(
            row=row, column=1, text="Resume it", role="primary",
            pressed=partial(self._bench.resume, run), enabled=self._bench.live is None,
        )  # fmt: skip
        yield Cell(
            row=row, column=2, text="Close it as it is",
            pressed=partial(self._bench.close_as_it_is, run),
        )  # fmt: skip

    def _recorded_of(self, run: Run) -> tuple[str, str]:
        """(How much of a run left behind is recorded, up to when); read once while it is left."""
        assert run.id is not None
        if run.id in self._recorded:
            return self._recorded[run.id]
        yard = self._bench.session.yard
        main = yard.main_recording(run.id)
        ends = yard.first_and_last_sample_s(main.id or 0) if main is not None else None
        kept = yard.last_kept(main.id or 0) if main is not None else None
        length = format_clock(ends[1] - ends[0]) if ends else "nothing"
        if kept is None:
            return length, "its start"
        at = shown_at(kept.at_s)
        return length, f"{at:%a} {clock(at, seconds=True)}"

    def _name(self, run: Run) -> str:
        return self._bench.session.yard.get(Station, run.station_id).name

    def _open_last(self) -> None:
        if self._last_run is not None and self._last_run.id is not None:
            self.ledger_asked.emit(self._last_run.id)
