"""Dialogs that make or edit a station, a yardstick, or a run's conditions."""

from dataclasses import replace

from PySide6.QtWidgets import QWidget

from yardtoll.core.conformance.yardsticks import Basis
from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.core.formatting import counted
from yardtoll.core.methods import METHODS
from yardtoll.desktop.dialogs.form import FormDialog, name_is_wrong
from yardtoll.desktop.widgets.basics import choice, label, number_box
from yardtoll.store.records import Meter, Run, Station, StoredYardstick

_MOST_WH, _MOST_W = 1_000_000.0, 100_000.0


class StationDialog(FormDialog):
    """A station with the rated figures a discharge is held against."""

    manual_page = "yard"

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
        tags = ", ".join(station.tags) if station else ""
        self.tags = self.line("Tags", tags, "borrowed, winter series")

    def wrong(self) -> str:
        said = name_is_wrong(self.name.text().strip(), self._taken)
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
            base_id=self._before.base_id if self._before else None,
            packs_wh=self._before.packs_wh if self._before else (),
            units=self._before.units if self._before else 1,
            tags=tags_in(self.tags.text()),
        )


class ConfigurationDialog(FormDialog):
    """A station with packs put on, or several of it together, as a station to be tested."""

    manual_page = "yard"

    def __init__(self, base: Station, taken: set[str], parent: QWidget | None = None) -> None:
        super().__init__(f"{base.name} with packs, or several", "Keep it", parent)
        self._base, self._taken = base, taken
        self._named = ""
        self.name = self.line("Name", "", "As you call it")
        self.units = number_box("Stations together", "", 1, 20, 1)
        self.packs = number_box("Packs put on", "", 0, 20, 1)
        self.pack_wh = number_box("Rated energy of a pack", "Wh", 1, _MOST_WH, base.rated_wh, 1)
        self.rated_w = number_box("Rated continuous power", "W", 1, _MOST_W, base.rated_w)
        self.rows.addRow("Stations together", self.units)
        self.rows.addRow("Packs put on", self.packs)
        self.rows.addRow("A pack holds", self.pack_wh)
        self.rows.addRow("Rated continuous", self.rated_w)
        self.said = label("", "quiet", wrap=True)
        self.rows.addRow("", self.said)
        self.source = self.line("Source", base.source, "Label, manual, box…")
        for box in (self.units, self.packs, self.pack_wh):
            box.valueChanged.connect(lambda _: self._say())
        self._say()

    def _say(self) -> None:
        """What adds and what does not; the name follows until it is typed."""
        made = self.record()
        if self.name.text() == self._named:
            self._named = configuration_name(self._base, len(made.packs_wh), made.units)
            self.name.setText(self._named)
        self.said.setText(
            f"{made.rated_wh:g} Wh by the rating. Packs add energy and nothing else: inverter and "
            "solar input stay those of one station, unless its maker says otherwise. It is tested "
            "with runs of its own."
        )

    def wrong(self) -> str:
        made = self.record()
        if made.units == 1 and not made.packs_wh:
            return "One station without packs is the station itself."
        return name_is_wrong(made.name, self._taken)

    def record(self) -> Station:
        """The configuration as entered."""
        packs = (self.pack_wh.value(),) * int(self.packs.value())
        units = int(self.units.value())
        return Station(
            name=self.name.text().strip(),
            rated_wh=units * self._base.rated_wh + sum(packs),
            rated_w=self.rated_w.value(),
            chemistry=self._base.chemistry,
            source=self.source.text().strip(),
            base_id=self._base.base_id or self._base.id,
            packs_wh=packs,
            units=units,
        )


def tags_in(text: str) -> tuple[str, ...]:
    """Words parted by commas, each once."""
    words = (" ".join(part.split()) for part in text.split(","))
    return tuple(dict.fromkeys(word for word in words if word))


def configuration_name(base: Station, packs: int, units: int) -> str:
    """Like "Fennel 2k + 2 packs", "2 × Fennel 2k"."""
    name = f"{units} × {base.name}" if units > 1 else base.name
    return f"{name} + {counted(packs, 'pack')}" if packs else name


