"""Dialogs that make or edit a station, a load, a meter, a yardstick, or a run's conditions."""

from dataclasses import replace

from PySide6.QtWidgets import QWidget

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.uncertainty import parse_accuracy
from yardtoll.core.yardsticks import Basis
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.profiles import known_profiles, user_profile_folder
from yardtoll.desktop.widgets.basics import choice, label, number_box
from yardtoll.store.records import (
    SIMULATED,
    Load,
    Meter,
    Run,
    Station,
    StoredYardstick,
)

_MOST_WH, _MOST_W = 1_000_000.0, 100_000.0
_LONGEST_NAME = 120


def _name_is_wrong(name: str, taken: set[str]) -> str:
    """Why a name will not do, "" if it will."""
    if not name:
        return "Give it a name."
    if len(name) > _LONGEST_NAME:
        return f"The name is longer than {_LONGEST_NAME} characters."
    if name.casefold() in {other.casefold() for other in taken}:
        return f"There is already one called {name}."
    return ""


class StationDialog(FormDialog):
    """A station with the rated figures a discharge is held against."""

    def __init__(
        self, station: Station | None, taken: set[str], parent: QWidget | None = None
    ) -> None:
        title = "Edit the station" if station else "Add a station"
        super().__init__(title, "Keep it", parent, removable=station is not None)
        self._before = station
        self._taken = taken
        self.name = self.line("Name", station.name if station else "", "As on the box")
        self.rated_wh = number_box(
            "Rated energy", "Wh", 0, _MOST_WH, station.rated_wh if station else 0, 1
        )
        self.rated_w = number_box(
            "Rated continuous power", "W", 0, _MOST_W, station.rated_w if station else 0
        )
        self.rows.addRow("Rated energy", self.rated_wh)
        self.rows.addRow("Rated continuous", self.rated_w)
        self.chemistry = choice("Chemistry", [(c or "not stated", c) for c in ("", "LFP", "NMC")])
        if station:
            self.chemistry.setCurrentIndex(max(self.chemistry.findData(station.chemistry), 0))
        self.rows.addRow("Chemistry", self.chemistry)
        self.source = self.line("Source", station.source if station else "", "Label, manual, box…")
        self.note = self.line("Note", station.note if station else "")

    def wrong(self) -> str:
        said = _name_is_wrong(self.name.text().strip(), self._taken)
        if said:
            return said
        if self.rated_wh.value() <= 0:
            return "The rated energy must be above 0 Wh."
        if self.rated_w.value() <= 0:
            return "The rated continuous power must be above 0 W."
        return ""

    def record(self) -> Station:
        """The station as entered."""
        return Station(
            id=self._before.id if self._before else None,
            name=self.name.text().strip(),
            rated_wh=self.rated_wh.value(),
            rated_w=self.rated_w.value(),
            chemistry=self.chemistry.currentData() or "",
            source=self.source.text().strip(),
            note=self.note.text().strip(),
        )


class LoadDialog(FormDialog):
    """A load at one setting."""

    def __init__(self, load: Load | None, taken: set[str], parent: QWidget | None = None) -> None:
        title = "Edit the load" if load else "Add a load"
        super().__init__(title, "Keep it", parent, removable=load is not None)
        self._before = load
        self._taken = taken
        self.name = self.line("Name", load.name if load else "", "Heater, low")
        self.watts = number_box("Power", "W", 0, _MOST_W, load.watts if load else 0, 1)
        self.rows.addRow("Power", self.watts)

    def wrong(self) -> str:
        if self.watts.value() <= 0:
            return _name_is_wrong(self.name.text().strip(), self._taken) or (
                "The power must be above 0 W."
            )
        return _name_is_wrong(self.name.text().strip(), self._taken)

    def record(self) -> Load:
        """The load as entered."""
        return Load(
            id=self._before.id if self._before else None,
            name=self.name.text().strip(),
            watts=self.watts.value(),
        )


