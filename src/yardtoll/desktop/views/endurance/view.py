"""The Endurance view: an outage on a time axis, what it rests on, and appliances to drag on."""

from collections.abc import Callable, Iterator, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QBoxLayout,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.formatting import capitalised
from yardtoll.core.planning.inputs import claimed
from yardtoll.desktop.actions.outages import Outages
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.endurance.boxes import OutageBoxes
from yardtoll.desktop.views.endurance.question import Found, Question
from yardtoll.desktop.views.stop_view import WORKING, StopView
from yardtoll.desktop.widgets.appliance_list import ApplianceList
from yardtoll.desktop.widgets.basics import (
    button,
    label,
    scrolled,
)
from yardtoll.desktop.widgets.kept_grid import KeptGrid, hanging
from yardtoll.desktop.widgets.outage_picture import OutagePictureView
from yardtoll.desktop.workbench.latest import LatestAnswer
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.review.endurance.answer import Answer
from yardtoll.review.endurance.edits import (
    moved,
    usual_outage,
    with_use,
)
from yardtoll.review.endurance.library import Offered, offered
from yardtoll.review.endurance.picture import picture_of
from yardtoll.review.endurance.tried import Tried, has_appliance, tried_words
from yardtoll.review.endurance.words import (
    answer_budget,
    answer_figure,
    cautions,
    headline,
    rests_on,
    warnings,
)
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import station_runs
from yardtoll.store.records import StoredOutage
from yardtoll.store.shown_region import day
from yardtoll.store.site_time import local, now

_STEPS = (
    "Discharge it to empty through the AC outlet, once at about 0.2 C and once at another load: "
    "the two tell store and overhead apart. A night's idle test tells the overhead better.",
    "Or type store and overhead under This outage, as claimed or from elsewhere: the answer then "
    "says that they were not measured.",
)
_SIDE_W, _NARROW_SIDE_W = 330, 270
_NARROW = 1000
_ABREAST = 760
"""Of a narrower view, in pixels of usual text, the picture takes all."""
_BELOW_H, _PICTURE_H = 320, 280
_ANY_WIDTH = 16_000


