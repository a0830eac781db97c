"""The Line-up view: stations side by side in one quantity, or in all of them."""

from collections.abc import Iterator, Sequence
from dataclasses import asdict, replace
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QApplication,
    QBoxLayout,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.formatting import capitalised
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.lineup.archive import MOST_LIVE_RUNS, Archive, entrants_in
from yardtoll.desktop.views.lineup.choices import RAILS, SCORES, TABLE, LineupChoices
from yardtoll.desktop.views.lineup.side import LineupSide
from yardtoll.desktop.views.stop_view import WORKING, StopView
from yardtoll.desktop.widgets.basics import (
    button,
    label,
    scrolled,
)
from yardtoll.desktop.widgets.line_table import LineTable
from yardtoll.desktop.widgets.lineup_rails import LineupRails
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.desktop.workbench.latest import LatestAnswer
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.review.archive.search import Fit
from yardtoll.review.lineup.entrants import Asked, Entrant, told_apart
from yardtoll.review.lineup.family import family_of, family_words
from yardtoll.review.lineup.lining import LeftOut, Lineup, LineupRow
from yardtoll.review.lineup.price_verdicts import price_changes
from yardtoll.review.lineup.quantities import QUANTITIES
from yardtoll.review.lineup.shown import (
    MOST,
    Answered,
    LineupQuestion,
    contestants,
    entry_at,
    first_of,
    score_table,
    score_words,
    table_of,
    words_of,
)
from yardtoll.review.lineup.words import headline, unit_of
from yardtoll.store.records import StoredScorePoint

_TABLE_WORDS = "Side by side in everything: Enter on a row shows it on its axis"
_PAGES_STRETCH = 100
_AROUND_RAILS = 260
_ANY_HEIGHT = 16_000
_ABREAST_W, _PAGES_H = 600, 200
"""Less room has the stations below the choices, so high at least."""


