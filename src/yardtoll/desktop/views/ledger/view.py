"""The Ledger view: the toll strip of one run, its evidence, its trace and its uncertainty."""

from collections.abc import Iterator, Sequence
from html import escape

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QBoxLayout,
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.formatting import capitalised, format_with_uncertainty
from yardtoll.core.ledger.ledger import Stage, Toll
from yardtoll.core.methods import METHODS
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.figure import Figure, Sentence
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.turns import Turns
from yardtoll.desktop.views.ledger.charts import LedgerCharts
from yardtoll.desktop.views.stop_view import WORKING, StopView
from yardtoll.desktop.widgets.basics import button, choice, label, refill
from yardtoll.desktop.widgets.between_charges import BetweenCharges
from yardtoll.desktop.widgets.figure_cells import figure_cells
from yardtoll.desktop.widgets.kept_grid import KeptGrid, pairs
from yardtoll.desktop.widgets.power_chart import plot_frame
from yardtoll.desktop.widgets.tabbed import Tabbed
from yardtoll.desktop.widgets.toll_strip import TollStrip
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.desktop.workbench.courtesy import courtesy
from yardtoll.desktop.workbench.curves import CurveQuestion
from yardtoll.desktop.workbench.latest import LatestAnswer
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.report.charts.curve import Curve
from yardtoll.review.learned_watts import LearnedWatts, learned_from
from yardtoll.review.page import RunPage
from yardtoll.review.pages import run_caption, run_page
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns, station_runs
from yardtoll.store.records import Run, RunState

_CHART_H = (120, 260)
_NAME_W = 92
_ABREAST_W = 540
"""Less room has the figures below the chart."""
_HEADLINE_W = 300
_FACTS_H, _AREA_H = 158, 240
_ABOVE_CHARTS_H = 445
_ALSO = "What else the runs say"


