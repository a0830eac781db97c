"""The Plan view: choose load and meter, see the run to come, start it."""

from datetime import datetime, timedelta

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from yardtoll.core.cautions import LOCAL_FIRST
from yardtoll.core.methods import DISCHARGE_TO_EMPTY
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.plan.model import Check, PlannedRun, plan_discharge
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.widgets.basics import (
    button,
    choice,
    hanging_list,
    label,
    number_box,
    refill,
    rule,
)
from yardtoll.desktop.widgets.expected_run import ExpectedRun
from yardtoll.desktop.workbench import Workbench
from yardtoll.store.records import Load, Meter

_FORM_W = 416
_PICTURE_H = 400
STANDARD_C_RATE = 0.2
"""Common standard rate for capacity; IEC 61960 uses it for cells (common practice)."""


class PlanView(StopView):
    """The test worked out before anything is switched on.

    Signals:
        add_station_asked, add_load_asked, add_meter_asked: something is missing.
        started: a run has begun.
    """

    title = "Plan"
    add_station_asked = Signal()
    add_load_asked = Signal()
    add_meter_asked = Signal()
    started = Signal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self._station_shown: int | None = None
        outer = QHBoxLayout(self)
        outer.setContentsMargins(MARGIN, 22, MARGIN, 16)
        outer.setSpacing(24)
        form = QWidget()
        form.setFixedWidth(_FORM_W)
        column = self._make_form()
        column.setContentsMargins(0, 0, 0, 0)
        form.setLayout(column)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFixedWidth(_FORM_W + 16)
        scroll.setWidget(form)
        outer.addWidget(scroll)
        outer.addLayout(self._make_picture(), 1)

    def _make_form(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(10)
        column.addWidget(label(DISCHARGE_TO_EMPTY.title, "title"))
        aim = label(DISCHARGE_TO_EMPTY.aim, "quiet", wrap=True)
        column.addWidget(aim)
        grid = QGridLayout()
        grid.setVerticalSpacing(8)
        grid.setHorizontalSpacing(10)
        self._load = choice("Load")
        self._meter = choice("Meter")
        self._load.activated.connect(self._show_plan)
        self._meter.activated.connect(self._show_plan)
        self._soc_from = number_box("From state of charge", "%", 1, 100, 100)
        self._soc_to = number_box("To state of charge", "%", 0, 99, 0)
        for box in (self._soc_from, self._soc_to):
            box.valueChanged.connect(self._show_plan)
        add_load = button("Add…", self.add_load_asked.emit, name="Add a load")
        add_meter = button("Add…", self.add_meter_asked.emit, name="Add a meter")
        for row, (name, field, extra) in enumerate(
            (("Load", self._load, add_load), ("Meter", self._meter, add_meter))
        ):
            grid.addWidget(label(name, "strong"), row, 0)
            grid.addWidget(field, row, 1)
            grid.addWidget(extra, row, 2)
        window = QHBoxLayout()
        window.setSpacing(10)
        window.addWidget(self._soc_from, 1)
        window.addWidget(label("to", "strong"))
        window.addWidget(self._soc_to, 1)
        grid.addWidget(label("From", "strong"), 2, 0)
        grid.addLayout(window, 2, 1, 1, 2)
        grid.setColumnStretch(1, 1)
        column.addLayout(grid)
        column.addSpacing(4)
        column.addWidget(rule())
        column.addWidget(label("Before you start", "heading"))
        steps = [(str(i), step) for i, step in enumerate(DISCHARGE_TO_EMPTY.steps, start=1)]
        column.addWidget(hanging_list(steps))
        column.addSpacing(4)
        column.addWidget(rule())
        column.addWidget(label("Take care", "heading"))
        cautions = [("!", caution) for caution in (*DISCHARGE_TO_EMPTY.cautions, LOCAL_FIRST)]
        column.addWidget(hanging_list(cautions))
        column.addStretch(1)
        return column

    def _make_picture(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(10)
        self._headline = label("", "title", wrap=True)
        self._basis = label("", "muted", wrap=True)
        column.addWidget(self._headline)
        column.addWidget(self._basis)
        self._picture = ExpectedRun()
        self._picture.setMaximumHeight(_PICTURE_H)
        column.addWidget(self._picture, 3)
        self._checks = QVBoxLayout()
        self._checks.setSpacing(3)
        column.addLayout(self._checks)
        row = QHBoxLayout()
        self.start_button = button("Start the run", self._start_run, "primary")
        self._add_station = button("Add a station…", self.add_station_asked.emit)
        row.addWidget(self.start_button)
        row.addWidget(self._add_station)
        row.addStretch(1)
        column.addLayout(row)
        column.addStretch(1)
        return column

    def refresh(self) -> None:
        yard = self.bench.session.yard
        loads: list[tuple[str, object]] = [
            (f"{found.name} · {found.watts:g} W", found) for found in yard.loads()
        ]
        meters: list[tuple[str, object]] = [(found.name, found) for found in yard.meters()]
        nothing_chosen = self._load.currentIndex() < 0
        refill(self._load, loads)
        if nothing_chosen or self._station_shown != self._station_id():
            self._choose_usual_load(yard.loads())
        refill(self._meter, meters)
        self._show_plan()

    def _station_id(self) -> int | None:
        station = self.bench.session.station
        return station.id if station else None

    def _choose_usual_load(self, loads: list[Load]) -> None:
        """Begin with the load nearest to the standard rate of 0.2 C."""
        station = self.bench.session.station
        self._station_shown = self._station_id()
        if station is not None and loads:
            target_w = STANDARD_C_RATE * station.rated_wh
            nearest = min(loads, key=lambda load: abs(load.watts - target_w))
            self._load.setCurrentIndex(loads.index(nearest))

    def choose_load(self, load: Load) -> None:
        """Choose a load, such as the one just added."""
        self._choose(self._load, load)

    def choose_meter(self, meter: Meter) -> None:
        """Choose a meter, such as the one just added."""
        self._choose(self._meter, meter)

    def planned(self) -> PlannedRun:
        """The plan as chosen now."""
        station = self.bench.session.station
        return plan_discharge(
            station,
            self._load.currentData(),
            self._meter.currentData(),
            (self._soc_from.value(), self._soc_to.value()),
            self.bench.earlier_wh(station) if station else (),
            busy=self.bench.live is not None,
            read_only=self.bench.session.yard.read_only,
        )

    def _choose(self, box: object, record: object) -> None:
        self.refresh()
        position = next((i for i in range(box.count()) if box.itemData(i) == record), -1)  # type: ignore[attr-defined]
        if position >= 0:
            box.setCurrentIndex(position)  # type: ignore[attr-defined]
        self._show_plan()

    def _show_plan(self) -> None:
        plan = self.planned()
        station = self.bench.session.station
        load = self._load.currentData()
        self._add_station.setVisible(station is None)
        self.start_button.setEnabled(plan.can_start)
        now = datetime.now().astimezone()
        forecast = plan.forecast
        if forecast is None or station is None:
            self._headline.setText(plan.sentence)
            self._basis.setText("Choose a station, a load and a meter.")
            self._picture.show_plan(None)
        else:
            back = now + timedelta(seconds=forecast.earliest_s)
            self._headline.setText(f"{plan.sentence} – be back at {back:%H:%M}")
            self._basis.setText(
                f"{load.watts / station.rated_wh:.2f} C · {plan.expected_wh:.0f} Wh expected, "
                f"going by {forecast.basis} · ends when {DISCHARGE_TO_EMPTY.ends_when}"
            )
            self._picture.show_plan((now, load.watts, station.rated_w, forecast))
        self._show_checks(plan.checks)

    def _show_checks(self, checks: tuple[Check, ...]) -> None:
        while (item := self._checks.takeAt(0)) is not None:
            if widget := item.widget():
                widget.deleteLater()
        for check in checks:
            sign = "✓" if check.good else "✕" if check.stops else "!"
            role = "bad" if check.stops else ""
            self._checks.addWidget(hanging_list([(sign, check.text)], role))

    def _start_run(self) -> None:
        station = self.bench.session.station
        if station is None or not self.planned().can_start:
            return
        self.bench.start_run(
            station,
            self._meter.currentData(),
            self._load.currentData(),
            (self._soc_from.value(), self._soc_to.value()),
        )
        if self.bench.live is not None:
            self.started.emit()
