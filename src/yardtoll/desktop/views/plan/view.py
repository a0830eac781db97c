"""The Plan view: choose load and meter, see the run to come, start it."""

from datetime import datetime, timedelta

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from yardtoll.core.cautions import LOCAL_FIRST
from yardtoll.core.methods import DISCHARGE_TO_EMPTY
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.plan.model import Check, PlannedRun, plan_discharge
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.widgets.basics import button, choice, label, number_box, refill, rule
from yardtoll.desktop.widgets.expected_run import ExpectedRun
from yardtoll.desktop.workbench import Workbench
from yardtoll.store.records import Load, Meter

_FORM_W = 380


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
        outer = QHBoxLayout(self)
        outer.setContentsMargins(MARGIN, 22, MARGIN, 16)
        outer.setSpacing(36)
        outer.addLayout(self._make_form())
        outer.addLayout(self._make_picture(), 1)

    def _make_form(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(10)
        column.addWidget(label(DISCHARGE_TO_EMPTY.title, "title"))
        aim = label(DISCHARGE_TO_EMPTY.aim, "quiet", wrap=True)
        aim.setFixedWidth(_FORM_W)
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
        window.addWidget(self._soc_from)
        window.addWidget(label("to"))
        window.addWidget(self._soc_to)
        grid.addWidget(label("From", "strong"), 2, 0)
        grid.addLayout(window, 2, 1, 1, 2)
        grid.setColumnStretch(1, 1)
        column.addLayout(grid)
        column.addSpacing(4)
        column.addWidget(rule())
        column.addWidget(label("Before you start", "heading"))
        steps = "\n".join(f"{i}   {s}" for i, s in enumerate(DISCHARGE_TO_EMPTY.steps, start=1))
        said = label(steps, "quiet", wrap=True)
        said.setFixedWidth(_FORM_W)
        column.addWidget(said)
        column.addStretch(1)
        return column

    def _make_picture(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(10)
        self._headline = label("", "title")
        self._basis = label("", "muted", wrap=True)
        column.addWidget(self._headline)
        column.addWidget(self._basis)
        self._picture = ExpectedRun()
        column.addWidget(self._picture, 3)
        self._checks = QVBoxLayout()
        self._checks.setSpacing(3)
        column.addLayout(self._checks)
        row = QHBoxLayout()
        self._start = button("Start the run", self._start_run, "primary")
        self._add_station = button("Add a station…", self.add_station_asked.emit)
        row.addWidget(self._start)
        row.addWidget(self._add_station)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(rule())
        column.addWidget(label("Take care", "heading"))
        cautions = label("\n".join((*DISCHARGE_TO_EMPTY.cautions, LOCAL_FIRST)), "muted", wrap=True)
        column.addWidget(cautions)
        column.addStretch(1)
        return column

    def refresh(self) -> None:
        yard = self.bench.session.yard
        loads: list[tuple[str, object]] = [
            (f"{found.name} · {found.watts:g} W", found) for found in yard.loads()
        ]
        meters: list[tuple[str, object]] = [(found.name, found) for found in yard.meters()]
        refill(self._load, loads)
        refill(self._meter, meters)
        self._show_plan()

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
        self._start.setEnabled(plan.can_start)
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
            line: QLabel = label(
                f"{sign}   {check.text}", "bad" if check.stops else "", wrap=True
            )
            line.setAlignment(Qt.AlignmentFlag.AlignTop)
            self._checks.addWidget(line)

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
        self.started.emit()
