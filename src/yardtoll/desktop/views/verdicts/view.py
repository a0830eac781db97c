"""The Verdicts view: each claim, or each run by a yardstick, a rail; reasons below."""

from collections.abc import Callable, Iterator
from dataclasses import replace

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.verdict import Rule
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.stop_view import WORKING, StopView
from yardtoll.desktop.views.verdicts.model import (
    VerdictPage,
    VerdictRow,
    claims_page,
    yardstick_page,
)
from yardtoll.desktop.widgets.basics import (
    button,
    choice,
    label,
    number_box,
    refill,
    scrolled,
    set_role,
)
from yardtoll.desktop.widgets.verdict_rails import ROW_H, VerdictRails
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.desktop.workbench.preferences import RULE_WORDS
from yardtoll.desktop.workbench.session import as_yardstick
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.review.conformance import judged_claims, yardstick_rows
from yardtoll.review.station.runs import StationRuns, station_runs

_RAILS_STRETCH = 100
_AROUND_RAILS = 300
_RAILS_SEEN = 3
"""So many at least, where text is large and the whole stop scrolls."""
_NOTE_ROLES = {"meets": "note", "falls_short": "note-bad", "too_close_to_call": "note-unsure"}


class VerdictsView(StopView):
    """What the maker claims, and what the reviewer's own yardsticks ask.

    Signals:
        evidence_asked(run_id): open the run behind a verdict.
        note_asked(claim): note what was seen of a claim.
        reading_asked(claim): read a claim in another way.
        plan_asked(method, watts): plan the run that is missing.
        claims_asked: there are none yet.
        edit_yardstick_asked, add_yardstick_asked: change the limits.
    """

    evidence_asked = Signal(int)
    note_asked = Signal(object)
    reading_asked = Signal(object)
    plan_asked = Signal(str, object)
    claims_asked = Signal()
    edit_yardstick_asked = Signal()
    add_yardstick_asked = Signal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self.page: VerdictPage | None = None
        self._by_yardstick = False
        self._fresh = True
        bench.session.station_changed.connect(self._on_station_changed)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(MARGIN, 20, MARGIN, 16)
        layout.setSpacing(8)
        self.headline = label("", "title", wrap=True)
        layout.addWidget(self.headline)
        layout.addLayout(self._make_tabs())
        layout.addLayout(self._make_choices())
        layout.addSpacing(4)
        layout.addWidget(self._make_rails(), _RAILS_STRETCH)
        layout.addLayout(self._make_foot())
        layout.addStretch(1)
        self.setFocusProxy(self.rails)

    # building

    def _make_tabs(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(18)
        self.tabs = {
            False: button(
                "The maker's claims", lambda: self.choose_page(by_yardstick=False), "tab"
            ),
            True: button("My yardsticks", lambda: self.choose_page(by_yardstick=True), "tab"),
        }
        for tab in self.tabs.values():
            tab.setCheckable(True)
            row.addWidget(tab)
        row.addStretch(1)
        return row

    def _make_choices(self) -> WrappedRow:
        row = WrappedRow(14)
        self.rule_choice = choice("Rule", [(words, rule) for rule, words in RULE_WORDS.items()])
        self.rule_choice.setMinimumContentsLength(30)
        self.rule_choice.activated.connect(self._choose_rule)
        row.add_together(label("Rule", "muted"), self.rule_choice)
        self._repeats = number_box("Run to run ±", "%", 0.05, 20, 0.5, 2)
        self._repeats.setToolTip(
            "How much a station's runs differ (standard deviation), where no repeats show it"
        )
        self._repeats.editingFinished.connect(self._choose_repeatability)
        row.add_together(label("Run to run", "muted"), self._repeats)
        self._yardstick_words = label("Yardstick", "muted")
        self.yardstick_choice = choice("Yardstick")
        self.yardstick_choice.setMinimumContentsLength(24)
        self.yardstick_choice.activated.connect(self._choose_yardstick)
        edit = button("Edit…", self.edit_yardstick_asked.emit, name="Edit the yardstick")
        new = button("New…", self.add_yardstick_asked.emit, name="New yardstick")
        self._yardstick_parts = (self._yardstick_words, self.yardstick_choice, edit, new)
        row.add_together(self._yardstick_words, self.yardstick_choice)
        row.addWidget(edit)
        row.addWidget(new)
        return row

    def _make_rails(self) -> QScrollArea:
        self.rails = VerdictRails()
        self.rails.row_chosen.connect(lambda _: self._on_chosen())
        self.rails.row_opened.connect(lambda _: self._open())
        self._scroll = scrolled(self.rails)
        return self._scroll

    def _make_foot(self) -> QVBoxLayout:
        layout = QVBoxLayout()
        self._reasons = label("", "note", wrap=True)
        self._reasons.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        layout.addWidget(self._reasons)
        foot = WrappedRow(6)
        self.evidence = button("Open the run", self._open)
        self._budget = self._keyed("Where the ± comes from", "B", self._open_budget)
        self.plan_button = self._keyed("Plan the missing run", "P", self._ask_plan)
        self.note_button = self._keyed("Note what you saw…", "O", self._ask_note)
        self._reading = self._keyed("How it is read…", "R", self._ask_reading)
        self._claims = button("Go to the claims", self.claims_asked.emit)
        self.copy_button = button("Copy the sentence", self._copy_sentence)
        QShortcut(QKeySequence.StandardKey.Copy, self, self._copy_sentence)
        self._foot_buttons = (
            self.evidence, self._budget, self.plan_button, self.note_button,
            self._reading, self._claims, self.copy_button,
        )  # fmt: skip
        for made in self._foot_buttons:
            foot.addWidget(made)
        layout.addLayout(foot)
        self._below = label("", "muted", wrap=True)
        layout.addWidget(self._below)
        return layout

    def _keyed(self, text: str, key: str, pressed: Callable[[], None]) -> QPushButton:
        """A button that a bare key presses as well."""
        made = button(f"{text}  {key}", pressed, name=text)
        QShortcut(QKeySequence(key), self, pressed)
        return made

    # showing

    def choose_page(self, *, by_yardstick: bool) -> None:
        """Show the maker's claims, or one of the reviewer's yardsticks."""
        self._by_yardstick = by_yardstick
        self._fresh = True
        self.refresh()

    def refresh(self) -> None:
        self._fill_whole()

    def _fill(self) -> Iterator[None]:
        session = self.bench.session
        refill(
            self.yardstick_choice,
            [(f"{s.name}: {as_yardstick(s).shown}", s.id) for s in session.yard.yardsticks()],
        )
        yardstick = session.yardstick()
        self.yardstick_choice.setCurrentIndex(self.yardstick_choice.findData(yardstick.id))
        rule = Rule(session.yard.info().rule)
        self.rule_choice.setCurrentIndex(list(RULE_WORDS).index(rule))
        if not self._repeats.hasFocus():
            self._repeats.setValue(100 * session.yard.info().repeatability)
        for box in (self.yardstick_choice, self.rule_choice, self._repeats):
            box.setEnabled(not session.yard.read_only)
        for by_yardstick, tab in self.tabs.items():
            tab.setChecked(by_yardstick is self._by_yardstick)
        for part in self._yardstick_parts:
            part.setVisible(self._by_yardstick)
        yield
        analyses = self.bench.analyses.complete_of(session.station_runs())
        if analyses is None:
            if self._fresh:
                self._show_working()
            return
        found = station_runs(analyses)
        self.page = (
            self._yardstick_page(found, rule)
            if self._by_yardstick
            else self._claim_page(found, rule)
        )
        yield
        self.headline.setText(self.page.headline)
        self._below.setText(self.page.below)
        self._below.setVisible(bool(self.page.below))
        self.rails.show_rows([r.row for r in self.page.rows])
        self.fit()
        if self._fresh and self.page.rows:
            self._fresh = False
            judged = [i for i, row in enumerate(self.page.rows) if row.row.outcome]
            self.rails.choose(judged[-1] if judged and self._by_yardstick else 0)
        yield
        self._show_reasons()

    def _show_working(self) -> None:
        """Of a claim whose run is being worked out nothing can be said, not even "not tested"."""
        self.page = None
        self.headline.setText(WORKING)
        self._below.setVisible(False)
        self.rails.show_rows([])
        self.fit()
        self._show_reasons()

    def _claim_page(self, found: StationRuns, rule: Rule) -> VerdictPage:
        station = self.bench.session.station
        if station is None or station.id is None:
            return claims_page([])
        yard = self.bench.session.yard
        claims = [stored.claim for stored in yard.claims(station.id)]
        return claims_page(
            judged_claims(
                found, claims, yard.receiving(station.id), yard.observations(station.id), rule
            )
        )

    def _yardstick_page(self, found: StationRuns, rule: Rule) -> VerdictPage:
        session = self.bench.session
        yardstick = as_yardstick(session.yardstick())
        station = session.station
        receiving = session.yard.receiving(station.id) if station and station.id else None
        return yardstick_page(yardstick_rows(found, yardstick, rule, receiving), yardstick)

    def fit(self) -> None:
        """Few rails stand apart, many scroll; what is said of them follows right below."""
        self.rails.fit_to(self.height() - _AROUND_RAILS)
        whole = self.rails.height() + 4
        self._scroll.setMinimumHeight(min(whole, _RAILS_SEEN * scaled(ROW_H)))
        self._scroll.setMaximumHeight(whole)

    @property
    def chosen(self) -> VerdictRow | None:
        """The chosen row; None while there is none."""
        rows = self.page.rows if self.page else ()
        return rows[self.rails.chosen] if rows else None

    def sentence(self) -> str:
        """The chosen verdict as it can be published."""
        row = self.chosen
        station = self.bench.session.station
        if row is None or station is None:
            return ""
        title = f"{row.row.title[:1].lower()}{row.row.title[1:]}"
        claimed = f" ({row.row.subtitle})" if not self._by_yardstick else ""
        return f"{station.name}, {title}{claimed}: {row.row.word}. {row.sentence}"

    def _on_station_changed(self) -> None:
        self._fresh = True

    def _on_chosen(self) -> None:
        self._show_reasons()
        self.rails.show_chosen_in(self._scroll)

    def _show_reasons(self) -> None:
        row = self.chosen
        writable = not self.bench.session.yard.read_only
        shown = {
            self.evidence: row is not None and row.run_number is not None,
            self._budget: row is not None and row.budget is not None,
            self.plan_button: row is not None and bool(row.plan_method) and writable,
            self.note_button: row is not None and row.note_claim is not None and writable,
            self._reading: row is not None and row.read_claim is not None and writable,
            self._claims: self.page is not None and row is None and not self._by_yardstick,
            self.copy_button: row is not None,
        }
        for made, visible in shown.items():
            made.setVisible(visible)
        self._reasons.setVisible(self.page is not None)
        if row is None:
            self._reasons.setText(
                "Finish a run or import a meter's log; it is judged here."
                if self._by_yardstick
                else "Enter what the maker claims, or paste its listing; each claim gets its rail."
            )
            set_role(self._reasons, "note-none")
            return
        self._reasons.setText(f"{self.sentence()} {row.advice}".rstrip())
        set_role(self._reasons, _NOTE_ROLES.get(row.row.outcome, "note-none"))

    # doing

    def _choose_yardstick(self) -> None:
        info = self.bench.session.yard.info()
        chosen = replace(info, yardstick_id=self.yardstick_choice.currentData())
        self.bench.session.edit(chosen, "Choose a yardstick")

    def _choose_rule(self) -> None:
        info = self.bench.session.yard.info()
        rule: Rule = self.rule_choice.currentData()
        self.bench.session.edit(replace(info, rule=Rule(rule).value), "Choose a rule")

    def _choose_repeatability(self) -> None:
        info = self.bench.session.yard.info()
        chosen = replace(info, repeatability=self._repeats.value() / 100)
        self.bench.session.edit(chosen, "Change the run-to-run repeatability")

    def _open(self) -> None:
        row = self.chosen
        if row is None or row.run_number is None:
            return
        runs = self.bench.session.station_runs()
        run = next((r for r in runs if r.number == row.run_number), None)
        if run is not None and run.id is not None:
            self.evidence_asked.emit(run.id)

    def _open_budget(self) -> None:
        row = self.chosen
        if row is not None and row.budget is not None:
            BudgetDialog(row.figure, row.budget, row.advice, self).exec()

    def _ask_plan(self) -> None:
        row = self.chosen
        if row is not None and row.plan_method:
            self.plan_asked.emit(row.plan_method, row.plan_w)

    def _ask_note(self) -> None:
        row = self.chosen
        if row is not None and row.note_claim is not None:
            claim: Claim = row.note_claim
            self.note_asked.emit(claim)

    def _ask_reading(self) -> None:
        row = self.chosen
        if row is not None and row.read_claim is not None:
            self.reading_asked.emit(row.read_claim)

    def _copy_sentence(self) -> None:
        if self.chosen is not None:
            QApplication.clipboard().setText(self.sentence())
