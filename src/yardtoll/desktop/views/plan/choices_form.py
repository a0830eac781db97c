"""The left side of Plan: method, power, loads, meter, wiring, window and settings."""

from collections.abc import Callable, Iterator, Mapping
from datetime import datetime, timedelta

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.errors import FieldError
from yardtoll.core.methods import METHODS, WITH_POWER, Method, Size
from yardtoll.core.planning.checks import SETTINGS
from yardtoll.core.planning.loads import Mix, MixPart, MixResult
from yardtoll.core.region import CELSIUS, shown_in, typed_in, unit_shown
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.widgets.basics import (
    button,
    choice,
    label,
    let_type,
    number_box,
    plain_tip,
    refill,
    rule,
)
from yardtoll.desktop.widgets.clock_field import ClockField
from yardtoll.desktop.widgets.days import qt_clock
from yardtoll.desktop.widgets.kept_grid import Cell, KeptGrid, hanging
from yardtoll.store.records import Load, Meter, SolarArray, StoredCircuit, StoredCord
from yardtoll.store.shown_region import shown, shown_region
from yardtoll.store.site_time import now as now_here

_MIX_ROWS = 3
_ROW_H = 28
_NOT_THERE = "not there"
_ANSWERS = {
    "charge_mode": ("standard", "fast", "quiet", _NOT_THERE),
    "voltage_lowering": ("off", "on", _NOT_THERE),
    "auto_off": ("off", "on", _NOT_THERE),
    "ups": ("off", "on", _NOT_THERE),
}
ALL_OFF = {"floor": "0", "charge_mode": "standard"} | dict.fromkeys(
    ("voltage_lowering", "auto_off", "ups"), "off"
)