class LedgerView(StopView):
    """Where the rated watt-hours of one run went.

    Signals:
        edit_run_asked(run), notes_asked(run), void_run_asked(run), import_asked, plan_asked: what
            to do next.
        explain_asked(run, codes): explain what the run cannot be trusted for.
    """

    edit_run_asked = Signal(object)
    notes_asked = Signal(object)
    void_run_asked = Signal(object)
    explain_asked = Signal(object, object)
    import_asked = Signal()
    plan_asked = Signal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self.run_id: int | None = None
        self.page: RunPage | None = None
        self._page_of: int | None = None
        self._in_words: list[Figure] = []

    def _build(self) -> Iterator[None]:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(MARGIN, 20, MARGIN, 14)
        layout.setSpacing(6)
        layout.addLayout(self._make_top())
        self.subtitle = label("", "muted", wrap=True)
        layout.addWidget(self.subtitle)
        # A small window scrolls: nothing in a ledger may be squeezed into its neighbour.
        body = QWidget()
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setWidget(body)
        layout.addWidget(self._area, 1)
        layout = QVBoxLayout(body)
        layout.setContentsMargins(0, 0, 10, 0)
        layout.setSpacing(6)
        layout.addLayout(self._make_doubts())
        self.toll_strip = TollStrip()
        self.toll_strip.place_chosen.connect(self._show_evidence)
        self.toll_strip.budget_asked.connect(self._open_place)
        layout.addWidget(self.toll_strip, 4)
        layout.addLayout(self._make_evidence())
        layout.addSpacing(6)
        yield
        foot = self._foot = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        foot.setSpacing(30)
        layout.addLayout(foot, 5)
        frame = plot_frame()
        yield
        self.charts = LedgerCharts(frame)
        self._showing = Turns(self)
        self.reading = LatestAnswer[CurveQuestion](self.bench.jobs, self._curve_came)
        foot.addWidget(self.charts, 6)
        yield
        foot.addWidget(self._make_facts(), 5)
        self.setFocusProxy(self.toll_strip)
        self._empty = self._make_empty()
        layout.insertWidget(0, self._empty, 1)

    def _make_top(self) -> QBoxLayout:
        self.headline = label("", "title", wrap=True)
        self._runs = choice("Run shown")
        self._runs.setMinimumContentsLength(22)
        self._runs.activated.connect(self._chosen)
        self.edit_button = button("Edit the run…", self._ask_edit)
        self.notes_button = button("Notes…", self._ask_notes, name="Readings and marks of this run")
        self.void_button = button("Void…", self._ask_void)
        self._choices = WrappedRow(6)
        for made in (self._runs, self.edit_button, self.notes_button, self.void_button):
            self._choices.addWidget(made)
        self._top = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._top.addWidget(self.headline, 1)
        self._top.addLayout(self._choices)
        return self._top

    def _make_evidence(self) -> QBoxLayout:
        """What the chosen stage or gate rests on, and the way to its budget."""
        row = self._evidence_row = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        row.setSpacing(14)
        self.evidence = label("", wrap=True)
        self._place = 1
        self.within_button = button("", lambda: self._open_place(self._place), "figure")
        self.within_button.setToolTip("Where the ± comes from")
        row.addWidget(self.evidence, 1)
        row.addWidget(self.within_button, 0, Qt.AlignmentFlag.AlignTop)
        return row

    def _make_doubts(self) -> QHBoxLayout:
        """What the run cannot be trusted for, above all it says, and the way to explain it."""
        row = QHBoxLayout()
        row.setSpacing(14)
        self._doubts = label("", "warning", wrap=True)
        self.explain_button = button("Explain…", self._ask_explain)
        self.explain_button.setToolTip(
            "Until it is explained, nothing this run found can meet a claim"
        )
        row.addWidget(self._doubts, 1)
        row.addWidget(self.explain_button, 0, Qt.AlignmentFlag.AlignTop)
        return row

    def _make_words(self) -> QLabel:
        """What else the runs say, with figures that open their budgets."""
        self.words = label("", "quiet", wrap=True)
        self.words.setTextFormat(Qt.TextFormat.RichText)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextBrowserInteraction)
        self.words.linkActivated.connect(self._open_figure)
        return self.words

    def _make_lesson(self) -> QWidget:
        """The offer to keep the watts a load really drew."""
        self._learned: LearnedWatts | None = None
        self.lesson = QWidget()
        row = QHBoxLayout(self.lesson)
        row.setContentsMargins(0, 0, 0, 0)
        self.lesson_words = label("", "quiet", wrap=True)
        self.teach_button = button("Keep the watts", self._keep_watts)
        row.addWidget(self.lesson_words, 1)
        row.addWidget(self.teach_button, 0, Qt.AlignmentFlag.AlignTop)
        self.lesson.hide()
        return self.lesson

    def _show_lesson(self, analysis: RunAnalysis) -> None:
        yard = self.bench.session.yard
        self._learned = None if yard.read_only else learned_from(yard, analysis)
        self.lesson.setVisible(self._learned is not None)
        if self._learned is not None:
            self.lesson_words.setText(self._learned.sentence)
            words = f"Keep {self._learned.measured_w:.1f} W"
            self.teach_button.setText(words)
            self.teach_button.setAccessibleName(words)

    def _keep_watts(self) -> None:
        if self._learned is not None:
            text = f"Keep {self._learned.measured_w:.1f} W for {self._learned.words}"
            self.bench.session.edit(self._learned.taught(), text)

    def _make_facts(self) -> Tabbed:
        """The run's figures; what else is known one press away."""
        self._figures_grid, self._budget_grid = KeptGrid(), KeptGrid()
        for grid in (self._figures_grid, self._budget_grid):
            grid.grid.setColumnStretch(0, 1)
            grid.grid.setColumnMinimumWidth(0, scaled(_NAME_W))
        self.between = BetweenCharges()
        self.between.budget_asked.connect(self._open_budget)
        self._notices = label("", "warning", wrap=True)
        self.facts = Tabbed()
        self.facts.add_page("figures", "Figures", self._figures_grid, self.between)
        self.facts.add_page("budget", "Where the ± comes from", self._budget_grid)
        self.facts.add_page("words", _ALSO, self._make_words(), self._notices, self._make_lesson())
        self.facts.setMinimumHeight(_FACTS_H)
        # As high as what is left; its pages scroll.
        self.facts.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Ignored)
        return self.facts

    def _count_words(self, page: RunPage) -> None:
        """How much more there is to know, on the title that opens it."""
        count = len(page.words) + len(page.notices) + (self._learned is not None)
        self.facts.title("words").setText(f"{_ALSO} ({count})" if count else _ALSO)

    def _make_empty(self) -> QWidget:
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(0, 0, 0, 0)
        words = "A finished discharge, or a meter's log, shows here where its Wh went."
        layout.addWidget(label(words, "quiet", wrap=True))
        row = QHBoxLayout()
        row.addWidget(button("Plan a run", self.plan_asked.emit, "primary"))
        row.addWidget(button("Import a log…", self.import_asked.emit))
        row.addStretch(1)
        layout.addLayout(row)
        layout.addStretch(1)
        return page

    def show_run(self, run_id: int) -> None:
        """Show a certain run, of whichever station."""
        run = self.bench.session.yard.get(Run, run_id)
        self.run_id = run_id
        self.bench.session.choose_station(run.station_id)
        self._touch()

    def refresh(self) -> None:
        self._fill_whole()

    def _fill(self) -> Iterator[None]:
        ended = [r for r in self.bench.session.station_runs() if r.has_ended]
        # What was only seen or typed at the sockets is no energy: Outputs shows it.
        runs = [r for r in ended if not METHODS[r.method].is_table]
        complete = self.bench.analyses.complete_of(ended)
        found = {a.run.id: a for a in complete or ()}
        if not runs:
            self._show_parts(has_runs=False, has_page=False)
            self.run_id = None
            self.headline.setText("No finished run yet")
            self.subtitle.setText("")
            return
        if self.run_id not in [run.id for run in runs]:
            kept = [run for run in runs if run.state == RunState.FINISHED.value]
            capacity = [run for run in kept if METHODS[run.method].counts_for_capacity]
            self.run_id = (capacity or kept or runs)[-1].id
        # Until all is there, a page stays if it is this run's: of another it would mislead.
        stays = complete is None and self.page is not None and self._page_of == self.run_id
        self._show_parts(has_runs=True, has_page=stays or complete is not None)
        refill(
            self._runs,
            [
                (run_caption(found[run.id]) if run.id in found else f"Run {run.number}", run.id)
                for run in runs
            ],
        )
        self._runs.setCurrentIndex(self._runs.findData(self.run_id))
        if complete is not None and self.run_id in found:
            yield
            yield from self._showing_run(found[self.run_id], station_runs(complete))
        elif not stays:
            self.headline.setText(WORKING)
            self.subtitle.setText("")

    def _showing_run(self, analysis: RunAnalysis, runs: StationRuns) -> Iterator[None]:
        stored = self.bench.session.yard.claims(analysis.run.station_id)
        page = run_page(analysis, runs, [claim.claim for claim in stored])
        changed = self.page is None or self.page.ledger != page.ledger
        self.page, self._page_of = page, analysis.run.id
        self.headline.setText(page.headline)
        self.subtitle.setText(page.subtitle)
        self.void_button.setText("Take back void" if analysis.run.state == "void" else "Void…")
        if changed:
            self.toll_strip.show_ledger(
                page.ledger, [b.expanded if b else None for b in page.places]
            )
            self._show_evidence(1)
        self.toll_strip.setVisible(page.ledger is not None)
        self.evidence.setVisible(page.ledger is not None)
        self.within_button.setVisible(
            page.ledger is not None and page.places[self._place] is not None
        )
        yield
        _say_lines(self._notices, page.notices)
        _say_lines(self._doubts, [*page.doubtful, *page.explained])
        self.explain_button.setVisible(bool(page.doubts) and not self.bench.session.yard.read_only)
        self.words.setVisible(bool(page.words))
        self._in_words, text = _linked(page.words)
        self.words.setText(text)
        self.fit()
        self._show_lesson(analysis)
        self._count_words(page)
        yield
        self._figures_grid.show_cells(figure_cells(page.figures, self._open_budget))
        self.between.show_readings(analysis.outcome.readings, analysis.outcome.curve)
        self._budget_grid.show_cells(pairs(page.budget))
        yield
        self.charts.show_run(analysis, runs)
        self.reading.ask(CurveQuestion(analysis))

    def _curve_came(self, asked: CurveQuestion, found: Curve | str | None) -> None:
        run = asked.analysis.run
        if isinstance(found, Curve) and run.id is not None and run.id == self.run_id:
            marks = [(m.time_s, m.word) for m in self.bench.session.yard.marks(run.id)]
            self._showing.begin(courtesy.first(self.charts.power.showing(found, marks)))

    def _open_budget(self, figure: str, budget: Budget) -> None:
        BudgetDialog(figure, budget, parent=self).exec()

    def _show_evidence(self, index: int) -> None:
        if self.page is None or self.page.ledger is None:
            return
        self._place = index
        place, budget = self.page.ledger.places[index], self.page.places[index]
        self.evidence.setText(place.evidence)
        self.within_button.setVisible(budget is not None)
        if budget is not None:
            shown = _place_figure(place, budget)
            self.within_button.setText(shown)
            self.within_button.setAccessibleName(f"{shown}: where the ± comes from")

    def _open_place(self, index: int) -> None:
        """The budget of a stage or toll; one that has none says nothing."""
        if self.page is None or self.page.ledger is None:
            return
        budget = self.page.places[index]
        if budget is not None:
            self._open_budget(_place_figure(self.page.ledger.places[index], budget), budget)

    def _open_figure(self, place: str) -> None:
        """The budget of a figure in the text, by its place among them."""
        figure = self._in_words[int(place)]
        if figure.shown_budget is not None:
            self._open_budget(f"{figure.title}: {figure.figure}", figure.shown_budget)

    def _show_parts(self, *, has_runs: bool, has_page: bool) -> None:
        self._empty.setVisible(not has_runs)
        for made in (self._runs, self.edit_button, self.notes_button, self.void_button):
            made.setVisible(has_runs)
        for part in (
            self.toll_strip, self.evidence, self.within_button, self.facts, self.charts,
        ):  # fmt: skip
            part.setVisible(has_page)
        if not has_page:
            self.page = None
            self.reading.withdraw()
            self._notices.setVisible(False)
            self._doubts.setVisible(False)
            self.explain_button.setVisible(False)
            self.words.setVisible(False)
            self.charts.show_nothing()
            self.between.hide()
            self.lesson.setVisible(False)
            self._figures_grid.show_cells(())
            self._budget_grid.show_cells(())

    def fit(self) -> None:
        """A chart is as high as a toll strip leaves room for, half of the view where there is none.

        The headline is beside the choice of a run where it has the room for some words a line, and
        the chart beside the figures.
        """
        beside = self.width() - 2 * MARGIN - self._choices.sizeHint().width()
        abreast = beside >= scaled(_HEADLINE_W)
        direction = QBoxLayout.Direction
        self._top.setDirection(direction.LeftToRight if abreast else direction.TopToBottom)
        self.stack_below(_ABREAST_W, self._foot, self._evidence_row)
        self._area.setMinimumHeight(scaled(_AREA_H))
        self.toll_strip.fit(self.place_width, self.height())
        alone = self.page is not None and self.page.ledger is None
        height = int(self.height() * 0.55) if alone else self.height() - scaled(_ABOVE_CHARTS_H)
        most = 2 * _CHART_H[1] if alone else _CHART_H[1]
        self.charts.fit(max(_CHART_H[0], min(most, height)))

    def _chosen(self) -> None:
        self.run_id = self._runs.currentData()
        self.refresh()

    def _run(self) -> Run | None:
        return self.bench.session.yard.get(Run, self.run_id) if self.run_id else None

    def _ask_edit(self) -> None:
        if run := self._run():
            self.edit_run_asked.emit(run)

    def _ask_explain(self) -> None:
        run = self._run()
        if run is not None and self.page is not None:
            self.explain_asked.emit(run, tuple(self.page.doubts))

    def _ask_notes(self) -> None:
        if run := self._run():
            self.notes_asked.emit(run)

    def _ask_void(self) -> None:
        if run := self._run():
            self.void_run_asked.emit(run)


def _say_lines(where: QLabel, sentences: Sequence[str]) -> None:
    """Each on a line of its own; nothing is shown of none."""
    where.setVisible(bool(sentences))
    where.setText("\n".join(capitalised(sentence) for sentence in sentences))


def _place_figure(place: Stage | Toll, budget: Budget) -> str:
    """Like "Overhead: 26.1 ± 0.5 Wh"."""
    return f"{place.title}: {format_with_uncertainty(place.energy_wh, budget.expanded)} Wh"


def _linked(sentences: Sequence[Sentence]) -> tuple[list[Figure], str]:
    """The figures that stand in the words, and the words as rich text with links to them."""
    figures: list[Figure] = []
    parts = []
    for part in (part for sentence in sentences for part in (*sentence, " ")):
        if isinstance(part, str):
            parts.append(escape(part, quote=False))
        elif part.budget is None:
            parts.append(escape(part.figure, quote=False))
        else:
            parts.append(f'<a href="{len(figures)}">{escape(part.figure, quote=False)}</a>')
            figures.append(part)
    return figures, "".join(parts).rstrip()