class YardstickDialog(FormDialog):
    """A named limit."""

    manual_page = "uncertainty"

    def __init__(
        self, yardstick: StoredYardstick | None, taken: set[str], parent: QWidget | None = None
    ) -> None:
        title = "Edit the yardstick" if yardstick else "New yardstick"
        super().__init__(title, "Keep it", parent, removable=yardstick is not None)
        self._before = yardstick
        self._taken = taken
        self.name = self.line("Name", yardstick.name if yardstick else "", "My own pass mark")
        self.basis = choice("Of what", [(b.words, b.value) for b in Basis])
        if yardstick:
            self.basis.setCurrentIndex(self.basis.findData(yardstick.basis))
        self.limit = number_box("Limit", "%", 0.01, 150, 85, 1)
        self.basis.currentIndexChanged.connect(lambda _: self._fit_limit())
        self._fit_limit()
        if yardstick:
            self.limit.setValue(self._scale() * yardstick.limit_ratio)
        self.rows.addRow("Of what", self.basis)
        self.rows.addRow("Limit", self.limit)

    def _scale(self) -> float:
        """Percent for shares, money as it is."""
        return 100.0 if Basis(self.basis.currentData()).is_share else 1.0

    def _fit_limit(self) -> None:
        share = self._scale() > 1
        self.limit.setPrefix("at least " if share else "at most ")
        self.limit.setSuffix(" %" if share else " per Wh")
        self.limit.setDecimals(1 if share else 2)
        self.limit.setRange(1 if share else 0.01, 150 if share else 1000)

    def wrong(self) -> str:
        return name_is_wrong(self.name.text().strip(), self._taken)

    def record(self) -> StoredYardstick:
        """The yardstick as entered."""
        return StoredYardstick(
            id=self._before.id if self._before else None,
            name=self.name.text().strip(),
            limit_ratio=self.limit.value() / self._scale(),
            basis=self.basis.currentData(),
        )


class RunDialog(FormDialog):
    """A run's conditions, corrected; its samples are never touched."""

    manual_page = "ledger"

    def __init__(self, run: Run, meters: list[Meter], parent: QWidget | None = None) -> None:
        super().__init__(f"Edit run {run.number}", "Keep it", parent)
        self._run = run
        items: list[tuple[str, object]] = [("not stated", None)]
        items += [(f"{m.name} {m.accuracy}", m.id) for m in meters]
        self.meter = choice("Meter", items)
        self.meter.setCurrentIndex(max(self.meter.findData(run.meter_id), 0))
        self._method = METHODS[run.method]
        self.soc_from = number_box("From", "%", 0, 100, run.soc_from)
        self.soc_to = number_box("To", "%", 0, 100, run.soc_to)
        self.ended_by = choice("What ended it", [(e.words, e.value) for e in EndedBy])
        self.ended_by.setCurrentIndex(max(self.ended_by.findData(run.ended_by), 0))
        self.own_draw = number_box("Own draw", "W", 0, 1000, run.own_draw_w, 1)
        self.rows.addRow("Meter", self.meter)
        self.rows.addRow("State of charge from", self.soc_from)
        self.rows.addRow("to", self.soc_to)
        self.rows.addRow("Meter's own draw, to add", self.own_draw)
        self.rows.addRow("What ended it", self.ended_by)
        self.rows.setRowVisible(self.own_draw, self._method.delivers)
        self.rows.setRowVisible(self.ended_by, self._method.delivers)

    def wrong(self) -> str:
        start, end = self.soc_from.value(), self.soc_to.value()
        if self._method.charges and start >= end:
            return "The state of charge must rise while charging: from below to."
        if not self._method.charges and start <= end:
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
            ended_by=self.ended_by.currentData(),
        )


class VoidDialog(FormDialog):
    """Why a run does not count. It is kept anyway."""

    manual_page = "ledger"

    def __init__(self, run: Run, parent: QWidget | None = None) -> None:
        super().__init__(f"Void run {run.number}", "Void it", parent)
        self.reason = self.line("Reason", run.void_reason, "Input left plugged in…")
        self.rows.addRow(
            label("A void run stays visible with its reason; nothing is judged by it.", "muted")
        )

    def wrong(self) -> str:
        return "" if self.reason.text().strip() else "A void run needs its reason."
