"""Dialogs for what is connected in a discharge: loads, meters, circuits and cords."""

from collections.abc import Sequence
from dataclasses import replace

from PySide6.QtWidgets import QPlainTextEdit, QWidget

from yardtoll.bench.drivers import DRIVERS
from yardtoll.bench.profiles.files import known_profiles, user_profile_folder
from yardtoll.bench.simulated.instrument import SIMULATED_PROFILE
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.planning.loads import KINDS, LoadSetting
from yardtoll.core.planning.wiring import cord
from yardtoll.core.uncertainty.accuracy import parse_accuracy
from yardtoll.desktop.dialogs.form import FormDialog, name_is_wrong
from yardtoll.desktop.widgets.basics import choice, label, number_box, refill
from yardtoll.store.records import (
    SIMULATED,
    Load,
    Meter,
    StoredCircuit,
    StoredCord,
)
from yardtoll.store.shown_region import shown_region

_MOST_W = 100_000.0
PLACES = ("AC outlet", "wall", "DC port", "solar input")
_SETTINGS_H = 84
_SIMULATED, _BY_EYE = "simulated", "by eye"
"""Ways to read a meter beside the protocols."""


def settings_text(settings: Sequence[LoadSetting]) -> str:
    """One setting a line, like "low 412 W"."""
    return "\n".join(f"{s.name} {s.watts:g} W" for s in settings)


def parse_settings(text: str) -> list[LoadSetting]:
    """Lines like "low 412 W", or a bare "412", as settings.

    Raises:
        UnusableDataError: a line has no watts; the message names it.
    """
    found = []
    for line in filter(None, (line.strip() for line in text.splitlines())):
        words = line.removesuffix("W").removesuffix("w").split()
        try:
            watts = float(words[-1].replace(",", "."))
        except (IndexError, ValueError):
            raise UnusableDataError(f'"{line}" should look like "low 412 W"') from None
        name = " ".join(words[:-1]).rstrip(":, ") or "on"
        found.append(LoadSetting(name=name, watts=watts))
    return found


class LoadDialog(FormDialog):
    """A sort of load: its settings, how many there are, and how it behaves."""

    manual_page = "plan"

    def __init__(self, load: Load | None, taken: set[str], parent: QWidget | None = None) -> None:
        title = "Edit the load" if load else "Add a load"
        super().__init__(title, "Keep it", parent, removable=load is not None)
        self._before = load
        self._taken = taken
        shown = load or Load(name="")
        self.name = self.line("Name", shown.name, "Oil heater")
        self.kind = choice("Kind", [(kind, kind) for kind in KINDS])
        self.kind.setCurrentIndex(self.kind.findData(shown.kind))
        self.count = number_box("How many", "", 1, 1000, shown.count)
        self.settings = QPlainTextEdit(settings_text(shown.settings))
        self.settings.setPlaceholderText("low 400 W\nhigh 800 W")
        self.settings.setAccessibleName("Settings, one a line, such as low 400 W")
        self.settings.setFixedHeight(_SETTINGS_H)
        self.settings.setTabChangesFocus(True)
        self.low = number_box("Dial from", "W", 0, _MOST_W, shown.range_low_w or 0, 1)
        self.high = number_box("Dial to", "W", 0, _MOST_W, shown.range_high_w or 0, 1)
        self.step = number_box("In steps of", "W", 0.1, 1000, shown.range_step_w or 10, 1)
        for box in (self.low, self.high):
            box.setSpecialValueText("no dial")
        self.inrush = number_box("Inrush", "×", 1, 100, shown.inrush, 1)
        self.power_factor = number_box("Power factor", "", 0.05, 1, shown.power_factor, 2)
        self.warm_up = number_box("Warm-up", "s", 0, 3600, shown.warm_up_s)
        self.cold = number_box("More while cold", "%", 0, 200, 100 * shown.cold_share)
        for words, field in (
            ("Kind", self.kind),
            ("How many I have", self.count),
            ("Settings, one a line", self.settings),
            ("Dial from", self.low),
            ("to", self.high),
            ("in steps of", self.step),
            ("Draws at switching on", self.inrush),
            ("Power factor", self.power_factor),
            ("Draws more while cold", self.cold),
            ("for about", self.warm_up),
        ):
            self.rows.addRow(words, field)

    def wrong(self) -> str:
        if said := name_is_wrong(self.name.text().strip(), self._taken):
            return said
        try:
            made = self.record()
            if not made.settings and made.range_low_w is None:
                return "Give it at least one setting, such as: low 400 W."
            _ = made.spec
        except UnusableDataError as error:
            return f"{error}."
        return ""

    def record(self) -> Load:
        """The load as entered; a setting whose watts stayed as they were is still measured.

        Raises:
            UnusableDataError: a line of the settings has no watts.
        """
        before = self._before.settings if self._before else ()
        learned = {(s.name, s.watts) for s in before if s.measured}
        settings = tuple(
            replace(s, measured=(s.name, s.watts) in learned)
            for s in parse_settings(self.settings.toPlainText())
        )
        dialled = self.high.value() > 0
        return Load(
            id=self._before.id if self._before else None,
            name=self.name.text().strip(),
            kind=self.kind.currentData(),
            count=int(self.count.value()),
            settings=settings,
            range_low_w=self.low.value() if dialled else None,
            range_high_w=self.high.value() if dialled else None,
            range_step_w=self.step.value() if dialled else None,
            inrush=self.inrush.value(),
            power_factor=self.power_factor.value(),
            warm_up_s=self.warm_up.value(),
            cold_share=self.cold.value() / 100,
        )