class ChoicesForm(QWidget):
    """Everything that is chosen for a plan.

    Signals:
        changed: something else is chosen.
        power_changed: the power asked for, or what bounds it, changed: other loads may fit.
        method_changed: another method is chosen.
        add_asked(kind): a load, meter, cord or circuit is missing.
        meter_asked: the meter is to be asked what it reads.
    """

    changed = Signal()
    power_changed = Signal()
    method_changed = Signal()
    add_asked = Signal(str)
    meter_asked = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._mixes: list[Mix] = []

    def building(self) -> Iterator[None]:
        """Make what is in it, a part at a time; it is of no use before the last."""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(9)
        self.methods = choice("Method", [(m.title, m.key) for m in WITH_POWER.values()])
        self.sizes = choice("Power or time")
        self.aim = label("", "quiet", wrap=True)
        column.addWidget(self.methods)
        column.addWidget(self.aim)
        column.addLayout(self._make_power())
        yield
        column.addLayout(self._make_bench())
        column.addWidget(rule())
        yield
        column.addLayout(self._make_settings())
        column.addWidget(rule())
        self._words = KeptGrid(spacing=(10, 5))
        self._words.grid.setColumnStretch(1, 1)
        column.addWidget(self._words)
        column.addStretch(1)
        self.methods.currentIndexChanged.connect(self._show_method)
        self._show_method()
        yield

    # building

    def _make_power(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        row = QHBoxLayout()
        row.addWidget(self.sizes, 1)
        self.asked_w = number_box("Watts", "W", 0, 100_000, 400)
        self.asked_w.valueChanged.connect(self.power_changed)
        self.sizes.currentIndexChanged.connect(self._show_size)
        self.target = label("", "strong")
        row.addWidget(self.asked_w)
        row.addWidget(self.target)
        column.addLayout(row)
        self.mix_head = QWidget()
        head = QHBoxLayout(self.mix_head)
        head.setContentsMargins(0, 0, 0, 0)
        self.mix_title = label("Loads that give it", "heading")
        head.addWidget(self.mix_title)
        head.addStretch(1)
        head.addWidget(button("Add…", lambda: self.add_asked.emit("load"), name="Add a load"))
        column.addWidget(self.mix_head)
        self.mixes = QListWidget()
        self.mixes.setAccessibleName("Loads that give the power")
        self.mixes.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.mixes.currentRowChanged.connect(lambda _: self.changed.emit())
        self.ruled_out = label("", "muted", wrap=True)
        # Of one height, whatever is found: nothing below may move while the loads are looked for.
        self.mix_box = QWidget()
        self.mix_box.setFixedHeight(scaled(_MIX_ROWS * _ROW_H + 6))
        inside = QVBoxLayout(self.mix_box)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(4)
        inside.addWidget(self.mixes, 1)
        inside.addWidget(self.ruled_out)
        column.addWidget(self.mix_box)
        self.appliance = QLineEdit()
        self.appliance.setPlaceholderText("Which appliance")
        self.appliance.setAccessibleName("Which appliance")
        self.appliance.textChanged.connect(self.changed)
        column.addWidget(self.appliance)
        return column

    def _make_bench(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setVerticalSpacing(7)
        grid.setHorizontalSpacing(8)
        self.meters, self.cords, self.circuits = choice("Meter"), choice("Cord"), choice("Circuit")
        self.panels = choice("Panels")
        rows: tuple[tuple[str, QComboBox, str, Callable[[], object]], ...] = (
            ("Meter", self.meters, "meter", self.changed.emit),
            ("Cord", self.cords, "cord", self.power_changed.emit),
            ("Circuit", self.circuits, "circuit", self.power_changed.emit),
            ("Panels", self.panels, "array", self.changed.emit),
        )
        for row, (name, box, kind, chosen) in enumerate(rows):
            box.activated.connect(lambda _=0, chosen=chosen: chosen())
            words = label(name, "strong")
            grid.addWidget(words, row, 0)
            grid.addWidget(box, row, 1)
            add = button("Add…", name=f"Add a {kind}")
            add.clicked.connect(lambda _=False, k=kind: self.add_asked.emit(k))
            grid.addWidget(add, row, 2)
            if box is self.panels:
                self._panel_parts = (words, box, add)
        self.ask_meter = button("Ask the meter what it reads", self.meter_asked.emit, "link")
        grid.addWidget(self.ask_meter, len(rows), 1, 1, 2)
        self.soc_from = number_box("From state of charge", "%", 0, 100, 100)
        self.soc_to = number_box("To state of charge", "%", 0, 100, 0)
        self.temperature = QLineEdit()
        degree = unit_shown(CELSIUS, shown_region())
        self.temperature.setPlaceholderText(degree)
        self.temperature.setAccessibleName(f"Temperature at the bench, {degree}")
        window = QHBoxLayout()
        window.setSpacing(8)
        window.addWidget(self.soc_from, 1)
        window.addWidget(label("to", "strong"))
        window.addWidget(self.soc_to, 1)
        window.addWidget(label("at", "strong"))
        window.addWidget(self.temperature, 1)
        window.addWidget(label(degree))
        for number in (self.soc_from, self.soc_to):
            number.valueChanged.connect(self.changed)
        self.temperature.textChanged.connect(self.changed)
        grid.addWidget(label("Charge", "strong"), len(rows) + 1, 0)
        grid.addLayout(window, len(rows) + 1, 1, 1, 2)
        grid.addWidget(label("Start", "strong"), len(rows) + 2, 0)
        grid.addLayout(self._make_start(), len(rows) + 2, 1, 1, 2)
        grid.setColumnStretch(1, 1)
        return grid

    def _make_start(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.start = choice("Start", [("now", False), ("later", True)])
        self.start_at = ClockField("When it is to start", f"ddd d MMM  {qt_clock()}")
        self.start_at.setCalendarPopup(True)
        self.start_at.setVisible(False)
        row.addWidget(self.start, 1)
        row.addWidget(self.start_at, 2)
        self.start.currentIndexChanged.connect(self._show_start)
        self.start_at.dateTimeChanged.connect(self.changed)
        return row

    def _make_settings(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        head = QHBoxLayout()
        head.addWidget(label("How the station is set", "heading"))
        head.addStretch(1)
        head.addWidget(button("All off, floor 0 %", self._all_off))
        column.addLayout(head)
        rows = QFormLayout()
        rows.setHorizontalSpacing(10)
        rows.setVerticalSpacing(6)
        self.settings: dict[str, QLineEdit | QComboBox] = {}
        for key, words in SETTINGS:
            if key == "floor":
                line = QLineEdit()
                line.setAccessibleName(words)
                line.textChanged.connect(self.changed)
                self.settings[key] = line
            else:
                answers = choice(words, [("", ""), *((a, a) for a in _ANSWERS[key])])
                let_type(answers)
                answers.editTextChanged.connect(self.changed)
                self.settings[key] = answers
            rows.addRow(words, self.settings[key])
        column.addLayout(rows)
        return column

    # what is chosen

    @property
    def chosen_method(self) -> Method:
        """The chosen method."""
        return METHODS[self.methods.currentData()]

    @property
    def chosen_size(self) -> Size:
        """The chosen load level or duration."""
        return self.chosen_method.size(str(self.sizes.currentData()))

    @property
    def mix(self) -> Mix | None:
        """The chosen loads."""
        if not self.chosen_method.delivers:
            return None
        if self.chosen_size.is_appliance:
            watts = self.asked_w.value()
            name = self.appliance.text().strip() or "Appliance"
            part = MixPart(name=name, setting="", count=1, watts=watts)
            return Mix(parts=(part,), total_w=watts, off_w=0.0) if watts else None
        row = self.mixes.currentRow()
        return self._mixes[row] if 0 <= row < len(self._mixes) else None

    def starts_at(self) -> datetime | None:
        """The local moment it is planned for; None for now, or once that has passed."""
        if not self.start.currentData():
            return None
        at = self.start_at.moment()
        return at if at > now_here() else None

    def start_later(self, at: datetime | None) -> None:
        """Plan it for an aware moment; None for now."""
        if at is not None:
            self.start_at.show_moment(at)
        self.start.setCurrentIndex(self.start.findData(at is not None))

    def noted_settings(self) -> dict[str, str]:
        """Each setting as noted; "" where it is not."""
        return {
            key: (field.text() if isinstance(field, QLineEdit) else field.currentText()).strip()
            for key, field in self.settings.items()
        }

    def note_settings(self, noted: Mapping[str, str]) -> None:
        """Fill the settings in, such as those of the last run."""
        for key, field in self.settings.items():
            text = noted.get(key, "")
            if isinstance(field, QLineEdit):
                field.setText(text)
            else:
                field.setEditText(text)

    def show_temperature(self, temperature_c: float) -> None:
        """Fill it in, in the region's unit."""
        value = shown_in(temperature_c, CELSIUS, shown_region())
        self.temperature.setText(f"{value:.3g}".replace(".", shown_region().decimal_sign))

    def temperature_c(self) -> float | None:
        """The temperature; None where none, or no figure, is given."""
        try:
            return typed_in(self.temperature.text(), CELSIUS, shown_region())
        except FieldError:
            return None

    # showing

    def show_bench(
        self,
        meters: list[Meter],
        cords: list[StoredCord],
        circuits: list[StoredCircuit],
        arrays: list[SolarArray],
    ) -> None:
        """Fill the choices of the bench."""
        refill(self.meters, [(m.name, m) for m in meters])
        refill(self.cords, [("none, or not noted", None), *((c.name, c) for c in cords)])
        refill(self.circuits, [("none of the house", None), *((c.name, c) for c in circuits)])
        refill(self.panels, [(a.name, a) for a in arrays])

    def show_mixes(self, found: MixResult | None, said: str = "") -> None:
        """Show the loads that fit, the best chosen; the one chosen before where it is there."""
        before = self.mix
        self._mixes = list(found.best) if found else []
        self.mixes.blockSignals(True)
        self.mixes.clear()
        for mix in self._mixes:
            off = "exact" if abs(mix.off_w) < 0.05 else f"{mix.off_w:+.1f} W"
            self.mixes.addItem(shown(f"{mix.words} · {mix.total_w:.4g} W · {off}"))
            item = self.mixes.item(self.mixes.count() - 1)
            item.setToolTip(plain_tip(item.text()))
        same = next((i for i, mix in enumerate(self._mixes) if mix == before), 0)
        self.mixes.setCurrentRow(same if self._mixes else -1)
        self.mixes.blockSignals(False)
        words = [said] if said else []
        if found is not None:
            reach = found.out_of_reach
            words += [f"{reach[0].upper()}{reach[1:]}."] if reach else []
            words += [f"{out.reason} – {out.limit}." for out in found.ruled_out]
        self.ruled_out.setText("\n".join(words))
        self.ruled_out.setVisible(bool(words))
        self.changed.emit()

    def choose_load(self, load: Load) -> None:
        """Ask for the power of one load's first setting, such as one just added."""
        asking = next((s.key for s in self.chosen_method.sizes if s.asks_w), None)
        self.sizes.setCurrentIndex(max(self.sizes.findData(asking), 0))
        watts = load.settings[0].watts if load.settings else (load.range_low_w or 0)
        self.asked_w.setValue(watts)
        self.power_changed.emit()

    def show_target(self, watts: float | None) -> None:
        """The power that is looked for, where it is not typed."""
        asks = self.chosen_size.asks_w
        self.asked_w.setVisible(asks)
        self.target.setVisible(not asks and watts is not None)
        self.target.setText(f"{watts:.4g} W" if watts is not None else "")

    def _show_method(self) -> None:
        method = self.chosen_method
        refill(self.sizes, [(size.title, size.key) for size in method.sizes])
        self.sizes.setCurrentIndex(0)
        self.aim.setText(method.aim)
        for box, value in ((self.soc_from, method.soc[0]), (self.soc_to, method.soc[1])):
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
        self._words.show_cells(_method_words(method))
        self._show_size()
        self.method_changed.emit()

    def _show_size(self) -> None:
        for part in self._panel_parts:
            part.setVisible(self.chosen_method.uses_panels)
        out = self.chosen_method.delivers
        real = self.chosen_size.is_appliance
        for widget in (self.mix_head, self.mix_box):
            widget.setVisible(out and not real)
        self.appliance.setVisible(out and real)
        self.power_changed.emit()

    def _show_start(self) -> None:
        is_later = bool(self.start.currentData())
        if is_later and self.starts_at() is None:
            coming = now_here() + timedelta(hours=1)
            self.start_at.show_moment(coming.replace(minute=0, second=0))
        self.start_at.setVisible(is_later)
        self.changed.emit()

    def _all_off(self) -> None:
        self.note_settings(ALL_OFF)


def _method_words(method: Method) -> list[Cell]:
    """Its steps and the claims it can judge; its cautions stand where they are ticked."""
    steps = hanging(((str(i), step) for i, step in enumerate(method.steps, 1)), first=1)
    judged = f"Speaks to: {_claims_words(method)} · {'; '.join(method.sources)}"
    return [
        Cell(row=0, column=0, columns=2, text="Before you start", role="heading"),
        *steps,
        Cell(row=1 + len(method.steps), column=0, columns=2, text=judged, role="muted", wrap=True),
    ]


def _claims_words(method: Method) -> str:
    return ", ".join(kind.title.lower() for kind in method.speaks_to) or "no claim"
