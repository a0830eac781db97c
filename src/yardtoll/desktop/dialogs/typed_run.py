"""A run typed in afterwards: from a notepad, or read off a time-lapse with its clock times."""

from datetime import UTC, datetime, timedelta

from PySide6.QtCore import QDateTime
from PySide6.QtWidgets import QDateTimeEdit, QPlainTextEdit, QWidget

from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.core.electrical.typed_readings import TypedReading, parse_typed_lines
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.methods import METHODS
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import choice, label, number_box
from yardtoll.running.words import CHARGED, CUT_OFF
from yardtoll.store.records import (
    TYPED,
    Conditions,
    Mark,
    Meter,
    Reading,
    ReadingKind,
    Run,
    RunState,
    Station,
)
from yardtoll.store.site_time import meant_here
from yardtoll.store.site_time import now as now_here
from yardtoll.store.yard_file import YardFile

_TEXT_H = 190


class TypedRunDialog(FormDialog):
    """What was done, with which meter, and the readings one a line."""

    def __init__(
        self, station: Station, meters: list[Meter], parent: QWidget | None = None
    ) -> None:
        super().__init__(f"Type a run of {station.name} in", "Keep it", parent)
        self._station = station
        self.method = choice(
            "What was done", [(m.title, m.key) for m in METHODS.values() if not m.rests]
        )
        self.meter = choice("Meter", [("not stated", None), *((m.name, m.id) for m in meters)])
        real = [m.id for m in meters if not m.is_simulated]
        self.meter.setCurrentIndex(self.meter.findData(real[0]) if real else 0)
        self.began = QDateTimeEdit(
            QDateTime.fromString(f"{now_here():%Y-%m-%dT%H:%M}", "yyyy-MM-ddTHH:mm")
        )
        self.began.setDisplayFormat("yyyy-MM-dd HH:mm")
        self.began.setAccessibleName("When the first reading was")
        self.ended_by = choice("What ended it", [(e.words, e.value) for e in EndedBy])
        self.ended_by.setCurrentIndex(self.ended_by.findData(EndedBy.UNKNOWN.value))
        self.soc_from = number_box("From state of charge", "%", 0, 100, 100)
        self.soc_to = number_box("To state of charge", "%", 0, 100, 0)
        self.text = QPlainTextEdit()
        self.text.setPlaceholderText(
            "10:32 0 Wh\n11:30 401 Wh 80 %\n14:58 1830 Wh\n\nClock times or times from the start; "
            "the display's % where it was read."
        )
        self.text.setAccessibleName("Readings, one a line: time, Wh, and % where read")
        self.text.setFixedHeight(_TEXT_H)
        self.text.setTabChangesFocus(True)
        self.text.textChanged.connect(self._read)
        self.said = label("", "muted", wrap=True)
        for words, field in (
            ("What was done", self.method),
            ("Meter", self.meter),
            ("First reading", self.began),
            ("State of charge from", self.soc_from),
            ("to", self.soc_to),
            ("What ended it", self.ended_by),
        ):
            self.rows.addRow(words, field)
        self.rows.addRow(self.text)
        self.rows.addRow(self.said)
        self.method.currentIndexChanged.connect(self._show_method)

    def wrong(self) -> str:
        charges = METHODS[self.method.currentData()].charges
        rises = self.soc_to.value() > self.soc_from.value()
        if rises is not charges or self.soc_to.value() == self.soc_from.value():
            return f"The state of charge must {'rise' if charges else 'fall'}."
        try:
            self.readings()
        except UnusableDataError as error:
            text = str(error)
            return f"{text[:1].upper()}{text[1:]}."
        return ""

    def readings(self) -> list[TypedReading]:
        """The lines as readings.

        Raises:
            UnusableDataError: a line is malformed; it names the line.
        """
        return parse_typed_lines(self.text.toPlainText())

    def keep(self, yard: YardFile) -> Run:
        """Keep the run with its readings; its last one is its end."""
        readings = self.readings()
        typed = self.began.dateTime().toString("yyyy-MM-ddTHH:mm")
        began = meant_here(datetime.fromisoformat(typed)).astimezone(UTC)
        assert self._station.id is not None
        run = yard.put(
            Run(
                station_id=self._station.id,
                number=yard.next_number(self._station.id),
                method=self.method.currentData(),
                state=RunState.FINISHED.value,
                origin=TYPED,
                started_at=began.isoformat(timespec="milliseconds"),
                ended_at=(began + timedelta(seconds=readings[-1].s)).isoformat(),
                meter_id=self.meter.currentData(),
                soc_from=self.soc_from.value(),
                soc_to=self.soc_to.value(),
                ended_by=self.ended_by.currentData(),
                conditions=Conditions(load="typed in"),
            )
        )
        assert run.id is not None
        for reading in readings:
            kind = ReadingKind.METER_WH.value
            yard.put(Reading(run_id=run.id, time_s=reading.s, kind=kind, value=reading.energy_wh))
            if reading.soc is not None:
                kind = ReadingKind.SOC.value
                yard.put(Reading(run_id=run.id, time_s=reading.s, kind=kind, value=reading.soc))
        word = CHARGED if METHODS[run.method].charges else CUT_OFF
        yard.put(Mark(run_id=run.id, time_s=readings[-1].s, word=word, ends_run=True))
        return run

    def _show_method(self) -> None:
        start, end = METHODS[self.method.currentData()].soc
        self.soc_from.setValue(start)
        self.soc_to.setValue(end)
        self.rows.setRowVisible(self.ended_by, METHODS[self.method.currentData()].delivers)

    def _read(self) -> None:
        try:
            readings = self.readings()
        except UnusableDataError as error:
            self.said.setText(str(error))
            return
        energy = readings[-1].energy_wh - readings[0].energy_wh
        self.said.setText(
            f"{len(readings)} readings, {energy:g} Wh over {readings[-1].s / 3600:.2f} h. The last "
            "one is taken for the end."
        )