class MeterDialog(FormDialog):
    """A meter: how it is reached, and how far it may be off."""

    def __init__(self, meter: Meter | None, taken: set[str], parent: QWidget | None = None) -> None:
        title = "Edit the meter" if meter else "Add a meter"
        super().__init__(title, "Keep it", parent, removable=meter is not None)
        self._before = meter
        self._taken = taken
        self.name = self.line("Name", meter.name if meter else "", "Bench meter")
        self.link = choice(
            "How it is read",
            [
                ("Simulated bench", "simulated"),
                ("SCPI over a wire", "scpi"),
                ("By its log, imported", "log"),
            ],
        )
        profiles, problems = known_profiles()
        self.profile = choice("Profile", [(p.name, key) for key, p in profiles.items()])
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
        self.own_draw = number_box("Own draw", "W", 0, 1000, meter.own_draw_w if meter else 0, 1)
        self.max_w = number_box("May carry", "W", 0, _MOST_W, (meter.max_w or 0) if meter else 1800)
        self.max_w.setSpecialValueText("not stated")
        self.rows.addRow("Own draw, fed by the station", self.own_draw)
        self.rows.addRow("May carry, continuous", self.max_w)
        self.rows.addRow(
            label(
                "Use meters and cords rated above the load for continuous use.", "muted", wrap=True
            )
        )
        if meter:
            kind = "simulated" if meter.address == SIMULATED else "scpi" if meter.address else "log"
            self.link.setCurrentIndex(self.link.findData(kind))
            self.profile.setCurrentIndex(max(self.profile.findData(meter.profile), 0))
            self.address.setText(meter.address if kind == "scpi" else "")
        self.link.currentIndexChanged.connect(self._show_link)
        self._show_link()

    def wrong(self) -> str:
        if said := _name_is_wrong(self.name.text().strip(), self._taken):
            return said
        try:
            parse_accuracy(self.accuracy.text())
        except UnusableDataError as error:
            said = str(error)
            return f"{said[:1].upper()}{said[1:]}."
        if self.link.currentData() == "scpi" and "::" not in self.address.text():
            return "A VISA address reads like TCPIP::192.0.2.7::5025::SOCKET."
        return ""

    def record(self) -> Meter:
        """The meter as entered."""
        accuracy = parse_accuracy(self.accuracy.text())
        address = {"simulated": SIMULATED, "scpi": self.address.text().strip(), "log": ""}
        simulated = self.link.currentData() == "simulated"
        return Meter(
            id=self._before.id if self._before else None,
            name=self.name.text().strip(),
            profile="buffered_meter" if simulated else self.profile.currentData(),
            address=address[self.link.currentData()],
            reading_share=accuracy.reading_share,
            floor_w=accuracy.floor_w,
            own_draw_w=self.own_draw.value(),
            max_w=self.max_w.value() or None,
        )

    def _show_link(self) -> None:
        wired = self.link.currentData() == "scpi"
        self.rows.setRowVisible(self.profile, wired)
        self.rows.setRowVisible(self.address, wired)
        self.rows.setRowVisible(self.not_offered, wired and bool(self.not_offered.text()))


class YardstickDialog(FormDialog):
    """A named limit."""

    def __init__(
        self, stick: StoredYardstick | None, taken: set[str], parent: QWidget | None = None
    ) -> None:
        title = "Edit the yardstick" if stick else "New yardstick"
        super().__init__(title, "Keep it", parent, removable=stick is not None)
        self._before = stick
        self._taken = taken
        self.name = self.line("Name", stick.name if stick else "", "My own pass mark")
        self.limit = number_box(
            "At least", "%", 1, 150, 100 * stick.limit_ratio if stick else 85, 1
        )
        self.basis = choice("Share of what", [(b.words, b.value) for b in Basis])
        if stick:
            self.basis.setCurrentIndex(self.basis.findData(stick.basis))
        self.rows.addRow("Delivered, at least", self.limit)
        self.rows.addRow("Share", self.basis)

    def wrong(self) -> str:
        return _name_is_wrong(self.name.text().strip(), self._taken)

    def record(self) -> StoredYardstick:
        """The yardstick as entered."""
        return StoredYardstick(
            id=self._before.id if self._before else None,
            name=self.name.text().strip(),
            limit_ratio=self.limit.value() / 100,
            basis=self.basis.currentData(),
        )


class RunDialog(FormDialog):
    """A run's conditions, corrected; its samples are never touched."""

    def __init__(self, run: Run, meters: list[Meter], parent: QWidget | None = None) -> None:
        super().__init__(f"Edit run {run.number}", "Keep it", parent)
        self._run = run
        items: list[tuple[str, object]] = [("not stated", None)]
        items += [(f"{m.name} {m.accuracy}", m.id) for m in meters]
        self.meter = choice("Meter", items)
        self.meter.setCurrentIndex(max(self.meter.findData(run.meter_id), 0))
        self.soc_from = number_box("From", "%", 1, 100, run.soc_from)
        self.soc_to = number_box("To", "%", 0, 99, run.soc_to)
        self.own_draw = number_box("Own draw", "W", 0, 1000, run.own_draw_w, 1)
        self.rows.addRow("Meter", self.meter)
        self.rows.addRow("State of charge from", self.soc_from)
        self.rows.addRow("to", self.soc_to)
        self.rows.addRow("Meter's own draw, to add", self.own_draw)

    def wrong(self) -> str:
        if self.soc_from.value() <= self.soc_to.value():
            return "The state of charge must fall: from above to."
        return ""

    def record(self) -> Run:
        """The run with its corrected conditions."""
        return replace(
            self._run,
            meter_id=self.meter.currentData(),
            soc_from=self.soc_from.value(),
            soc_to=self.soc_to.value(),
            own_draw_w=self.own_draw.value(),
        )


class VoidDialog(FormDialog):
    """Why a run does not count. It is kept all the same."""

    def __init__(self, run: Run, parent: QWidget | None = None) -> None:
        super().__init__(f"Void run {run.number}", "Void it", parent)
        self.reason = self.line("Reason", run.void_reason, "Input left plugged in…")
        self.rows.addRow(
            label("A void run stays visible with its reason; nothing is judged by it.", "muted")
        )

    def wrong(self) -> str:
        return "" if self.reason.text().strip() else "A void run needs its reason."