class MeterDialog(FormDialog):
    """A meter: how it is reached, and how far it may be off."""

    manual_page = "uncertainty"

    def __init__(self, meter: Meter | None, taken: set[str], parent: QWidget | None = None) -> None:
        title = "Edit the meter" if meter else "Add a meter"
        super().__init__(title, "Keep it", parent, removable=meter is not None)
        self._before = meter
        self._taken = taken
        self.name = self.line("Name", meter.name if meter else "", "Bench meter")
        self.link = choice(
            "How it is read",
            [
                ("Simulated bench", _SIMULATED),
                *((driver.title, key) for key, driver in DRIVERS.items()),
                ("By eye, or by its log", _BY_EYE),
            ],
        )
        self._profiles, problems = known_profiles()
        self.profile = choice("Profile")
        self.profile.setToolTip(f"Your own profiles go into {user_profile_folder()}")
        self.not_offered = label("\n".join(f"Not offered: {p}" for p in problems), "bad", wrap=True)
        self.address = self.line("Address", "", "TCPIP::192.0.2.7::5025::SOCKET")
        self.rows.insertRow(1, "Read", self.link)
        self.rows.insertRow(2, "Profile", self.profile)
        self.rows.insertRow(3, self.not_offered)
        accuracy = (
            f"{meter.reading_share * 100:g} % + {meter.floor_w:g} W" if meter else "1 % + 0.5 W"
        )
        self.accuracy = self.line("Accuracy ±", accuracy, "1 % + 0.5 W")
        self._add_limits(meter)
        self._add_ratings(meter)
        if meter:
            known = self._profiles.get(meter.profile)
            protocol = known.driver.protocol if known is not None else next(iter(DRIVERS))
            by_wire = not (meter.is_simulated or meter.is_read_by_eye)
            kind = _SIMULATED if meter.is_simulated else protocol if by_wire else _BY_EYE
            self.link.setCurrentIndex(self.link.findData(kind))
            self._show_link()
            self.profile.setCurrentIndex(max(self.profile.findData(meter.profile), 0))
            self.address.setText(meter.address if by_wire else "")
        self.link.currentIndexChanged.connect(self._show_link)
        self._show_link()

    def _add_limits(self, meter: Meter | None) -> None:
        """How its gain is shared, and what its maker states beside the watts."""
        self.accuracy.setToolTip(
            "After commas: 50 % common, linearity 0.1 %, steps 0.01 Wh, phase 0.3 deg"
        )
        shown = meter or Meter(name="", profile="", address="", reading_share=0.01, floor_w=0.5)
        self.common = number_box("Gain shared", "%", 0, 100, 100 * shown.common_share)
        self.common.setToolTip(
            "How much of the gain's variance is the same at every reading; the rest differs with "
            "the level. AC and DC share nothing."
        )
        self.step = number_box("Counter's last digit", "Wh", 0, 100, shown.step_wh or 0, 3)
        self.phase = number_box("Phase error", "°", 0, 44, shown.phase_deg, 2)
        self.volts = number_box("Volts ±", "%", 0, 20, 100 * (shown.volts_share or 0), 2)
        self.volts_floor = number_box("Volts ±", "V", 0, 20, shown.volts_floor_v or 0, 2)
        self.hertz = number_box("Frequency ±", "Hz", 0, 5, shown.hertz_floor_hz or 0, 3)
        for box in (self.step, self.phase, self.volts, self.volts_floor, self.hertz):
            box.setSpecialValueText("not stated")
        for words, box in (
            ("of it the same at every level", self.common),
            ("Counter's last digit", self.step),
            ("Phase error ±", self.phase),
            ("Volts ± of the reading", self.volts),
            ("and Volts ±", self.volts_floor),
            ("Frequency ±", self.hertz),
        ):
            self.rows.addRow(words, box)

    def _add_ratings(self, meter: Meter | None) -> None:
        """What it draws and may carry, and where it sits."""
        self.own_draw = number_box("Own draw", "W", 0, 1000, meter.own_draw_w if meter else 0, 1)
        self.max_w = number_box("May carry", "W", 0, _MOST_W, (meter.max_w or 0) if meter else 1800)
        self.max_a = number_box("May carry", "A", 0, 1000, (meter.max_a or 0) if meter else 15, 1)
        self.max_minutes = number_box(
            "For", "min", 0, 10_000, (meter.max_minutes or 0) if meter else 0
        )
        for box in (self.max_w, self.max_a):
            box.setSpecialValueText("not stated")
        self.max_minutes.setSpecialValueText("as long as it likes")
        self.place = choice("Where it sits", [(place, place) for place in PLACES])
        if meter:
            self.place.setCurrentIndex(max(self.place.findData(meter.place), 0))
        self.rows.addRow("Where it sits", self.place)
        self.rows.addRow("Own draw, fed by the station", self.own_draw)
        self.rows.addRow("May carry", self.max_w)
        self.rows.addRow("and", self.max_a)
        self.rows.addRow("That much for", self.max_minutes)
        self.rows.addRow(
            label(
                "Use meters and cords rated above the load for continuous use.", "muted", wrap=True
            )
        )

    def wrong(self) -> str:
        if said := name_is_wrong(self.name.text().strip(), self._taken):
            return said
        try:
            parse_accuracy(self.accuracy.text())
        except UnusableDataError as error:
            said = str(error)
            return f"{said[:1].upper()}{said[1:]}."
        driver = DRIVERS.get(self.link.currentData())
        return driver.address_problem(self.address.text().strip()) if driver is not None else ""

    def record(self) -> Meter:
        """The meter as entered."""
        accuracy = parse_accuracy(self.accuracy.text())
        said = self.accuracy.text().lower()
        common = self.common.value() / 100
        if "common" in said or "linear" in said:
            common = accuracy.common_share
        volts_known = self.volts.value() > 0 or self.volts_floor.value() > 0
        link = self.link.currentData()
        kept = self._before.profile if self._before else ""
        address = {_SIMULATED: SIMULATED, _BY_EYE: ""}.get(link, self.address.text().strip())
        return Meter(
            id=self._before.id if self._before else None,
            name=self.name.text().strip(),
            profile=self.profile.currentData() or kept or SIMULATED_PROFILE,
            address=address,
            reading_share=accuracy.reading_share,
            floor_w=accuracy.floor_w,
            common_share=common,
            step_wh=accuracy.step_wh or self.step.value() or None,
            phase_deg=accuracy.phase_deg or self.phase.value(),
            volts_share=self.volts.value() / 100 if volts_known else None,
            volts_floor_v=self.volts_floor.value() if volts_known else None,
            hertz_floor_hz=self.hertz.value() or None,
            own_draw_w=self.own_draw.value(),
            max_w=self.max_w.value() or None,
            max_a=self.max_a.value() or None,
            max_minutes=self.max_minutes.value() or None,
            place=self.place.currentData(),
        )

    def _show_link(self) -> None:
        driver = DRIVERS.get(self.link.currentData())
        wired = driver is not None
        if driver is not None:
            offered: list[tuple[str, object]] = [
                (p.name, key) for key, p in self._profiles.items() if p.driver is driver
            ]
            refill(self.profile, offered)
            self.address.setPlaceholderText(driver.address_example)
        self.rows.setRowVisible(self.profile, wired)
        self.rows.setRowVisible(self.address, wired)
        self.rows.setRowVisible(self.not_offered, wired and bool(self.not_offered.text()))


