"""The Outputs view: a tab for each test at the outlets, its picture, its words and its lines."""

from collections.abc import Iterator, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QBoxLayout,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.claims.ports import port_groups
from yardtoll.core.output.entries import number_in
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.outputs.model import (
    Page,
    held_runs,
    page_of,
    run_words,
    table_of,
)
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.widgets.basics import button, choice, label, refill
from yardtoll.desktop.widgets.kept_grid import LEFT, Cell, KeptGrid, hanging
from yardtoll.desktop.widgets.line_table import LineTable
from yardtoll.desktop.widgets.port_panel import PortPanel
from yardtoll.desktop.widgets.scene_view import SceneView
from yardtoll.desktop.widgets.whole_width import WholeWidth
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.review.kinds import kind_of
from yardtoll.review.output_tests import POWERS, OutputTest, output_tests, tab_of
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import station_runs
from yardtoll.store.records import Entry, Run

_LARGEST_PICTURES = 3
_ABREAST_W = 540
"""Less room has what is said below the picture, not beside it."""
_SAID_H, _TABLE_H = 110, 120
_SPLIT = "outputs"
"""How picture and table share the page, as it is remembered."""


class OutputsView(StopView):
    """What comes out of the sockets.

    Attributes:
        answers: what its signals are answered by, kept for as long as it is.

    Signals:
        line_asked(test, run, known): a new line; ``known`` fills some of its fields.
        edit_asked(test, entry), remove_asked(entry): about a line.
        file_asked(test, run, path): take a capture in; None to ask for the file.
        scope_asked(test, run): capture from an instrument.
        instrument_asked(run): which instrument the lines were read with.
        new_run_asked(test): begin another test of this kind.
        void_asked(run): void a run or take that back.
        ledger_asked(run_id): the whole of a recorded run.
        plan_asked(method): plan a run at a certain power.
    """

    line_asked = Signal(object, object, object)
    edit_asked = Signal(object, object)
    remove_asked = Signal(object)
    file_asked = Signal(object, object, object)
    scope_asked = Signal(object, object)
    instrument_asked = Signal(object)
    new_run_asked = Signal(object)
    void_asked = Signal(object)
    ledger_asked = Signal(int)
    plan_asked = Signal(str)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self.answers: object = None
        self.tests = output_tests()
        self.shown = next(iter(self.tests))
        self._run_ids: dict[str, int] = {}
        self._picture = 0
        self._entries: list[Entry] = []
        self._analysis: RunAnalysis | None = None

    def _build(self) -> Iterator[None]:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(MARGIN, 20, MARGIN, 14)
        layout.setSpacing(8)
        self.headline = label("", "title", wrap=True)
        layout.addWidget(self.headline)
        layout.addLayout(self._make_tabs())
        layout.addLayout(self._make_choices())
        yield
        layout.addWidget(self._make_body(), 1)

    # building

    def _make_tabs(self) -> WrappedRow:
        row = WrappedRow(18)
        self.tabs: dict[str, QPushButton] = {}
        for key, test in self.tests.items():
            tab = button(test.title, partial(self.choose_test, key), "tab")
            tab.setCheckable(True)
            self.tabs[key] = tab
            row.addWidget(tab)
        return row

    def _make_choices(self) -> WrappedRow:
        row = WrappedRow(10)
        self.runs = choice("Run shown")
        self.runs.setMinimumContentsLength(30)
        self.runs.activated.connect(lambda _: self.show_run(self.runs.currentData()))
        row.addWidget(self.runs)
        self._meter = label("", "muted")
        row.addWidget(self._meter)
        row.rest_to_the_right()
        self.buttons = {
            "line": button("Add a line…", self._ask_line, "primary"),
            "file": button("Take a file in…", lambda: self._ask_file(None)),
            "scope": button("From a scope…", lambda: self._ask(self.scope_asked)),
            "plan": button("Plan it…", self._ask_plan),
            "run": button("This run ▾", name="This run"),
        }
        for made in self.buttons.values():
            row.addWidget(made)
        menu = QMenu(self)
        self.run_actions = {
            "instrument": menu.addAction("Instrument…", self._ask_instrument),
            "void": menu.addAction("Void it…", lambda: self.void_asked.emit(self._run())),
            "ledger": menu.addAction("Its ledger", self._open_ledger),
            "new": menu.addAction(
                "Begin another test", lambda: self.new_run_asked.emit(self._test)
            ),
        }
        self.buttons["run"].setMenu(menu)
        return row

    def _make_body(self) -> QWidget:
        upper = QWidget()
        across = self._across = QBoxLayout(QBoxLayout.Direction.LeftToRight, upper)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(22)
        self._left = QWidget()
        self._left.setLayout(self._make_pictures())
        across.addWidget(self._left, 3)
        across.addWidget(self._make_said(), 2)
        self.table = LineTable("Lines of this test")
        self.table.opened.connect(self._open_line)
        self.table.removed.connect(lambda row: self.remove_asked.emit(self._entries[row]))
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.split.addWidget(upper)
        self.split.addWidget(self.table)
        self.split.setStretchFactor(0, 3)
        self.split.setStretchFactor(1, 2)
        self.split.setChildrenCollapsible(False)
        kept = self.bench.settings.geometry(_SPLIT)
        if kept is None or not self.split.restoreState(kept):
            self.split.setSizes([340, 210])
        self.split.splitterMoved.connect(
            lambda *_: self.bench.settings.keep_geometry(_SPLIT, self.split.saveState())
        )
        return self.split

    def _make_said(self) -> QWidget:
        """The figures, whose ± can be opened, and the sentences below them."""
        self.figures = KeptGrid(spacing=(14, 2))
        self.figures.grid.setColumnStretch(1, 1)
        self.words = KeptGrid(spacing=(8, 7))
        self.words.grid.setColumnStretch(1, 1)
        self._said = WholeWidth(self.figures, self.words, margins=(0, 0, 8, 0), spacing=10)
        return self._said

    def _figure_cells(self, figures: Sequence[Figure]) -> list[Cell]:
        cells: list[Cell] = []
        for row, figure in enumerate(figures):
            cells.append(Cell(row=row, column=0, text=figure.title, role="muted"))
            has_budget = bool(figure.budget and figure.budget.lines)
            shown = figure.shown if has_budget else f"{figure.brief}{figure.note}"
            opens = has_budget or figure.worked is not None
            about = "±" if has_budget else "how it is worked out"
            tip = "Where the ± comes from" if has_budget else "How it is worked out"
            cells.append(
                Cell(
                    row=row, column=1, text=shown, role="figure" if opens else "",
                    tip=tip if opens else "",
                    pressed=partial(self._open_figure, figure) if opens else None,
                    name=f"{figure.title}: {about}", align=LEFT,
                )
            )  # fmt: skip
        return cells

    def _open_figure(self, figure: Figure) -> None:
        told = figure.shown_budget or figure.worked
        if told is not None:
            BudgetDialog(f"{figure.title}: {figure.figure}", told, parent=self).exec()

    def _make_sets(self) -> QHBoxLayout:
        """Which ports are loaded while their watts are typed."""
        row = QHBoxLayout()
        self._set_words = label("Press a port, loaded", "muted")
        row.addWidget(self._set_words)
        self.sets = choice("Which ports are loaded together")
        row.addWidget(self.sets)
        row.addStretch(1)
        return row

    def _make_pictures(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.ports = PortPanel()
        self.ports.port_chosen.connect(lambda _, name: self._enter_port(name))
        column.addLayout(self._make_sets())
        column.addWidget(self.ports)
        titles = WrappedRow(16)
        self.picture_tabs = []
        for i in range(_LARGEST_PICTURES):
            tab = button("", partial(self.choose_picture, i), "tab")
            tab.setCheckable(True)
            self.picture_tabs.append(tab)
            titles.addWidget(tab)
        column.addLayout(titles)
        self.picture = SceneView("Picture of this test")
        column.addWidget(self.picture, 1)
        return column

    # showing

    @property
    def _test(self) -> OutputTest:
        return self.tests[self.shown]

    def choose_test(self, key: str) -> None:
        """Show another test."""
        if key != self.shown:
            self.shown, self._picture = key, 0
        self.refresh()

    def choose_picture(self, index: int) -> None:
        """Show another picture of the run."""
        self._picture = index
        self.refresh()

    def choose_method(self, method: str, *_: object) -> None:
        """Show the test that a method is done as."""
        key = next(
            (t.key for t in self.tests.values() if t.method and t.method.key == method), None
        )
        if key is not None:
            self.choose_test(key)

    def show_run(self, run_id: int) -> None:
        """Show a certain run, on its tab; one that went over its rating among powers held."""
        run = self.bench.session.yard.get(Run, run_id)
        self.bench.session.choose_station(run.station_id)
        key = tab_of(run, self.tests.values()) or self.shown
        self._run_ids[key] = run_id
        self.choose_test(key)

    def take_files(self, paths: Sequence[Path]) -> bool:
        """Captures dropped on a test that takes them; others are for the window."""
        station = self.bench.session.station
        if self._test.captures is None or station is None or self.bench.session.yard.read_only:
            return False
        for path in paths:
            self.file_asked.emit(self._test, self._run(), path)
        return bool(paths)

    def fit(self) -> None:
        is_below = self.stack_below(_ABREAST_W, self._across)
        self._said.setMinimumHeight(scaled(_SAID_H) if is_below else 0)
        self.table.setMinimumHeight(scaled(_TABLE_H) if is_below else 0)

    def refresh(self) -> None:
        test, runs = self._test, self._runs()
        for key, tab in self.tabs.items():
            tab.setChecked(key == self.shown)
        run = self._run()
        refill(self.runs, [(run_words(r), r.id) for r in reversed(runs)])
        self.runs.setCurrentIndex(self.runs.findData(run.id) if run is not None else -1)
        self.runs.setVisible(bool(runs))
        self._entries = self._lines_of(run)
        self._analysis = self._analysis_of(run)
        self._show_buttons(test, run)
        complete = self.bench.analyses.complete_of(self.bench.session.station_runs())
        page = page_of(
            test, run, self._analysis, self._beside(), are_all_there=complete is not None
        )
        self._show_page(page)
        self._show_ports(test)
        self._left.setVisible(
            self.picture.isVisibleTo(self._left) or self.ports.isVisibleTo(self._left)
        )
        titles, rows = table_of(test, self._entries, self._analysis)
        self.table.show_lines(titles, rows)
        self.table.setVisible(bool(rows))

    def _show_page(self, page: Page) -> None:
        self.headline.setText(page.headline)
        self.figures.show_cells(self._figure_cells(page.figures))
        self.words.show_cells(hanging(page.lines))
        count = len(page.pictures)
        self._picture = min(self._picture, max(count - 1, 0))
        for i, tab in enumerate(self.picture_tabs):
            tab.setVisible(count > 1 and i < count)
            tab.setText(page.pictures[i] if i < count else "")
            tab.setChecked(i == self._picture)
        self.picture.setVisible(count > 0)
        self.picture.show_scene(partial(self._scene, self._picture) if count else None)

    def _scene(self, index: int, size: tuple[float, float], palette: Palette) -> Scene:
        analysis = self._analysis
        assert analysis is not None
        scenes = kind_of(analysis.run.method).scenes(analysis, size, palette)
        return scenes[min(index, len(scenes) - 1)]

    def _show_buttons(self, test: OutputTest, run: Run | None) -> None:
        yard, station = self.bench.session.yard, self.bench.session.station
        can = station is not None and not yard.read_only
        recorded = test.method is None
        self.buttons["line"].setText(f"Add a {test.line}…")
        self.buttons["line"].setVisible(can and (not recorded or run is not None))
        for key in ("file", "scope"):
            self.buttons[key].setVisible(can and test.captures is not None)
        self.buttons["scope"].setVisible(
            self.buttons["file"].isVisibleTo(self) and bool(test.fields) and self._by_scope(test)
        )
        self.buttons["plan"].setVisible(recorded and can)
        self.buttons["run"].setVisible(run is not None)
        self.run_actions["instrument"].setVisible(can and not recorded)
        self.run_actions["new"].setVisible(can and not recorded)
        self.run_actions["void"].setVisible(can)
        self.run_actions["ledger"].setVisible(recorded)
        void = run is not None and bool(run.void_reason)
        self.run_actions["void"].setText("Take the void back" if void else "Void it…")
        meter = self._analysis.meter if self._analysis is not None else None
        self._meter.setVisible(run is not None)
        self._meter.setText(f"by {meter.name}" if meter is not None else "no instrument stated")

    def _by_scope(self, test: OutputTest) -> bool:
        return test.captures is not None and test.captures.is_volts

    def _show_ports(self, test: OutputTest) -> None:
        station = self.bench.session.station
        for widget in (self.ports, self.sets, self._set_words):
            widget.setVisible(test.by_port and station is not None)
        if not test.by_port or station is None or station.id is None:
            return
        claims = [stored.claim for stored in self.bench.session.yard.claims(station.id)]
        read = {str(entry.fields.get("port", "")) for entry in self._entries}
        numbers = {int(n) for e in self._entries if (n := number_in(e.fields, "together"))}
        sets = [*sorted(numbers), max(numbers, default=0) + 1]
        refill(self.sets, [("alone", 0), *((f"together, set {n}", n) for n in sets)])
        groups = port_groups(claims, station.rated_w)
        self.ports.show_ports([g for g in groups if not g.is_input and not g.is_mains], read)

    def _runs(self) -> list[Run]:
        """Ended runs that this tab shows, oldest first."""
        ended = [run for run in self.bench.session.station_runs() if run.has_ended]
        if self._test.method is not None:
            return [run for run in ended if self._test.shows(run)]
        found = self.bench.analyses.all_of(ended)
        return [analysis.run for analysis in held_runs(found)]

    def _run(self) -> Run | None:
        runs = self._runs()
        wanted = self._run_ids.get(self.shown)
        return next((r for r in runs if r.id == wanted), runs[-1] if runs else None)

    def _beside(self) -> tuple[str, ...]:
        """What the station's other runs say of the same matter."""
        method = self._test.method
        if method is None:
            return ()
        found = self.bench.analyses.all_of(self.bench.session.station_runs())
        return tuple(kind_of(method.key).beside_words(station_runs(found)))

    def _lines_of(self, run: Run | None) -> list[Entry]:
        return self.bench.session.yard.entries(run.id) if run is not None and run.id else []

    def _analysis_of(self, run: Run | None) -> RunAnalysis | None:
        return self.bench.analyses.of(run) if run is not None else None

    # asking

    def _ask(self, signal: object) -> None:
        signal.emit(self._test, self._run())  # type: ignore[attr-defined]

    def _ask_line(self) -> None:
        self.line_asked.emit(self._test, self._run(), {})

    def _ask_file(self, path: Path | None) -> None:
        self.file_asked.emit(self._test, self._run(), path)

    def _ask_instrument(self) -> None:
        self.instrument_asked.emit(self._run())

    def _open_line(self, row: int) -> None:
        if not self.bench.session.yard.read_only:
            self.edit_asked.emit(self._test, self._entries[row])

    def _open_ledger(self) -> None:
        run = self._run()
        if run is not None and run.id is not None:
            self.ledger_asked.emit(run.id)

    def _ask_plan(self) -> None:
        self.plan_asked.emit(POWERS[0].key)

    def _enter_port(self, name: str) -> None:
        """A port of the panel was pressed: its watts are asked for."""
        if not self.bench.session.yard.read_only:
            together = float(self.sets.currentData() or 0)
            known = {"port": name, "together": together}
            self.line_asked.emit(self._test, self._run(), known)
