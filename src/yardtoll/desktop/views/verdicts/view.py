"""The Verdicts view: each run a rail with its post, the chosen one's reasons below."""

from dataclasses import replace

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QApplication, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from yardtoll.core.verdict import Rule
from yardtoll.desktop.session import as_yardstick
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.views.verdicts.model import RULE_WORDS, VerdictPage, verdict_page
from yardtoll.desktop.widgets.basics import button, choice, label, refill, scrolled, set_role
from yardtoll.desktop.widgets.verdict_rails import VerdictRails
from yardtoll.desktop.workbench import Workbench

_RAILS_STRETCH = 100
_AROUND_RAILS = 290
_NOTE_ROLES = {"meets": "note", "falls_short": "note-bad", "too_close_to_call": "note-unsure"}


class VerdictsView(StopView):
    """Delivered ÷ rated against a chosen yardstick.

    Signals:
        evidence_asked(run_id): open the run behind a verdict.
        edit_yardstick_asked, add_yardstick_asked: change the limits.
    """

    title = "Verdicts"
    evidence_asked = Signal(int)
    edit_yardstick_asked = Signal()
    add_yardstick_asked = Signal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self._page: VerdictPage | None = None
        self._fresh = True
        bench.session.station_changed.connect(self._on_station_changed)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(MARGIN, 20, MARGIN, 16)
        layout.setSpacing(8)
        self._headline = label("", "title")
        layout.addWidget(self._headline)
        layout.addLayout(self._make_choices())
        layout.addSpacing(6)
        layout.addWidget(self._make_rails(), _RAILS_STRETCH)
        layout.addLayout(self._make_foot())
        layout.addStretch(1)
        self.setFocusProxy(self._rails)

    def _make_choices(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self._yardstick = choice("Yardstick")
        self._yardstick.setMinimumContentsLength(24)
        self._yardstick.activated.connect(self._choose_yardstick)
        self._rule = choice("Rule", [(words, rule) for rule, words in RULE_WORDS.items()])
        self._rule.setMinimumContentsLength(32)
        self._rule.activated.connect(self._choose_rule)
        row.addWidget(label("Yardstick", "muted"))
        row.addWidget(self._yardstick)
        row.addWidget(button("Edit…", self.edit_yardstick_asked.emit, name="Edit the yardstick"))
        row.addWidget(button("New…", self.add_yardstick_asked.emit, name="New yardstick"))
        row.addSpacing(14)
        row.addWidget(label("Rule", "muted"))
        row.addWidget(self._rule)
        row.addStretch(1)
        return row

    def _make_rails(self) -> QScrollArea:
        self._rails = VerdictRails()
        self._rails.row_chosen.connect(lambda _: self._show_reasons())
        self._rails.row_opened.connect(self._open)
        self._scroll = scrolled(self._rails)
        return self._scroll

    def _make_foot(self) -> QVBoxLayout:
        layout = QVBoxLayout()
        self._reasons = label("", "note", wrap=True)
        self._reasons.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        layout.addWidget(self._reasons)
        foot = QHBoxLayout()
        self._evidence = button("Open the evidence", self._open_chosen)
        self._copy = button("Copy the sentence", self._copy_sentence)
        foot.addWidget(self._evidence)
        foot.addWidget(self._copy)
        foot.addStretch(1)
        layout.addLayout(foot)
        return layout

    def refresh(self) -> None:
        session = self.bench.session
        refill(
            self._yardstick,
            [(f"{s.name}: ≥ {100 * s.limit_ratio:g} %", s.id) for s in session.yard.yardsticks()],
        )
        stick = session.yardstick()
        self._yardstick.setCurrentIndex(self._yardstick.findData(stick.id))
        rule = Rule(session.yard.info().rule)
        self._rule.setCurrentIndex(list(RULE_WORDS).index(rule))
        for box in (self._yardstick, self._rule):
            box.setEnabled(not session.yard.read_only)
        analyses = self.bench.analyses.all_of(session.station_runs())
        self._page = verdict_page(analyses, as_yardstick(stick), rule)
        self._headline.setText(self._page.headline)
        self._rails.show_rows([r.row for r in self._page.rows], self._page.low, self._page.high)
        self._fit_rails()
        if self._fresh and self._page.rows:
            self._fresh = False
            judged = [i for i, row in enumerate(self._page.rows) if row.judged]
            self._rails.choose(judged[-1] if judged else 0)
        self._show_reasons()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_rails()

    def _fit_rails(self) -> None:
        """Few rails stand apart, many scroll; what is said of them follows right below."""
        self._rails.fit_to(self.height() - _AROUND_RAILS)
        self._scroll.setMaximumHeight(self._rails.height() + 4)

    def sentence(self) -> str:
        """The chosen verdict as it can be published."""
        if self._page is None or not self._page.rows:
            return ""
        chosen = self._page.rows[self._rails.chosen]
        word = chosen.row.word
        name = chosen.analysis.station.name
        title = chosen.row.title
        return f"{name}, {title[:1].lower()}{title[1:]}: {word}. {' '.join(chosen.reasons)}"

    def _on_station_changed(self) -> None:
        self._fresh = True

    def _show_reasons(self) -> None:
        rows = self._page.rows if self._page else ()
        for widget in (self._evidence, self._copy):
            widget.setEnabled(bool(rows))
        if not rows:
            self._reasons.setText("Finish a discharge or import a meter's log; it is judged here.")
            return
        self._reasons.setText(self.sentence())
        outcome = rows[self._rails.chosen].row.outcome
        set_role(self._reasons, _NOTE_ROLES.get(outcome, "note-none"))

    def _choose_yardstick(self) -> None:
        info = self.bench.session.yard.info()
        chosen = replace(info, yardstick_id=self._yardstick.currentData())
        self.bench.session.edit(chosen, "Choose a yardstick")

    def _choose_rule(self) -> None:
        info = self.bench.session.yard.info()
        rule: Rule = self._rule.currentData()
        self.bench.session.edit(replace(info, rule=Rule(rule).value), "Choose a rule")

    def _open(self, index: int) -> None:
        if self._page and index < len(self._page.rows):
            run_id = self._page.rows[index].analysis.run.id
            assert run_id is not None
            self.evidence_asked.emit(run_id)

    def _open_chosen(self) -> None:
        self._open(self._rails.chosen)

    def _copy_sentence(self) -> None:
        QApplication.clipboard().setText(self.sentence())