class CircuitDialog(FormDialog):
    """A house circuit behind its breaker."""

    manual_page = "plan"

    def __init__(
        self, circuit: StoredCircuit | None, taken: set[str], parent: QWidget | None = None
    ) -> None:
        title = "Edit the circuit" if circuit else "Add a circuit"
        super().__init__(title, "Keep it", parent, removable=circuit is not None)
        self._before = circuit
        self._taken = taken
        self.name = self.line("Name", circuit.name if circuit else "", "Garage, left")
        self.breaker_a = number_box("Breaker", "A", 1, 400, circuit.breaker_a if circuit else 15)
        self.volts = number_box(
            "Volts", "V", 12, 500, circuit.volts if circuit else shown_region().mains_v
        )
        self.rows.addRow("Breaker", self.breaker_a)
        self.rows.addRow("Volts", self.volts)
        self.rows.addRow(
            label(
                "For three hours or more a load should stay at 80 % of the breaker. "
                "Local codes come first.",
                "muted",
                wrap=True,
            )
        )

    def wrong(self) -> str:
        return name_is_wrong(self.name.text().strip(), self._taken)

    def record(self) -> StoredCircuit:
        """The circuit as entered."""
        return StoredCircuit(
            id=self._before.id if self._before else None,
            name=self.name.text().strip(),
            breaker_a=self.breaker_a.value(),
            volts=self.volts.value(),
        )


