"""The Plan view: choose the test, see the run to come, go through the checks, start it."""

from collections.abc import Iterator
from datetime import UTC, datetime

from PySide6.QtCore import QSize, QTimer, Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QBoxLayout, QLineEdit, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from yardtoll.bench.instruments import power_meters
from yardtoll.core.formatting import counted
from yardtoll.core.methods.cautions import LOCAL_FIRST
from yardtoll.core.planning.loads import MixResult
from yardtoll.core.planning.mixing import mix_loads
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.plan.checks_panel import ChecksPanel
from yardtoll.desktop.views.plan.choices_form import ChoicesForm
from yardtoll.desktop.views.plan.model import (
    Choices,
    PlanPage,
    Surroundings,
    limits_for,
    plan_page,
    run_plan,
    specs_of,
    target_w,
)
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.widgets.basics import button, label, rule
from yardtoll.desktop.widgets.expected_run import ExpectedRunPicture
from yardtoll.desktop.widgets.whole_width import WholeWidth
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.desktop.workbench.jobs import JobHandle
from yardtoll.desktop.workbench.loading import SOLVER, map_compiled
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.manual.book import method_key
from yardtoll.running.meter_check import MeterCheck, check_meter
from yardtoll.store.records import Load, Meter, Record, Run
from yardtoll.store.site_time import now as now_here

_FORM_W, _BESIDE_BAR = 400, 2
_ABREAST_W = 700
"""Less room has what a plan comes to below the choices."""
_FORM_H = 180
_CLOSE_W, _CLOSE_MARGIN = 450, 12
_PICTURE_H = 126
_PAGE_H = 120
"""So much at least is seen of what a plan comes to, where text is large and the page scrolls."""
_SEARCH_AFTER_MS = 150
_TICK_MS = 20_000


