"""What is asked of an outage, as boxes: when, how long, packs, stations, and the sun."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QVBoxLayout, QWidget

from yardtoll.core.endurance.weather import WEATHER
from yardtoll.desktop.widgets.basics import button, choice, label, number_box, refill
from yardtoll.desktop.widgets.clock_field import ClockField
from yardtoll.desktop.widgets.days import qt_clock
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.review.endurance.edits import (
    stored_time,
    sun_choices,
    sun_key,
    with_packs,
    with_sun,
)
from yardtoll.store.records import SolarArray, StoredOutage, SunFrom
from yardtoll.store.site_time import local

_MOST_HOURS = 240.0
_SETTLE_MS = 120


class OutageBoxes(QWidget):
    """Two rows of boxes, in more lines where there is less room.

    Signals:
        outage_chosen(id): another outage; None for one that is not kept.
        settled: the boxes say something else, and nobody is typing any more.
        site_asked, panels_asked, plan_asked: what is missing for an answer.
    """

    outage_chosen = Signal(object)
    settled = Signal()
    site_asked = Signal()
    panels_asked = Signal()
    plan_asked = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._settling = QTimer(self, singleShot=True, interval=_SETTLE_MS)
        self._settling.timeout.connect(self.settled)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        rows.addLayout(self._make_times())
        rows.addLayout(self._make_sun())

    def _make_times(self) -> WrappedRow:
        row = WrappedRow(10)
        self.chooser = choice("Outage")
        self.chooser.setMinimumContentsLength(16)
        self.chooser.activated.connect(
            lambda _: self.outage_chosen.emit(self.chooser.currentData())
        )
        row.addWidget(self.chooser)
        self.begins = ClockField("When it begins", f"ddd d MMM  {qt_clock()}")
        self.begins.setCalendarPopup(True)
        self.begins.dateTimeChanged.connect(lambda _: self._settling.start())
        row.add_together(label("from", "muted"), self.begins)
        self.hours = number_box("How long it is", "h", 1, _MOST_HOURS, 24)
        self.hours.valueChanged.connect(lambda _: self._settling.start())
        row.add_together(label("for", "muted"), self.hours)
        self.packs = number_box("Packs put on", "", 0, 20, 0)
        self.units = number_box("Stations together", "", 1, 20, 1)
        for words, box in (("packs", self.packs), ("stations", self.units)):
            row.add_together(label(words, "muted"), box)
            box.valueChanged.connect(lambda _: self._settling.start())
        row.rest_to_the_right()
        self.menu_button = button("This outage ▾", name="This outage")
        row.addWidget(self.menu_button)
        return row

    def fill_menu(
        self, items: Mapping[str, tuple[str, Callable[[], object]]]
    ) -> dict[str, QAction]:
        """Put (words, what is done) into the menu of the outage; its actions by the same keys."""
        menu = QMenu(self)
        self._actions = {key: menu.addAction(words, act) for key, (words, act) in items.items()}
        self.menu_button.setMenu(menu)
        return self._actions

    def _make_sun(self) -> WrappedRow:
        row = WrappedRow(10)
        self.sun = choice("Where the sun comes from")
        self.weather = choice("Weather", [(w.title, key) for key, w in WEATHER.items()])
        self.array = choice("Panels")
        self.more_panels = number_box("Panels more", "", 0, 40, 0)
        self.more_panels.setPrefix("+ ")
        self.more_panels.setSuffix(" panels")
        row.add_together(label("Sun", "muted"), self.sun)
        for box in (self.sun, self.weather, self.array):
            box.activated.connect(lambda _: self.settled.emit())
        row.addWidget(self.weather)
        row.addWidget(self.array)
        self.more_panels.valueChanged.connect(lambda _: self._settling.start())
        row.addWidget(self.more_panels)
        self.site_button = button("Enter the bench's place…", self.site_asked.emit)
        self.panels_button = button("Add the panels…", self.panels_asked.emit)
        row.addWidget(self.site_button)
        row.addWidget(self.panels_button)
        row.rest_to_the_right()
        self.plan_button = button("Plan the run that is missing", self.plan_asked.emit, "primary")
        row.addWidget(self.plan_button)
        return row

    @property
    def are_settled(self) -> bool:
        """Nothing was changed that has not been told."""
        return not self._settling.isActive()

    def show_outages(self, outages: Sequence[StoredOutage], shown: StoredOutage) -> None:
        """Offer these; one of them is shown."""
        refill(self.chooser, [(outage.name, outage.id) for outage in outages])
        self.chooser.setCurrentIndex(max(self.chooser.findData(shown.id), 0))

    def show_outage(
        self,
        outage: StoredOutage,
        solar: list[tuple[int, str]],
        arrays: Sequence[SolarArray],
        *,
        has_place: bool,
        writable: bool,
    ) -> None:
        """What is asked, into the boxes; none of them tells of it.

        Args:
            solar: (run, its day) of each run whose sun can be taken.
            has_place: it is known where the bench stands.
        """
        refill(self.sun, sun_choices(solar))
        refill(self.array, [(array.name, array.id) for array in arrays])
        self.sun.setCurrentIndex(max(self.sun.findData(sun_key(outage)), 0))
        self.weather.setCurrentIndex(self.weather.findData(outage.weather))
        chosen = outage.array_ids[0] if outage.array_ids else None
        self.array.setCurrentIndex(max(self.array.findData(chosen), 0))
        shown = (
            (self.hours, outage.hours),
            (self.packs, float(len(outage.packs_wh))),
            (self.units, float(outage.units)),
            (self.more_panels, float(outage.more_panels)),
        )
        for box, value in shown:
            if box.value() != value and not box.hasFocus():
                box.blockSignals(True)
                box.setValue(value)
                box.blockSignals(False)
        if not self.begins.hasFocus():
            self.begins.blockSignals(True)
            self.begins.show_moment(local(outage.begins_at))
            self.begins.blockSignals(False)
        every = (self.begins, self.hours, self.packs, self.units, self.sun, self.weather)
        for widget in (*every, self.array, self.more_panels):
            widget.setEnabled(writable)
        self.menu_button.setVisible(writable)
        self._actions["remove"].setEnabled(outage.id is not None)
        by_sky = outage.sun == SunFrom.SKY
        self.weather.setVisible(by_sky)
        self.array.setVisible(outage.sun != SunFrom.NONE and bool(arrays))
        self.more_panels.setVisible(outage.sun != SunFrom.NONE and bool(arrays))
        self.site_button.setVisible(by_sky and not has_place and writable)
        self.panels_button.setVisible(by_sky and not arrays and writable)

    def edited(self, outage: StoredOutage, pack_wh: float) -> StoredOutage:
        """An outage as the boxes say it; packs that are put on have so many Wh."""
        array = self.array.currentData()
        kept = outage.array_ids
        same = bool(kept) and kept[0] == array
        changed = replace(
            outage,
            begins_at=stored_time(self.begins.moment()),
            hours=self.hours.value(),
            units=int(self.units.value()),
            weather=self.weather.currentData() or outage.weather,
            array_ids=kept if same else ((array,) if array is not None else ()),
            more_panels=int(self.more_panels.value()),
        )
        changed = with_sun(changed, self.sun.currentData() or SunFrom.NONE.value)
        return with_packs(changed, int(self.packs.value()), pack_wh)
