"""Importing a log: the guessed columns, the result, and its station, before it is kept."""

from dataclasses import dataclass
from zoneinfo import ZoneInfo, available_timezones

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtWidgets import (
    QComboBox,
    QCompleter,
    QDialogButtonBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.core.discharge.meter_log import MeterLog, analyse_log
from yardtoll.core.electrical.quantities import LOGGED, QUANTITIES, Quantity
from yardtoll.core.electrical.trace import Code, Trace
from yardtoll.core.formatting import format_span
from yardtoll.core.methods import METHODS
from yardtoll.desktop.widgets.basics import choice, label, number_box, rule
from yardtoll.desktop.widgets.help_window import HelpedDialog
from yardtoll.desktop.widgets.roomy_area import RoomyArea
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.desktop.workbench.jobs import JobHandle, Jobs
from yardtoll.store.errors import StoreError
from yardtoll.store.logs.columns import DATE, TIME, ColumnMapping, override
from yardtoll.store.logs.read import OpenLog, mapped_columns, to_trace
from yardtoll.store.records import SIMULATED, Meter, Station
from yardtoll.store.site_time import shown_zone

_ROWS_SHOWN = 200
_SHOWN_FIRST = (TIME, DATE, Quantity.POWER.value, Quantity.ENERGY.value, Quantity.VOLTS.value)


@dataclass(frozen=True)
class Preview:
    """A log read by a mapping: the trace and its result, or the reason it has none."""

    trace: Trace | None
    found: MeterLog | None
    problem: str = ""


class CellsModel(QAbstractTableModel):
    """The first rows of a log as they stand in the file."""

    def __init__(self, log: OpenLog, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        head = log.table.frame.head(_ROWS_SHOWN)
        self._names = head.columns
        self._rows = [["" if c is None else str(c) for c in row] for row in head.rows()]

    def rowCount(self, parent: QModelIndex | QPersistentModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self._rows)

    def columnCount(self, parent: QModelIndex | QPersistentModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self._names)

    def data(
        self, index: QModelIndex | QPersistentModelIndex, role: int = Qt.ItemDataRole.DisplayRole
    ) -> str | None:
        if role != Qt.ItemDataRole.DisplayRole or not index.isValid():
            return None
        return self._rows[index.row()][index.column()]

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> str | None:
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        horizontal = orientation is Qt.Orientation.Horizontal
        return self._names[section] if horizontal else str(section + 1)


_CELLS_H, _COLUMN_LETTERS = 110, 8


class ImportDialog(HelpedDialog):
    """Shows a log's cells, the guessed mapping and the figure it gives; nothing is kept before
    it is accepted.

    Args:
        log: the open log.
        jobs: where it is read again each time the mapping changes.
    """

    manual_page = "logs"

    def __init__(
        self,
        log: OpenLog,
        stations: list[Station],
        current: Station | None,
        meters: list[Meter],
        jobs: Jobs,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Import {log.name}")
        self.resize(980, 660)
        self._log = log
        self._jobs = jobs
        self._job = 0
        self.preview: Preview | None = None
        self.columns: dict[str, QComboBox] = {}
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 18, 24, 16)
        outer.setSpacing(10)
        self.headline = label(f"Reading {log.name}…", "title", wrap=True)
        self._detail = label("", "muted", wrap=True)
        outer.addWidget(self.headline)
        outer.addWidget(self._detail)
        cells = QTableView()
        cells.setModel(CellsModel(log, self))
        cells.setAccessibleName("The log's first lines")
        cells.setAlternatingRowColors(True)
        cells.verticalHeader().setDefaultSectionSize(26)
        cells.horizontalHeader().setStretchLastSection(True)
        cells.setMinimumHeight(_CELLS_H)
        column = QVBoxLayout()
        column.setSpacing(10)
        column.addWidget(cells, 1)
        column.addWidget(label("Which column is what (guessed; change what is wrong)", "heading"))
        column.addLayout(self._make_mapping())
        column.addWidget(rule())
        column.addLayout(self._make_belonging(stations, current, meters))
        outer.addWidget(RoomyArea(column), 1)
        self.wrong_label = label("", "bad", wrap=True)
        outer.addWidget(self.wrong_label)
        buttons = QDialogButtonBox()
        self.accept_button = buttons.addButton(
            "Keep as a run", QDialogButtonBox.ButtonRole.AcceptRole
        )
        self.accept_button.setProperty("role", "primary")
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self._try)
        buttons.rejected.connect(self.reject)
        outer.addWidget(buttons)
        self._read()

    def _make_mapping(self) -> QVBoxLayout:
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(6)
        names: list[tuple[str, object]] = [("–", "")]
        names += [(name, name) for name in self._log.table.frame.columns]
        others = [q.value for q in LOGGED if q.value not in _SHOWN_FIRST]
        guessed = mapped_columns(self._log.guess)
        for i, purpose in enumerate((*_SHOWN_FIRST, *others)):
            box = choice(f"Column of {_purpose_words(purpose)}", names)
            box.setMinimumContentsLength(_COLUMN_LETTERS)
            box.setCurrentIndex(max(box.findData(guessed.get(purpose, "")), 0))
            box.currentIndexChanged.connect(self._read)
            self.columns[purpose] = box
            row, column = divmod(i, 5)
            mapped = self._log.guess.get(purpose)
            doubt = " – a guess" if mapped is not None and not mapped.sure else ""
            words = label(_purpose_words(purpose) + doubt, "accent" if doubt else "muted")
            self._grid.addWidget(words, 2 * row, column)
            self._grid.addWidget(box, 2 * row + 1, column)
        for column in range(5):
            self._grid.setColumnStretch(column, 1)
        line = QVBoxLayout()
        line.addLayout(self._grid)
        return line

    def _make_belonging(
        self, stations: list[Station], current: Station | None, meters: list[Meter]
    ) -> QVBoxLayout:
        """Station, meter, window and zone of the run to be."""
        column = QVBoxLayout()
        row = WrappedRow(10)
        items: list[tuple[str, object]] = [(s.name, s) for s in stations]
        self.station = choice("Station", [*items, ("a new station…", None)])
        if current is not None:
            self.station.setCurrentIndex(max(self.station.findText(current.name), 0))
        metered: list[tuple[str, object]] = [("meter not stated", None)]
        metered += [(f"{m.name} {m.accuracy}", m) for m in meters]
        self.meter = choice("Meter", metered)
        real = [i for i, m in enumerate(meters, start=1) if m.address != SIMULATED]
        if len(real) == 1:
            self.meter.setCurrentIndex(real[0])
        kinds: list[tuple[str, object]] = [
            (m.title, m.key) for m in METHODS.values() if not m.rests
        ]
        self.method = choice("What the log is of", kinds)
        self.method.currentIndexChanged.connect(self._show_method)
        self.soc_from = number_box("State of charge from", "%", 0, 100, 100)
        self.soc_to = number_box("State of charge to", "%", 0, 100, 0)
        self.zone = QLineEdit()
        self.zone.setPlaceholderText(f"{shown_zone()}, if local times")
        self.zone.setAccessibleName("Time zone of local times")
        completer = QCompleter(sorted(available_timezones()), self.zone)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        self.zone.setCompleter(completer)
        self.zone.editingFinished.connect(self._read)
        row.addWidget(self.method)
        row.add_together(label("of"), self.station)
        row.addWidget(self.meter)
        row.add_together(self.soc_from, label("to"), self.soc_to)
        row.addWidget(self.zone)
        column.addLayout(row)
        column.addWidget(self._make_ending())
        self._new_station = QWidget()
        line = QHBoxLayout(self._new_station)
        line.setContentsMargins(0, 0, 0, 0)
        self.new_name = QLineEdit()
        self.new_name.setPlaceholderText("name of the new station")
        self.new_name.setAccessibleName("Name of the new station")
        self.new_wh = number_box("Rated energy", "Wh rated", 0, 1_000_000, 0, 1)
        self.new_w = number_box("Rated power", "W rated", 0, 100_000, 0)
        line.addWidget(self.new_name, 2)
        line.addWidget(self.new_wh, 1)
        line.addWidget(self.new_w, 1)
        column.addWidget(self._new_station)
        self.station.currentIndexChanged.connect(self._show_new_station)
        self._show_new_station()
        return column

    def _make_ending(self) -> QWidget:
        """What ended a discharge."""
        self.ended_by = choice("What ended it", [(e.words, e.value) for e in EndedBy])
        self.ended_by.setCurrentIndex(self.ended_by.findData(EndedBy.UNKNOWN.value))
        self._ending = QWidget()
        line = QHBoxLayout(self._ending)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(label("What ended it", "muted"))
        line.addWidget(self.ended_by)
        line.addStretch(1)
        return self._ending

    def mapping(self) -> ColumnMapping:
        """The mapping as chosen.

        Raises:
            MappingError: two purposes share one column in a way that cannot be.
        """
        chosen = {purpose: str(box.currentData() or "") for purpose, box in self.columns.items()}
        guessed = mapped_columns(self._log.guess)
        changed = {p: c for p, c in chosen.items() if guessed.get(p, "") != c}
        return override(self._log.guess, changed, self._log.table.frame, self._log.name)

    def chosen_columns(self) -> dict[str, str]:
        """Purpose → column, for the run's conditions."""
        return mapped_columns(self.mapping())

    def chosen_station(self) -> Station:
        """The station the run belongs to; without id when it is new."""
        station = self.station.currentData()
        if isinstance(station, Station):
            return station
        return Station(
            name=self.new_name.text().strip(),
            rated_wh=self.new_wh.value(),
            rated_w=self.new_w.value(),
        )

    def done(self, result: int) -> None:
        self._jobs.cancel(self._job)
        super().done(result)

    def _zone(self) -> ZoneInfo | None:
        text = self.zone.text().strip()
        if not text:
            zone = shown_zone()
            return zone if isinstance(zone, ZoneInfo) else None
        try:
            return ZoneInfo(text)
        except (OSError, ValueError, KeyError):
            raise StoreError(f"“{text}” is not a time zone, such as Europe/Lisbon.") from None

    def _read(self) -> None:
        """Read the log by the present mapping, off the GUI thread."""
        self._jobs.cancel(self._job)
        self.preview = None
        self.accept_button.setEnabled(False)
        try:
            work = _ReadLog(self._log, self.mapping(), self._zone())
        except StoreError as error:
            self._show(Preview(None, None, str(error)))
            return
        self._job = self._jobs.start(
            f"Reading {self._log.name}",
            work,
            self._show,
            lambda error: self._show(Preview(None, None, str(error))),
        )

    def _show(self, preview: Preview) -> None:
        self.preview = preview
        self.accept_button.setEnabled(preview.found is not None)
        self.wrong_label.setVisible(bool(preview.problem))
        self.wrong_label.setText(preview.problem)
        found = preview.found
        if found is None or preview.trace is None:
            self.headline.setText(f"{self._log.name} cannot be read this way")
            self._detail.setText("Nothing is kept. Name the columns below.")
            return
        length = format_span(found.span.cutoff_s - found.span.start_s)
        self.headline.setText(f"{found.delivered_wh:.1f} Wh over {length}")
        source = "energy counter" if found.source == "counter" else "power column"
        said = [f"{preview.trace.time_s.size} samples, energy by the {source}"]
        columns = mapped_columns(self._log.guess)
        if Quantity.POWER in preview.trace.columns and "power" not in columns:
            pf = ", × power factor" if Quantity.POWER_FACTOR in preview.trace.columns else ""
            said.append(f"power = volts × amps{pf}")
        said += [n.message for n in found.notices if n.code is not Code.MISSING_VALUES]
        self._detail.setText("\n".join(said))

    def _show_new_station(self) -> None:
        self._new_station.setVisible(self.station.currentData() is None)

    def _show_method(self) -> None:
        start, end = METHODS[self.method.currentData()].soc
        self.soc_from.setValue(start)
        self.soc_to.setValue(end)
        self._ending.setVisible(METHODS[self.method.currentData()].delivers)

    def _try(self) -> None:
        said = self._what_is_wrong()
        self.wrong_label.setText(said)
        self.wrong_label.setVisible(bool(said))
        if not said and self.preview is not None and self.preview.found is not None:
            self.accept()

    def _what_is_wrong(self) -> str:
        rises = METHODS[self.method.currentData()].charges
        start, end = self.soc_from.value(), self.soc_to.value()
        if start == end or (end > start) is not rises:
            return f"The state of charge must {'rise' if rises else 'fall'}: from … to."
        station = self.chosen_station()
        if not station.name:
            return "Name the new station."
        if station.rated_wh <= 0 or station.rated_w <= 0:
            return "A new station needs its rated Wh and rated W."
        return ""


@dataclass(frozen=True)
class _ReadLog:
    """A job's frozen input."""

    log: OpenLog
    mapping: ColumnMapping
    zone: ZoneInfo | None

    def __call__(self, handle: JobHandle) -> Preview:
        trace = to_trace(self.log, self.mapping, self.zone, handle.progress)
        handle.progress("Working out the energy")
        return Preview(trace, analyse_log(trace))


def _purpose_words(purpose: str) -> str:
    if purpose in (TIME, DATE):
        return {"time": "Time", "date": "Date, if apart"}[purpose]
    info = QUANTITIES[Quantity(purpose)]
    return f"{info.label}, {info.unit}" if info.unit else info.label