class PlanView(StopView):
    """The test worked out before anything is switched on.

    Signals:
        add_station_asked, add_asked(kind): something is missing.
        started: a run has begun.
        kept(run_id): a plan is on the timetable.
    """

    add_station_asked = Signal()
    add_asked = Signal(str)
    started = Signal()
    kept = Signal(int)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self._station_shown: int | None = -1
        self._confirmed: set[str] = set()
        self.meter_read: tuple[Meter, MeterCheck] | None = None
        self._asked: tuple[object, ...] = ()
        self._job: int | None = None
        self._planned: Run | None = None
        self._around = Surroundings()
        self._page: PlanPage | None = None
        self._is_filling = False

    def _build(self) -> Iterator[None]:
        # Each part is put in its place before it is filled: to style a large one takes long.
        self.form = ChoicesForm()
        self.form.setMinimumWidth(_FORM_W)
        outer = self._outer = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        self._form_area = _FormArea(self.form, margins=(0, 0, _BESIDE_BAR, 0))
        outer.addWidget(self._form_area)
        yield from self.form.building()
        right = QWidget()
        outer.addWidget(right, 1)
        yield from self._build_right(right)
        self.search_timer = QTimer(self, singleShot=True, interval=_SEARCH_AFTER_MS)
        self.search_timer.timeout.connect(self._look_for_loads)
        self._clock = QTimer(self, interval=_TICK_MS)
        self._clock.timeout.connect(self._show_page)
        self.form.changed.connect(self._show_page)
        self.form.power_changed.connect(self._power_changed)
        self.form.method_changed.connect(self._begin_anew)
        self.form.add_asked.connect(self.add_asked)
        self.form.meter_asked.connect(self._ask_meter)

    def _build_right(self, right: QWidget) -> Iterator[None]:
        """What to expect and the checks; the start is always in sight below them."""
        whole = QVBoxLayout(right)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(8)
        page = QWidget()
        scroll = self._page_area = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(page)
        # What it asks for is what was in it when it was first asked, which may be little or much.
        scroll.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Ignored)
        whole.addWidget(scroll, 1)
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 8, 0)
        column.setSpacing(8)
        self.headline = label("", "title", wrap=True)
        self._basis = label("", "muted", wrap=True)
        self._picture = ExpectedRunPicture()
        self._picture.setFixedHeight(_PICTURE_H)
        self._facts = label("", "quiet", wrap=True)
        for widget in (self.headline, self._basis, self._picture, self._facts, rule()):
            column.addWidget(widget)
        self.verdict_label = label("", "heading", wrap=True)
        column.addWidget(self.verdict_label)
        self.checks = ChecksPanel()
        self.checks.ticked.connect(self._tick)
        column.addWidget(self.checks)
        column.addStretch(1)
        yield
        whole.addLayout(self._make_start())
        yield

    def _make_start(self) -> QVBoxLayout:
        foot = QVBoxLayout()
        self.reason = QLineEdit()
        self.reason.setPlaceholderText("Start anyway, because…")
        self.reason.setAccessibleName("Why to start anyway; the run keeps it")
        self.reason.textChanged.connect(self._show_page)
        foot.addWidget(self.reason)
        row = WrappedRow(6)
        self.start_button = button("Start the run", self._start_run, "primary")
        self.keep_button = button("Keep the plan for later", self._keep_plan)
        self.drop_button = button("Take the plan back", self._drop_plan)
        self._add_station = button("Add a station…", self.add_station_asked.emit)
        for made in (self.start_button, self.keep_button, self.drop_button, self._add_station):
            row.addWidget(made)
        foot.addLayout(row)
        return foot

    def fit(self) -> None:
        # The form is no wider with large text: its lists are cut, and words in them wrap.
        is_below = self.stack_below(_ABREAST_W / theme.scale, self._outer)
        is_close = is_below or self.place_width < scaled(_CLOSE_W)
        margin = _CLOSE_MARGIN if is_close else MARGIN
        self._outer.setContentsMargins(margin, 20, margin, 12)
        self._outer.setSpacing(12 if is_close else 24)
        self._outer.setStretch(0, 1 if is_below else 0)
        self._form_area.setMinimumHeight(_FORM_H if is_below else 0)
        policy = QSizePolicy.Policy
        self._form_area.setSizePolicy(
            policy.Expanding if is_below else policy.Fixed, policy.Ignored
        )
        self._page_area.setMinimumHeight(scaled(_PAGE_H))

    # what is shown

    def refresh(self) -> None:
        yard = self.bench.session.yard
        station = self.bench.session.station
        # Each field that is filled would have the whole plan worked out anew.
        self._is_filling = True
        try:
            self.form.show_bench(
                power_meters(yard.meters_by_use()), yard.cords(), yard.circuits(), yard.arrays()
            )
            if self._station_shown != (station.id if station else None):
                self._station_shown = station.id if station else None
                self._begin_anew()
                self._note_as_before()
        finally:
            self._is_filling = False
        self._around = self._look_around()
        self._power_changed()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._clock.start()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._clock.stop()

    def show_run(self, run_id: int) -> None:
        """Take a planned run up again, to start it or change it."""
        run = self.bench.session.yard.get(Run, run_id)
        self.bench.session.choose_station(run.station_id)
        self._touch()
        self.form.methods.setCurrentIndex(max(self.form.methods.findData(run.method), 0))
        size = self.form.sizes.findData(run.conditions.size)
        self.form.sizes.setCurrentIndex(max(size, 0))
        if self.form.chosen_size.asks_w and run.target_w:
            self.form.asked_w.setValue(run.target_w)
        self.form.soc_from.setValue(run.soc_from)
        self.form.soc_to.setValue(run.soc_to)
        self.form.note_settings(run.conditions.settings)
        meant_for = datetime.fromisoformat(run.started_at)
        self.form.start_later(meant_for if meant_for > datetime.now(UTC) else None)
        self._planned = run
        self._show_page()

    def help_page(self) -> str:
        return self.method_page() if self.form.methods.hasFocus() else super().help_page()

    def method_page(self) -> str:
        return method_key(self.form.chosen_method.key)

    def choose_method(
        self, method: str, watts: float | None = None, at: datetime | None = None
    ) -> None:
        """Plan a run of a method, at certain watts where they are asked for, for a moment to come.

        Args:
            at: aware; None for now.
        """
        self.refresh()
        self.form.methods.setCurrentIndex(max(self.form.methods.findData(method), 0))
        given = next((size.key for size in self.form.chosen_method.sizes if size.asks_w), "")
        if watts and given:
            self.form.sizes.setCurrentIndex(self.form.sizes.findData(given))
            self.form.asked_w.setValue(watts)
        self.form.start_later(at)

    def choose_new(self, record: Record) -> None:
        """Choose what was just added."""
        self.refresh()
        form = self.form
        if isinstance(record, Load):
            self.form.choose_load(record)
            return
        for box in (form.meters, form.cords, form.circuits, form.panels):
            at = next((i for i in range(box.count()) if box.itemData(i) == record), -1)
            if at >= 0:
                box.setCurrentIndex(at)
        self._power_changed()

    def choices(self) -> Choices:
        """What is chosen now."""
        form = self.form
        return Choices(
            station=self.bench.session.station,
            method=form.chosen_method,
            size=form.chosen_size,
            asked_w=form.asked_w.value(),
            mix=form.mix,
            meter=form.meters.currentData(),
            cord=form.cords.currentData(),
            circuit=form.circuits.currentData(),
            array=form.panels.currentData() if "sun" in form.chosen_method.key else None,
            soc=(form.soc_from.value(), form.soc_to.value()),
            temperature_c=form.temperature_c(),
            starts_at=form.starts_at(),
            settings=form.noted_settings(),
            confirmed=frozenset(self._confirmed),
            meter_reads=self._reads_of(form.meters.currentData()),
            reason=self.reason.text(),
        )

    def page(self) -> PlanPage:
        """What the view says now."""
        return plan_page(self.choices(), self._around, now_here())

    def _look_around(self) -> Surroundings:
        session = self.bench.session
        yard, station = session.yard, session.station
        found = Surroundings(
            loads=tuple(yard.loads()),
            arrays=tuple(yard.arrays()),
            site=yard.site(),
            busy_meters=self.bench.busy_meters(),
            read_only=yard.read_only,
        )
        if station is None or station.id is None:
            return found
        ended = self.bench.last_ended_at(station)
        earlier = self.bench.earlier_runs(station)
        rested = datetime.now(UTC) - datetime.fromisoformat(ended) if ended else None
        return Surroundings(
            claims=tuple(c.claim for c in yard.claims(station.id)),
            loads=found.loads,
            arrays=found.arrays,
            earlier=earlier or (),
            awaits_runs=earlier is None,
            receiving=yard.receiving(station.id),
            site=found.site,
            rested_s=rested.total_seconds() if rested else None,
            busy_meters=found.busy_meters,
            read_only=found.read_only,
        )

    def _show_page(self) -> None:
        if self._is_filling or not hasattr(self, "verdict_label"):
            return
        page = self._page = self.page()
        choices = self.choices()
        self.headline.setText(page.headline)
        self._basis.setText(page.basis)
        station = choices.station
        begins = choices.starts_at or now_here()
        shown = page.expected if station is not None else None
        limit = station.rated_w if station and choices.method.delivers else None
        kind = choices.method.energy
        is_now = choices.starts_at is None
        self._picture.show_plan((begins, is_now, shown, limit, kind) if shown else None)
        self._facts.setText("\n".join(page.facts))
        self._facts.setVisible(bool(page.facts))
        cautions = (*choices.method.cautions, LOCAL_FIRST)
        self.checks.show_checks(page.checks, {"cautions": "\n".join(cautions)})
        self._show_verdict(page)
        self._add_station.setVisible(station is None)

    def _show_verdict(self, page: PlanPage) -> None:
        left = sum(check.stops for check in page.checks)
        if not left:
            self.verdict_label.setText("Ready: every check passed")
        else:
            self.verdict_label.setText(f"Not ready: {counted(left, 'check')} open")
        self.reason.setVisible(page.can_override)
        self.start_button.setEnabled(page.can_start)
        self.start_button.setText("Start anyway" if page.can_override else "Start the run")
        self.drop_button.setVisible(self._planned is not None)
        self.keep_button.setText(
            "Keep the changed plan" if self._planned else "Keep the plan for later"
        )
        self.keep_button.setEnabled(
            page.expected is not None
            and self.form.meters.currentData() is not None
            and not self._around.read_only
        )

    # loads that give the power

    def _power_changed(self) -> None:
        if self._is_filling or not hasattr(self, "search_timer"):
            return
        self.form.show_target(target_w(self.choices()))
        self.search_timer.start()
        self._show_page()

    def _look_for_loads(self) -> None:
        """Find the loads on a worker; an answer to an older question is dropped."""
        choices = self.choices()
        target, specs = target_w(choices), specs_of(self._around.loads)
        if not target or not specs or choices.size.key == "real":
            self._asked = ()
            self.form.show_mixes(None)
            return
        limits = limits_for(choices, self._around.claims)
        question = (target, tuple(specs), limits)
        if question == self._asked:
            return
        self._asked = question
        if self._job is not None:
            self.bench.jobs.cancel(self._job)

        def work(_: JobHandle) -> MixResult:
            map_compiled(SOLVER)
            return mix_loads(target, specs, limits)

        self._job = self.bench.jobs.start(
            "Looking for loads", work, self.form.show_mixes, self._no_loads
        )

    def _no_loads(self, error: Exception) -> None:
        self.form.show_mixes(None, f"{error}.")

    # doing

    def _begin_anew(self) -> None:
        """Another station or method: nothing is confirmed yet."""
        self._confirmed.clear()
        self.meter_read = None
        self._planned = None
        if hasattr(self, "checks"):
            self.checks.clear_ticks()
            self.reason.clear()
            self.form.start_later(None)

    def _note_as_before(self) -> None:
        """Begin with the settings noted at this station's last run."""
        noted = [
            run.conditions.settings
            for run in self.bench.session.station_runs()
            if run.conditions.settings
        ]
        self.form.note_settings(noted[-1] if noted else {})
        site_c = self.bench.session.yard.site().temperature_c
        if site_c is not None and not self.form.temperature.text():
            self.form.show_temperature(site_c)

    def _tick(self, key: str, is_on: bool) -> None:
        (self._confirmed.add if is_on else self._confirmed.discard)(key)
        self._show_page()

    def _ask_meter(self) -> None:
        meter = self.form.meters.currentData()
        if meter is None or meter.id in self.bench.busy_meters():
            return
        self.bench.jobs.start(
            f"Asking {meter.name}",
            lambda _: check_meter(meter),
            lambda look: self._meter_said(meter, look),
            lambda error: self.bench.trouble.emit(f"{meter.name} does not answer: {error}."),
        )

    def _meter_said(self, meter: Meter, look: MeterCheck) -> None:
        self.meter_read = (meter, look)
        self._show_page()

    def _reads_of(self, meter: Meter | None) -> tuple[float, float] | None:
        """W and Wh of the chosen meter; what another one said does not count."""
        if self.meter_read is None or self.meter_read[0] != meter:
            return None
        look = self.meter_read[1]
        return look.power_w, look.energy_wh

    def _start_run(self) -> None:
        page = self.page()
        if not page.can_start:
            return
        plan = run_plan(self.choices(), self._around, page)
        planned = self._planned
        if self.bench.start_run(plan, planned):
            self._begin_anew()
            self.started.emit()

    def _keep_plan(self) -> None:
        page = self.page()
        if page.expected is None or self.bench.session.station is None:
            return
        plan = run_plan(self.choices(), self._around, page)
        at = self.form.starts_at() or datetime.now(UTC)
        before, self._planned = self._planned, None
        if before is not None:
            if self.form.starts_at() is None:  # one that was due stays where it was
                at = min(at, datetime.fromisoformat(before.started_at))
            with self.bench.session.together("Change a plan"):
                self.bench.session.remove_plan(before)
                kept = self.bench.keep_plan(plan, at)
        else:
            kept = self.bench.keep_plan(plan, at)
        self._begin_anew()
        self.kept.emit(kept.id or 0)

    def _drop_plan(self) -> None:
        planned, self._planned = self._planned, None
        if planned is not None:
            self.bench.session.remove_plan(planned)
        self._show_page()


class _FormArea(WholeWidth):
    """As wide as the form has to be, whatever room there is."""

    def __init__(self, form: QWidget, *, margins: tuple[int, int, int, int]) -> None:
        super().__init__(form, margins=margins)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Ignored)

    def sizeHint(self) -> QSize:
        return self.minimumSizeHint().expandedTo(QSize(0, super().sizeHint().height()))
