"""The Sun view: the array against the input, the coming days, and the solar runs."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from datetime import datetime
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton, QStackedWidget, QVBoxLayout, QWidget

from yardtoll.core.methods import METHODS
from yardtoll.core.planning.inputs import claimed
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.views.sun.days_page import DaysPanel
from yardtoll.desktop.views.sun.run_page import SolarPanel
from yardtoll.desktop.views.sun.wiring_page import WiringPanel
from yardtoll.desktop.widgets.basics import button, choice, label, refill, scrolled
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.review.kinds.solar.outcome import sunlight_in
from yardtoll.review.kinds.solar.page import solar_page
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import station_runs
from yardtoll.review.sun.wiring import wiring_page
from yardtoll.store.records import Run, Site, SolarArray
from yardtoll.store.shown_region import clock
from yardtoll.store.site_time import local
from yardtoll.store.site_time import now as now_here

if TYPE_CHECKING:
    from yardtoll.review.sun.days import SunOutlook

_ABREAST_W, _SIDE_H = 640, 200
"""Less room has what is said below the picture, so high at least."""
WIRING, DAYS, RUNS = "wiring", "days", "runs"
_PANELS_PLANE = "poa"
_PLANES = {_PANELS_PLANE: "sensor as the panels", "ghi": "sensor level"}
_TITLES = {WIRING: "Before you connect", DAYS: "The coming days", RUNS: "Solar runs"}


class SunView(StopView):
    """Three pages on one array: may it be connected, what should it give, what did it give.

    Signals:
        add_array_asked, site_asked, import_asked: what to do next.
        plan_asked(at): plan a solar run for a local moment; None for now.
        edit_array_asked(array): change the panels.
        irradiance_asked(run): lay an irradiance log beside a run.
    """

    add_array_asked = Signal()
    edit_array_asked = Signal(object)
    site_asked = Signal()
    irradiance_asked = Signal(object)
    import_asked = Signal()
    plan_asked = Signal(object)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self.shown = WIRING
        self.run_id: int | None = None
        self._turn_hours: tuple[int, ...] | None = None
        self._outlook: tuple[object, SunOutlook] | None = None
        self._asked: object = None

    def _build(self) -> Iterator[None]:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(MARGIN, 20, MARGIN, 14)
        layout.setSpacing(8)
        self.headline = label("", "title", wrap=True)
        layout.addWidget(self.headline)
        layout.addLayout(self._make_choices())
        self._stack = QStackedWidget()
        layout.addWidget(self._stack, 1)
        yield
        self.wiring = WiringPanel()
        self._stack.addWidget(self.wiring)
        yield
        self.days = DaysPanel()
        self.days.plan_asked.connect(self.plan_asked)
        self.days.turns_changed.connect(self._turn_at)
        self._stack.addWidget(self.days)
        yield
        self.solar = SolarPanel()
        self.solar.budget_asked.connect(self._open_budget)
        self.solar.run_chosen.connect(self.show_run)
        self._stack.addWidget(scrolled(self.solar))
        self._stack.addWidget(self._make_empty())

    # building

    def _make_choices(self) -> QVBoxLayout:
        row = WrappedRow(16)
        self._tabs: dict[str, QPushButton] = {}
        for key, title in _TITLES.items():
            tab = button(title, partial(self.choose_page, key), "tab")
            tab.setCheckable(True)
            self._tabs[key] = tab
            row.addWidget(tab)
        row.rest_to_the_right()
        self._edit = button("Edit the panels…", self._ask_edit)
        row.addWidget(self._edit)
        row.addWidget(button("Add panels…", self.add_array_asked.emit))
        row.addWidget(button("The site…", self.site_asked.emit))
        rows = QVBoxLayout()
        rows.setSpacing(8)
        rows.addLayout(row)
        rows.addLayout(self._make_panels())
        return rows

    def _make_panels(self) -> WrappedRow:
        """Which run, and which panels."""
        row = WrappedRow(10)
        self._runs = choice("Solar run shown")
        self._runs.setMinimumContentsLength(18)
        self._runs.activated.connect(lambda _: self.show_run(self._runs.currentData()))
        row.addWidget(self._runs)
        self._by = label("", "muted")
        self.first_array, self._second = choice("Panels"), choice("Panels beside them")
        self._and = label("and", "muted")
        for box in (self.first_array, self._second):
            box.setMinimumContentsLength(15)
            box.activated.connect(lambda _: self.arrays_chosen())
        row.addWidget(self._by)
        row.addWidget(self.first_array)
        row.addWidget(self._and)
        row.addWidget(self._second)
        row.rest_to_the_right()
        self.plane_choice = choice(
            "How the sensor lay", [(words, key) for key, words in _PLANES.items()]
        )
        self.plane_choice.setMinimumContentsLength(15)
        self.plane_choice.activated.connect(lambda _: self.plane_chosen())
        row.addWidget(self.plane_choice)
        self.irradiance_button = button("Irradiance log…", self._ask_irradiance)
        self.irradiance_button.setToolTip("Lay the file of an irradiance logger beside this run")
        row.addWidget(self.irradiance_button)
        return row

    def _make_empty(self) -> QWidget:
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(0, 0, 0, 0)
        self._empty_words = label("", "quiet", wrap=True)
        layout.addWidget(self._empty_words)
        row = WrappedRow(6)
        self.empty_buttons = {
            "array": button("Add the panels…", self.add_array_asked.emit, "primary"),
            "site": button("Enter the bench's place…", self.site_asked.emit, "primary"),
            "plan": button("Plan a solar run", lambda: self.plan_asked.emit(None), "primary"),
            "import": button("Import a log…", self.import_asked.emit),
        }
        for made in self.empty_buttons.values():
            row.addWidget(made)
        layout.addLayout(row)
        layout.addStretch(1)
        return page

    # showing

    def choose_page(self, key: str) -> None:
        """Show one of the pages: WIRING, DAYS or RUNS."""
        self.shown = key
        self.refresh()

    def show_run(self, run_id: int) -> None:
        """Show a certain solar run."""
        self.run_id = run_id
        self.shown = RUNS
        run = self.bench.session.yard.get(Run, run_id)
        self.bench.session.choose_station(run.station_id)
        self.refresh()

    def refresh(self) -> None:
        yard = self.bench.session.yard
        arrays, runs = yard.arrays(), self._solar_runs()
        for key, tab in self._tabs.items():
            tab.setChecked(key == self.shown)
        by_run = self.shown == RUNS
        if by_run and runs:
            if self.run_id not in [run.id for run in runs]:
                self.run_id = runs[-1].id
            refill(self._runs, [(_run_words(run), run.id) for run in runs])
            self._runs.setCurrentIndex(self._runs.findData(self.run_id))
        self._runs.setVisible(by_run and bool(runs))
        self.irradiance_button.setVisible(by_run and bool(runs) and not yard.read_only)
        self.plane_choice.setVisible(False)
        self.plane_choice.setEnabled(not yard.read_only)
        self._fill_arrays(arrays, self._run() if by_run else None)
        pages = {WIRING: self._show_wiring, DAYS: self._show_days, RUNS: self._show_run}
        pages[self.shown]()

    def _fill_arrays(self, arrays: Sequence[SolarArray], run: Run | None) -> None:
        named = [(array.name, array.id) for array in arrays]
        refill(self.first_array, list(named))
        refill(self._second, [("nothing beside", None), *named])
        if run is not None:
            fed = run.conditions.arrays or tuple(a.id for a in arrays[:1] if a.id is not None)
            for box, ids in ((self.first_array, fed[:1]), (self._second, fed[1:2])):
                box.setCurrentIndex(max(box.findData(ids[0]) if ids else 0, 0))
        self._by.setText("fed by" if run is not None else "Panels")
        self._by.setVisible(bool(arrays))
        self.first_array.setVisible(bool(arrays))
        self._edit.setVisible(bool(arrays))
        self._and.setVisible(len(arrays) > 1)
        self._second.setVisible(len(arrays) > 1)
        frozen = self.bench.session.yard.read_only and run is not None
        self.first_array.setEnabled(not frozen)
        self._second.setEnabled(not frozen)

    def choose_panels(self, index: int, beside: int = 0) -> None:
        """Choose panels by their place in the lists."""
        self.first_array.setCurrentIndex(index)
        self._second.setCurrentIndex(beside)
        self.arrays_chosen()

    def arrays(self) -> list[SolarArray]:
        """The chosen panels, and those beside them."""
        by_id = {array.id: array for array in self.bench.session.yard.arrays()}
        ids = dict.fromkeys((self.first_array.currentData(), self._second.currentData()))
        return [by_id[key] for key in ids if key in by_id]

    def _show_wiring(self) -> None:
        session = self.bench.session
        station = session.station
        claims = (
            [stored.claim for stored in session.yard.claims(station.id)]
            if station is not None and station.id is not None
            else []
        )
        receiving = session.yard.receiving(station.id) if station and station.id else None
        page = wiring_page(self.arrays(), claims, session.yard.site(), receiving)
        self.headline.setText(page.headline)
        if not self.arrays():
            self._show_empty(
                "From your panels' label the program works out whether they may be connected, what "
                "they should give, and why they gave less.",
                "array",
            )
            return
        self.wiring.show_page(page)
        self._stack.setCurrentIndex(0)

    def _show_days(self) -> None:
        arrays, site = self.arrays(), self.bench.session.yard.site()
        if not arrays:
            self.headline.setText("No panels yet")
            self._show_empty("What the coming days give depends on the panels.", "array")
            return
        if site.latitude is None or site.longitude is None:
            self.headline.setText("Where is the bench?")
            self._show_empty("The sun's path needs the site's latitude and longitude.", "site")
            return
        now = now_here()
        key = (tuple(arrays), site, self._turn_hours, now.date(), now.hour, self._cap_w())
        self._stack.setCurrentIndex(1)
        if self._outlook is not None and self._outlook[0] == key:
            self.headline.setText(_days_headline(self._outlook[1]))
            self.days.show_outlook(self._outlook[1], now)
            return
        self.headline.setText("The coming days")
        self.days.show_outlook(None, now)
        self._ask_outlook(key, arrays, site, now)

    def _ask_outlook(
        self, key: object, arrays: list[SolarArray], site: Site, now: datetime
    ) -> None:
        """Work the week out on a worker: the sun's models take a while to load."""
        if self._asked == key:
            return
        self._asked, cap_w, hours = key, self._cap_w(), self._turn_hours

        def work(_: object) -> "SunOutlook":
            from yardtoll.review.sun.arrays import parts_of
            from yardtoll.review.sun.days import outlook

            return outlook(parts_of(site, arrays, cap_w), now, now.date(), hours)

        self.bench.jobs.start(
            "Working the sun out",
            work,
            lambda found: self._arrived(key, found),
            self._failed,
        )

    def _arrived(self, key: object, found: "SunOutlook") -> None:
        self._outlook, self._asked = (key, found), None
        if self.shown == DAYS:
            self._touch()

    def _failed(self, error: Exception) -> None:
        self._asked = None
        self.bench.trouble.emit(f"The sun could not be worked out: {error}")

    def _cap_w(self) -> float | None:
        """What the station is claimed to take."""
        session = self.bench.session
        if session.station is None or session.station.id is None:
            return None
        claims = [stored.claim for stored in session.yard.claims(session.station.id)]
        return claimed(claims, "solar_w")

    def _show_run(self) -> None:
        runs = self._solar_runs()
        if not runs:
            self.headline.setText("No solar run yet")
            self._show_empty(
                "A recharge from the sun, recorded or read from a log, shows here what it gave and "
                "what limited it. With a column of irradiance in the log, clouds and panels can be "
                "separated.",
                "plan",
                "import",
            )
            return
        found = self.bench.analyses.all_of(self.bench.session.station_runs())
        analysis = next((a for a in found if a.run.id == self.run_id), None)
        light = sunlight_in(analysis) if analysis is not None else None
        if analysis is None or light is None:
            self.headline.setText("Working the run out…" if analysis is None else _why(analysis))
            self._show_empty("" if analysis is None else analysis.problem)
            return
        station = self.bench.session.station
        assert station is not None
        assert station.id is not None
        claims = [stored.claim for stored in self.bench.session.yard.claims(station.id)]
        page = solar_page(analysis, station_runs(found), claims)
        self.headline.setText(page.headline)
        self.solar.fit(self.height())
        self.solar.show_page(page, light.run, local(analysis.run.started_at))
        self.plane_choice.setVisible(light.light == "sensor")
        plane = analysis.run.conditions.sensor_plane or _PANELS_PLANE
        self.plane_choice.setCurrentIndex(max(self.plane_choice.findData(plane), 0))
        self._stack.setCurrentIndex(2)

    def _show_empty(self, words: str, *wanted: str) -> None:
        self._empty_words.setText(words)
        for key, made in self.empty_buttons.items():
            made.setVisible(key in wanted)
        self._stack.setCurrentIndex(3)

    def fit(self) -> None:
        rows = self.wiring.row, self.days.row, self.solar.foot
        is_narrow = self.stack_below(_ABREAST_W, *rows)
        for page in (self.wiring, self.days):
            page.side.setMinimumHeight(scaled(_SIDE_H) if is_narrow else 0)
        self.solar.fit(self.height())

    # acting

    def _solar_runs(self) -> list[Run]:
        runs = self.bench.session.station_runs()
        return [run for run in runs if run.has_ended and METHODS[run.method].uses_panels]

    def _run(self) -> Run | None:
        return next((run for run in self._solar_runs() if run.id == self.run_id), None)

    def arrays_chosen(self) -> None:
        """On a run's page the choice says which panels fed it; else it is only what is shown."""
        run = self._run() if self.shown == RUNS else None
        ids = tuple(array.id for array in self.arrays() if array.id is not None)
        if run is not None and run.conditions.arrays != ids:
            fed = replace(run, conditions=replace(run.conditions, arrays=ids))
            self.bench.session.edit(fed, f"Say which panels fed run {run.number}")
        else:
            self.refresh()

    def plane_chosen(self) -> None:
        """How the irradiance sensor of the run lay."""
        run, plane = self._run(), self.plane_choice.currentData()
        if run is not None and (run.conditions.sensor_plane or _PANELS_PLANE) != plane:
            lain = replace(run, conditions=replace(run.conditions, sensor_plane=plane))
            self.bench.session.edit(lain, f"Say how the sensor of run {run.number} lay")

    def _turn_at(self, hours: tuple[int, ...]) -> None:
        if hours != self._turn_hours:
            self._turn_hours = hours
            self.refresh()

    def _ask_edit(self) -> None:
        chosen = self.arrays()
        if chosen:
            self.edit_array_asked.emit(chosen[0])

    def _ask_irradiance(self) -> None:
        if run := self._run():
            self.irradiance_asked.emit(run)

    def _open_budget(self, figure: str, budget: Budget) -> None:
        BudgetDialog(figure, budget, parent=self).exec()


def _run_words(run: Run) -> str:
    return f"Run {run.number} · {local(run.started_at):%-d %b} {clock(local(run.started_at))}"


def _days_headline(outlook: "SunOutlook") -> str:
    best = max(outlook.days, key=lambda d: d.clear.expected_wh)
    today = outlook.days[0]
    if best.clear.expected_wh <= 0:
        return "The sun does not reach the panels in the coming days"
    return f"A clear day gives {today.clear.expected_wh:.0f} Wh with these panels"


def _why(analysis: RunAnalysis) -> str:
    return f"Run {analysis.run.number} says nothing about the sun"