class CordDialog(FormDialog):
    """A cord: its length and gauge give the volt drop, its rating the limit."""

    manual_page = "plan"

    def __init__(
        self, kept: StoredCord | None, taken: set[str], parent: QWidget | None = None
    ) -> None:
        title = "Edit the cord" if kept else "Add a cord"
        super().__init__(title, "Keep it", parent, removable=kept is not None)
        self._before = kept
        self._taken = taken
        self.name = self.line("Name", kept.name if kept else "", "Yellow, 10 m")
        self.length_m = number_box("Length", "m", 0.1, 500, kept.length_m if kept else 10, 1)
        self.rows.addRow("Length", self.length_m)
        self.gauge = self.line("Gauge", kept.gauge if kept else "", "14 AWG or 1.5 mm²")
        self.rated_a = number_box("Printed rating", "A", 0, 400, (kept.rated_a or 0) if kept else 0)
        self.rated_a.setSpecialValueText("by its gauge")
        self.rows.addRow("Printed rating", self.rated_a)

    def wrong(self) -> str:
        if said := name_is_wrong(self.name.text().strip(), self._taken):
            return said
        try:
            cord(self.length_m.value(), self.gauge.text())
        except UnusableDataError as error:
            text = str(error)
            return f"{text[:1].upper()}{text[1:]}."
        return ""

    def record(self) -> StoredCord:
        """The cord as entered."""
        return StoredCord(
            id=self._before.id if self._before else None,
            name=self.name.text().strip(),
            length_m=self.length_m.value(),
            gauge=self.gauge.text().strip(),
            rated_a=self.rated_a.value() or None,
        )