class EnduranceView(StopView):
    """How long the chosen station lasts.

    Signals:
        plan_asked, site_asked, panels_asked: what is missing for an answer.
        run_asked(run_id): the run that something rests on.
    """

    plan_asked = Signal()
    site_asked = Signal()
    panels_asked = Signal()
    run_asked = Signal(int)

    def __init__(self, bench: Workbench, outages: Outages, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self.outages = outages
        self.outage: StoredOutage | None = None
        self.answer: Answer | None = None
        self.offered: list[Offered] = []
        self._ids: dict[int, int | None] = {}
        self._dragged: StoredOutage | None = None
        self.answering = LatestAnswer[Question](bench.jobs, self._arrived)

    def _build(self) -> Iterator[None]:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(MARGIN, 20, MARGIN, 14)
        layout.setSpacing(8)
        self.headline = label("", "title", wrap=True)
        layout.addWidget(self.headline)
        layout.addWidget(self._make_boxes())
        yield
        body = self._body = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        body.setSpacing(22)
        self.picture = OutagePictureView()
        self._connect_picture()
        self._picture_area = _filled(self.picture)
        body.addWidget(self._picture_area, 1)
        yield
        body.addWidget(self._make_side())
        self.steps = KeptGrid(spacing=(8, 7))
        self.steps.grid.setColumnStretch(1, 1)
        self.steps.setVisible(False)
        layout.addWidget(self.steps)
        layout.addLayout(body, 1)

    # building

    def _make_boxes(self) -> OutageBoxes:
        made = self.boxes = OutageBoxes()
        made.outage_chosen.connect(self.choose)
        made.settled.connect(self._keep_boxes)
        made.site_asked.connect(self.site_asked)
        made.panels_asked.connect(self.panels_asked)
        made.plan_asked.connect(self.plan_asked)
        self.actions_by_name = made.fill_menu(
            {
                "edit": ("Name and typed figures…", lambda: self._do(self.outages.ask)),
                "another": ("Another outage like it", self._add_another),
                "remove": ("Remove it", lambda: self._do(self.outages.remove)),
                "feed": ("Wall or generator power…", lambda: self._do(self._ask_feed)),
                "tried": ("Hold it against a run…", lambda: self._do(self._ask_tried)),
                "learn": ("Learn an appliance from a run…", self._ask_learn),
                "heat": ("Warm water…", lambda: self._do(self.outages.ask_heat)),
            }
        )
        return made

    def _make_side(self) -> QWidget:
        side = self._side = QWidget()
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.budget_button = button("Where the ± comes from", self._open_budget, "link")
        column.addWidget(self.budget_button)
        self.words = KeptGrid(spacing=(8, 7))
        self.words.grid.setColumnStretch(1, 1)
        column.addWidget(scrolled(self.words), 3)
        head = QHBoxLayout()
        head.addWidget(label("Appliances to drag on", "heading"))
        head.addStretch(1)
        self.own_button = button("New…", self._ask_new_use, name="A new appliance")
        head.addWidget(self.own_button)
        column.addLayout(head)
        self.library = ApplianceList("Appliances")
        self.library.opened.connect(self._put_in)
        column.addWidget(self.library, 2)
        return side

    def _connect_picture(self) -> None:
        picture = self.picture
        picture.start_dragged.connect(self._drag_start)
        picture.start_moved.connect(self._move_start)
        picture.lane_opened.connect(self._open_lane)
        picture.lane_removed.connect(
            lambda name, _: self._do(lambda o: self.outages.remove_lane(o, name))
        )
        picture.appliance_dropped.connect(lambda place: self._put_in(self.offered[place]))

    def fit(self) -> None:
        """What is said is beside the picture; with large text below it: both can be read."""
        wide = self.width() / theme.scale
        is_below, most = wide < _ABREAST, _ANY_WIDTH
        side = _NARROW_SIDE_W if self.width() < _NARROW else _SIDE_W
        self._side.setMinimumWidth(0 if is_below else side)
        self._side.setMaximumWidth(most if is_below else side)
        self._side.setMinimumHeight(scaled(_BELOW_H) if is_below else 0)
        self._picture_area.setMinimumHeight(scaled(_PICTURE_H) if is_below else 0)
        direction = QBoxLayout.Direction
        self._body.setDirection(direction.TopToBottom if is_below else direction.LeftToRight)

    # showing

    def refresh(self) -> None:
        session = self.bench.session
        station = session.station
        self._show_library()
        if station is None or station.id is None:
            self.outage = self.answer = None
            self.answering.withdraw()
            self._show_nothing("How long does it last?", "Add a station first.")
            return
        kept = session.yard.outages(station.id)
        wanted = self._ids.get(station.id)
        usual = usual_outage(station, now())
        self.outage = next((o for o in kept if o.id == wanted), kept[0] if kept else usual)
        self.boxes.show_outages(kept or [usual], self.outage)
        self._show_boxes(self.outage)
        if self.answer is not None and self.answer.inputs.station.id != station.id:
            self.answer = None
        self._ask(self.outage)

    def choose(self, outage_id: int | None) -> None:
        """Show another outage of the station."""
        station = self.bench.session.station
        if station is not None and station.id is not None:
            self._ids[station.id] = outage_id
            self.refresh()

    def _show_library(self) -> None:
        found = offered(self.bench.session.yard)
        if found != self.offered:
            self.offered = found
            self.library.show_records([(o.use.name, o.words, o) for o in found])

    def _show_boxes(self, outage: StoredOutage) -> None:
        """What is asked, into the boxes; none of them tells of it."""
        yard = self.bench.session.yard
        solar = [(a.run.id or 0, _run_day(a)) for a in self._solar_runs()]
        site, writable = yard.site(), not yard.read_only
        has_place = site.latitude is not None and site.longitude is not None
        self.boxes.show_outage(outage, solar, yard.arrays(), has_place=has_place, writable=writable)
        for widget in (self.library, self.own_button):
            widget.setEnabled(writable)

    def _show_nothing(self, title: str, words: str, steps: Sequence[str] = ()) -> None:
        self.headline.setText(title)
        self.words.show_cells([])
        self.steps.setVisible(bool(words or steps))
        numbered = [(f"{number}", step) for number, step in enumerate(steps, 1)]
        self.steps.show_cells(hanging([("·", words), *numbered]))
        self.picture.show_picture(None)
        self.boxes.plan_button.setVisible(False)
        self.budget_button.setVisible(False)

    # asking and showing what came

    def _ask(self, outage: StoredOutage, *, is_passing: bool = False) -> None:
        session = self.bench.session
        station = session.station
        if station is None or station.id is None:
            return
        analyses = self.bench.analyses.complete_of(session.station_runs())
        if analyses is None:
            self.answering.withdraw()
            if self.answer is None:  # what is in the picture is of another station
                self._show_nothing(WORKING, "")
            self.headline.setText(WORKING)
            return
        arrays = {a.id: a for a in session.yard.arrays()}
        sun_run = next((a for a in self._solar_runs() if a.run.id == outage.sun_run_id), None)
        self.answering.ask(
            Question(
                outage=outage,
                station=station,
                runs=station_runs(analyses),
                claims=tuple(c.claim for c in session.yard.claims(station.id)),
                site=session.yard.site(),
                arrays=tuple(arrays[i] for i in outage.array_ids if i in arrays),
                sun_run=sun_run,
                tried_run=next((a for a in analyses if a.run.id == outage.run_id), None),
                is_passing=is_passing,
            )
        )

    def _arrived(self, question: Question, found: Found | str) -> None:
        station = self.bench.session.station
        if station is None or question.station.id != station.id:
            return
        if isinstance(found, str):
            self.answer = None
            title = "How long it lasts is not known yet"
            self._show_nothing(title, f"{capitalised(found)}.", _STEPS)
            self.boxes.plan_button.setVisible(not self.bench.session.yard.read_only)
            return
        answer = self.answer = found.answer
        self.steps.setVisible(False)
        self.boxes.plan_button.setVisible(False)
        self.headline.setText(headline(answer))
        tried = found.tried if isinstance(found.tried, Tried) else None
        self.picture.show_picture(picture_of(answer, tried))
        said = [
            *(("!", w) for w in warnings(answer, claimed(question.claims, "surge_w"))),
            *(("=", w) for w in _tried_words(found)),
            *(("·", w) for w in rests_on(answer)),
            *(("!", c) for c in cautions(answer)),
        ]
        self.words.show_cells(hanging(said))
        self.budget_button.setVisible(answer_budget(answer) is not None)

    def _open_budget(self) -> None:
        budget = answer_budget(self.answer) if self.answer is not None else None
        if self.answer is not None and budget is not None:
            BudgetDialog(answer_figure(self.answer), budget, parent=self).exec()

    def _solar_runs(self) -> list[RunAnalysis]:
        """Runs of any station that panels fed, and whose watts are known."""
        runs = [r for r in self.bench.session.yard.runs() if r.has_ended]
        sun = [r for r in runs if r.conditions.arrays]
        return self.bench.analyses.all_of(sun)

    # changing

    def _do(self, act: Callable[[StoredOutage], object]) -> None:
        if self.outage is not None and not self.bench.session.yard.read_only:
            act(self.outage)

    def _keep(self, outage: StoredOutage, text: str) -> None:
        kept = self.outages.keep(outage, text)
        self._ids[kept.station_id] = kept.id
        self.refresh()

    def _keep_boxes(self) -> None:
        """What the boxes say, as one edit."""
        if self.outage is None:
            return
        changed = self.boxes.edited(self.outage, self._pack_wh())
        if changed != self.outage:
            self._keep(changed, f"Change the outage {self.outage.name}")

    def _pack_wh(self) -> float:
        if self.answer is not None:
            return self.answer.inputs.pack_wh
        station = self.bench.session.station
        return station.rated_wh if station is not None else 1.0

    def _put_in(self, found: Offered) -> None:
        self._do(lambda o: self._keep(with_use(o, found.use), f"Put in {found.use.name}"))

    def _ask_new_use(self) -> None:
        self._do(lambda o: self.outages.ask_use(o, None))

    def _runs_with_appliances(self) -> list[RunAnalysis]:
        """Those that were meant for appliances at the end, for they are offered first."""
        found = self.bench.analyses.all_of(self.bench.session.station_runs())
        return sorted(filter(has_appliance, found), key=lambda analysis: not analysis.method.steady)

    def _ask_tried(self, outage: StoredOutage) -> None:
        self.outages.ask_tried(outage, self._runs_with_appliances())

    def _ask_learn(self) -> None:
        self.outages.ask_learn(self._runs_with_appliances())

    def _ask_feed(self, outage: StoredOutage) -> None:
        self.outages.ask_feed(outage, None)

    def _open_lane(self, name: str, kind: str) -> None:
        if kind == "use":
            self._do(lambda o: self.outages.ask_use(o, name))
        elif kind == "feed":
            self._do(lambda o: self.outages.ask_feed(o, name))
        elif kind == "overhead":
            self._do(self.outages.ask)

    def _drag_start(self, hours: float) -> None:
        """The answer follows the hand."""
        if self.outage is not None:
            self._ask(moved(self.outage, hours), is_passing=True)

    def _move_start(self, hours: float) -> None:
        self._do(lambda o: self._keep(moved(o, hours), "Move the start of the outage"))

    def _add_another(self) -> None:
        self._do(lambda o: self._show_added(self.outages.add(o)))

    def _show_added(self, outage: StoredOutage) -> None:
        self.choose(outage.id)


def _tried_words(found: Found) -> list[str]:
    if found.tried is None:
        return []
    if isinstance(found.tried, str):
        return [f"{capitalised(found.tried)}."]
    return tried_words(found.tried, found.answer)


def _filled(widget: QWidget) -> QScrollArea:
    """A picture that fills its place, and scrolls where it has more lanes than fit."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setWidget(widget)
    return area


def _run_day(analysis: RunAnalysis) -> str:
    began = day(local(analysis.run.started_at))
    return f"{analysis.station.name}, run {analysis.run.number}, {began}"