class LineupView(StopView):
    """Stations of this yard, and of others that are only looked into.

    Signals:
        run_asked(run_id): the run behind a figure.
        plan_asked(method, watts): the run that would make a station comparable.
        yard_asked, archive_asked: look into another yard, or one of the shared archive.
        prices_asked, classes_asked: change what is noted of them.
        publish_asked: write the comparison to a file.
    """

    run_asked = Signal(int)
    plan_asked = Signal(str, object)
    yard_asked = Signal()
    archive_asked = Signal()
    prices_asked = Signal()
    classes_asked = Signal()
    publish_asked = Signal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self.answered: Answered | None = None
        self.quantity = next(iter(QUANTITIES))
        self.others: dict[Path, list[Entrant]] = {}
        self.entrants: list[Entrant] = []
        self._own: list[Entrant] = []
        self._said = self._score_said = ""
        self._found: dict[str, Fit] | None = None
        self.archive = Archive(
            bench.session.yard, bench.session.path, bench.jobs, self._archive_arrived,
            bench.trouble.emit,
        )  # fmt: skip
        self.answering = LatestAnswer[LineupQuestion](bench.jobs, self._arrived)

    def _build(self) -> Iterator[None]:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(MARGIN, 20, MARGIN, 14)
        layout.setSpacing(8)
        self.headline = label("", "title", wrap=True)
        layout.addWidget(self.headline)
        self.choices = self._make_choices()
        layout.addWidget(self.choices)
        yield
        body = self._body = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        body.setSpacing(20)
        body.addWidget(self._make_side())
        yield
        body.addLayout(self._make_middle(), 1)
        layout.addLayout(body, 1)

    # building

    def _make_choices(self) -> LineupChoices:
        self.prices_button = button("Prices…", self.prices_asked.emit)
        self.classes_button = button("Classes…", self.classes_asked.emit, name="Size classes")
        self.publish_button = button("Publish…", self.publish_asked.emit, "primary")
        made = LineupChoices((self.prices_button, self.classes_button, self.publish_button))
        made.page_chosen.connect(self.choose_page)
        made.changed.connect(self._asked_otherwise)
        made.template_chosen.connect(self._show_scores)
        return made

    def _make_side(self) -> LineupSide:
        side = self.side = LineupSide(self.bench.jobs)
        side.quantity_chosen.connect(self._choose_quantity)
        side.search.found.connect(self._show_found)
        side.search.refused.connect(self._show_refusal)
        side.search.returnPressed.connect(self._tick_found)
        side.who.ticked.connect(self._ask)
        side.family_asked.connect(self._tick_family)
        side.yard_asked.connect(self.yard_asked)
        side.archive_asked.connect(self.archive_asked)
        self.search, self.who = side.search, side.who
        return side

    def _make_middle(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(8)
        self.pages = QStackedWidget()
        self.rails = LineupRails()
        self.rails.row_chosen.connect(lambda _: self._show_chosen())
        self.rails.row_opened.connect(lambda _: self._open())
        self.table = LineTable("Everything side by side", even=True)
        self.table.opened.connect(self._open_quantity)
        self.pages.addWidget(scrolled(self.rails))
        self.pages.addWidget(self.table)
        self.scores = LineTable("Scorecards side by side", even=True)
        self.pages.addWidget(self.scores)
        column.addWidget(self.pages, _PAGES_STRETCH)
        self.words = label("", "note-none", wrap=True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        column.addWidget(self.words)
        row = WrappedRow(6)
        self.open_button = button("Open the run", self._open)
        self.budget_button = button("Where the ± comes from", self._open_budget)
        self.plan_button = button("Plan the run that is missing", self._plan, "primary")
        self.copy_button = button("Copy the sentence", self._copy)
        for made in (self.open_button, self.budget_button, self.plan_button, self.copy_button):
            row.addWidget(made)
        row.rest_to_the_right()
        self.note = label("", "muted")
        row.addWidget(self.note)
        column.addLayout(row)
        column.addStretch(1)
        return column

    def fit(self) -> None:
        """Few rows stand apart, many scroll; what is said of them follows right below."""
        is_below = self.stack_below(_ABREAST_W, self._body)
        self.side.fit(is_below=is_below)
        self.pages.setMinimumHeight(scaled(_PAGES_H) if is_below else 0)
        self.rails.fit_to(self.height() - _AROUND_RAILS)
        by_rails = self.pages.currentIndex() == RAILS
        self.pages.setMaximumHeight(self.rails.height() + 4 if by_rails else _ANY_HEIGHT)

    # showing

    def refresh(self) -> None:
        session = self.bench.session
        writable = not session.yard.read_only
        self.prices_button.setVisible(writable and session.station is not None)
        self.classes_button.setVisible(writable)
        self.side.archive_button.setVisible(bool(self.bench.settings.archive))
        runs = [run for run in session.yard.runs() if run.has_ended]
        if len(runs) > MOST_LIVE_RUNS:
            self.archive.ask(self.asked)
            return
        analyses = self.bench.analyses.complete_of(runs)
        if analyses is None:
            self.archive.living.withdraw()
            self.answering.withdraw()
            self.headline.setText(WORKING)
            return
        self.archive.ask_live(analyses, self.bench.analyses.version)

    def _asked_otherwise(self) -> None:
        """Another load or price: of a large yard other figures are kept."""
        if any(entrant.kept for entrant in self._own):
            self.archive.ask(self.asked)
        else:
            self.search.show_among(self.entrants, self.asked)
            self._ask()

    def _archive_arrived(self, ready: list[Entrant], missing: int) -> None:
        if missing and not ready:
            self.headline.setText(f"Working {missing} stations out, once…")
        self._take(ready)

    def _take(self, own: Sequence[Entrant]) -> None:
        """These of this yard, and those of others that are looked into."""
        self._own = list(own)
        every = [*own, *(e for found in self.others.values() for e in found)]
        names = told_apart([(entrant.name, entrant.bench) for entrant in every])
        self.entrants = [replace(e, name=name) for e, name in zip(every, names, strict=True)]
        self._fill_who()
        self.search.show_among(self.entrants, self.asked)
        self.side.family_button.setVisible(len(self._family) > 1)
        self._ask()

    def choose_page(self, page: int) -> None:
        """Show rails or table."""
        self.pages.setCurrentIndex(page)
        self._show_boxes()
        self._show_headline()
        self.fit()
        self._show_chosen()

    def choose_quantity(self, key: str) -> None:
        """Compare in another quantity."""
        self.side.choose(key)

    def add_yard(self, path: Path) -> None:
        """Look into another yard, on a worker; why it cannot be is told in a sentence."""
        if path.resolve() == self.bench.session.path.resolve():
            self.bench.trouble.emit("This yard takes part already.")
            return
        self.bench.jobs.start(
            f"Looking into {path.name}",
            lambda _: entrants_in(path),
            lambda found: self._add_others(path, found),
            lambda error: self.bench.trouble.emit(f"{capitalised(str(error))}."),
        )

    def _add_others(self, path: Path, found: list[Entrant]) -> None:
        self.others[path] = found
        self._take(self._own)

    def _open_quantity(self, row: int) -> None:
        """From the table to the axis of one row."""
        self.side.choose(list(QUANTITIES)[row])
        self.choose_page(RAILS)

    def _choose_quantity(self) -> None:
        self.quantity = self.side.quantity
        self._show()

    def _fill_who(self) -> None:
        names = [entrant.name for entrant in self.entrants]
        if self.who.is_empty and len(names) > MOST:
            station = self.bench.session.station
            near_wh = station.rated_wh if station is not None else self.entrants[0].rated_wh
            near = {entrant.name for entrant in first_of(self.entrants, near_wh)}
            self.who.out = set(names) - near
        self.who.show_names(names)

    def _show_found(self, found: dict[str, Fit] | None) -> None:
        self._found = found
        self.who.show_found(found)
        self.note.setText(f"{len(found)} found; Enter puts them side by side" if found else "")
        if found is not None and not found:
            self.note.setText("none found")

    def _show_refusal(self, words: str) -> None:
        self.note.setText(words)

    def _tick_found(self) -> None:
        """Only those that were found take part."""
        if self._found:
            self.who.tick_only(set(self._found))
            self.who.show_found(self._found)
            self._ask()

    @property
    def _family(self) -> list[Entrant]:
        """The chosen station with its configurations."""
        station = self.bench.session.station
        own = next(
            (e for e in self.entrants if station is not None and e.station_id == station.id), None
        )
        return family_of(own, self.entrants) if own is not None else []

    def _tick_family(self) -> None:
        """Leave out all but the chosen station and its configurations."""
        self.who.tick_only({entrant.name for entrant in self._family})
        self._ask()

    @property
    def taking_part(self) -> list[Entrant]:
        """Those that are ticked, at most twelve of them."""
        found = [e for e in self.entrants if e.name not in self.who.out]
        return found[:MOST]

    @property
    def asked(self) -> Asked:
        """What the boxes say."""
        return self.choices.asked

    def _ask(self) -> None:
        yard = self.bench.session.yard
        ticked = self.who.count_ticked
        if ticked > MOST:
            self.note.setText(f"the first {MOST} of {ticked} ticked")
        self.answering.ask(
            LineupQuestion(
                entrants=tuple(self.taking_part),
                archive=tuple(self.entrants),
                asked=self.asked,
                classes=tuple(yard.size_classes()),
                runs_key=(yard.changes, self.bench.analyses.version, len(self.others)),
            )
        )

    def _arrived(self, _: LineupQuestion, found: Answered | str) -> None:
        if isinstance(found, str):
            self.headline.setText(f"{capitalised(found)}.")
            return
        self.answered = found
        titles, rows = table_of(found, [entrant.name for entrant in self.taking_part])
        self.table.show_lines(titles, rows)
        self._show_scores()
        self._show()

    def _show_scores(self) -> None:
        """Every station by one scorecard: this yard's, or one that is kept under a name."""
        yard = self.bench.session.yard
        chosen = self.choices.show_templates(yard.score_templates())
        points = (
            [StoredScorePoint(**asdict(point)) for point in chosen.points]
            if chosen is not None
            else yard.score_points()
        )
        titles, rows = score_table(self.taking_part, points)
        self.scores.show_lines(titles, rows)
        self._score_said = score_words(titles, rows)
        self._show_headline()

    @property
    def lineup(self) -> Lineup | None:
        """The one that is shown."""
        return self.answered.lineups[self.quantity] if self.answered is not None else None

    def _show(self) -> None:
        lineup, answered = self.lineup, self.answered
        if lineup is None or answered is None:
            return
        about = QUANTITIES[self.quantity]
        self._show_boxes()
        said = headline(lineup, answered.asked)
        self._said = said
        self._show_headline()
        self.rails.show_rows(
            said, unit_of(lineup), contestants(lineup), left_is_better=not about.higher_is_better
        )
        self.fit()
        self._show_chosen()

    def _show_headline(self) -> None:
        by_page = {RAILS: self._said, TABLE: _TABLE_WORDS, SCORES: self._score_said}
        self.headline.setText(by_page[self.pages.currentIndex()])

    def _show_boxes(self) -> None:
        """Those that matter for what is shown."""
        page = self.pages.currentIndex()
        self.choices.show_page(page, QUANTITIES[self.quantity])
        self.side.show_quantities(shown=page == RAILS)

    @property
    def chosen(self) -> LineupRow | LeftOut | None:
        """What the chosen row stands for."""
        return entry_at(self.lineup, self.rails.chosen) if self.lineup is not None else None

    def sentence(self) -> str:
        """The chosen row as it can be said."""
        entry, lineup = self.chosen, self.lineup
        if entry is None or lineup is None or self.answered is None:
            return ""
        return words_of(entry, lineup, self.answered)

    def _show_chosen(self) -> None:
        entry, about = self.chosen, QUANTITIES[self.quantity]
        by_rails = self.pages.currentIndex() == RAILS
        said = self.sentence()
        alike = f" Compared: {about.conditions}." if about.conditions else ""
        added = self._family_words()
        parts = [f"{said}{alike}", *self._price_words(entry)] if by_rails else []
        self.words.setText(" ".join([*parts, *added]))
        self.words.setVisible(bool(added) or (by_rails and bool(said)))
        own = entry is not None and entry.entrant.station_id is not None
        is_row = isinstance(entry, LineupRow)
        writable = not self.bench.session.yard.read_only
        run = entry.run if isinstance(entry, LineupRow) else None
        self.open_button.setVisible(by_rails and own and run is not None)
        is_told = isinstance(entry, LineupRow) and entry.is_told
        self.budget_button.setVisible(by_rails and is_told)
        exact = isinstance(entry, LineupRow) and not (entry.budget and entry.budget.lines)
        self.budget_button.setText("How it is worked out" if exact else "Where the ± comes from")
        can_plan = entry is not None and not is_row and own and bool(about.method)
        self.plan_button.setVisible(by_rails and can_plan and writable)
        self.copy_button.setVisible(by_rails and entry is not None)

    def _family_words(self) -> list[str]:
        """What packs add, where the chosen station and its configurations are all that is shown."""
        family = self._family
        shown = {entrant.name for entrant in self.taking_part}
        if len(family) < 2 or shown != {entrant.name for entrant in family}:
            return []
        return family_words(family, self.asked)

    def _price_words(self, entry: LineupRow | LeftOut | None) -> list[str]:
        """What another price would change of the verdicts of a station of this yard."""
        if entry is None or not QUANTITIES[self.quantity].is_price:
            return []
        if entry.entrant.station_id is None:
            return []
        yard = self.bench.session.yard
        units = self.asked.units
        return price_changes(entry.entrant, yard.yardsticks(), yard.score_points(), units)

    # doing

    def _open(self) -> None:
        entry = self.chosen
        if isinstance(entry, LineupRow) and entry.run is not None:
            runs = self.bench.session.yard.runs(entry.entrant.station_id)
            run = next((r for r in runs if r.number == entry.run), None)
            if entry.entrant.station_id is not None and run is not None and run.id is not None:
                self.run_asked.emit(run.id)

    def _open_budget(self) -> None:
        entry, lineup = self.chosen, self.lineup
        if isinstance(entry, LineupRow) and entry.budget is not None and lineup is not None:
            scale = QUANTITIES[lineup.quantity].scale
            budget = replace(entry.budget.scaled(scale, unit_of(lineup)), worked=entry.worked)
            BudgetDialog(self.sentence().split("(")[0], budget, parent=self).exec()

    def _plan(self) -> None:
        entry, about = self.chosen, QUANTITIES[self.quantity]
        if not isinstance(entry, LeftOut) or entry.entrant.station_id is None or not about.method:
            return
        self.bench.session.choose_station(entry.entrant.station_id)
        watts = self.asked.watts(entry.entrant.rated_wh) if about.at_load else None
        self.plan_asked.emit(about.method, watts)

    def _copy(self) -> None:
        QApplication.clipboard().setText(self.sentence())

    def take_files(self, paths: Sequence[Path]) -> bool:
        """Yards that are dropped here take part."""
        yards = [path for path in paths if path.suffix == ".yard"]
        for path in yards:
            self.add_yard(path)
        return bool(yards)
