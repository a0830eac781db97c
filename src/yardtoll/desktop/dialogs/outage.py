"""Dialogs of an outage: its appliances, what feeds it, and figures typed instead of measured."""

from dataclasses import replace

from PySide6.QtWidgets import QCheckBox, QWidget

from yardtoll.core.endurance.heat import Heating
from yardtoll.core.errors import FieldError, UnusableDataError
from yardtoll.desktop.dialogs.form import FormDialog, name_is_wrong
from yardtoll.desktop.widgets.basics import label, number_box
from yardtoll.desktop.widgets.optional_number import OptionalNumber
from yardtoll.store.records import Appliance, OutageFeed, OutageUse, StoredOutage

_MOST_W = 100_000.0
_MOST_WH = 1_000_000.0


def parse_hour(text: str) -> float | None:
    """A clock hour like "22", "22:30" or "7.5"; None where the text is empty.

    Raises:
        FieldError: it is none.
    """
    text = text.strip().lower().removesuffix("h").strip()
    if not text:
        return None
    hour, colon, minute = text.partition(":")
    try:
        value = float(hour.replace(",", ".")) + (float(minute) / 60 if colon else 0.0)
    except ValueError:
        raise FieldError(f'"{text}" is no clock hour, such as 22:30') from None
    if not 0 <= value <= 24:
        raise FieldError(f'"{text}" is no clock hour from 0:00 to 24:00')
    return value


def shown_hour(hour: float | None) -> str:
    """As it is typed; "" for none."""
    if hour is None:
        return ""
    minutes = round(60 * hour)
    return f"{minutes // 60}:{minutes % 60:02d}"


class UseDialog(FormDialog):
    """An appliance of an outage."""

    manual_page = "endurance"

    def __init__(
        self, use: OutageUse | None, taken: set[str], parent: QWidget | None = None
    ) -> None:
        title = f"{use.name} in this outage" if use else "An appliance"
        super().__init__(title, "Keep it", parent, removable=use is not None)
        kept = use or OutageUse(name="", watts=0.0)
        self._taken = taken
        self.name = self.line("Name", kept.name, "Fridge in the hall")
        self.watts = number_box("W while it draws", "W", 0, _MOST_W, kept.watts, 1)
        self.duty = number_box("Share of the time", "%", 0, 100, 100 * kept.duty, 1)
        self.low = number_box("At least", "W", 0, _MOST_W, kept.watts * kept.low_share, 1)
        self.high = number_box("At most", "W", 0, _MOST_W, kept.watts * kept.high_share, 1)
        self.inrush = OptionalNumber("W to start", "W", 0, kept.inrush_w)
        self.rows.addRow("Draws", self.watts)
        self.rows.addRow("of the time", self.duty)
        self.rows.addRow("at least", self.low)
        self.rows.addRow("at most", self.high)
        self.rows.addRow("To start", self.inrush)
        self.begins = self.line("On from", shown_hour(kept.from_h), "all day")
        self.ends = self.line("to", shown_hour(kept.to_h), "all day")
        self.keep_own = QCheckBox("Keep it among my appliances too")
        self.rows.addRow("", self.keep_own)
        self.watts.valueChanged.connect(self._follow)
        self._ratio = (kept.low_share, kept.high_share)
        self.name.setFocus()

    def _follow(self, watts: float) -> None:
        """Its range goes with it."""
        self.low.setValue(watts * self._ratio[0])
        self.high.setValue(watts * self._ratio[1])

    def wrong(self) -> str:
        if said := name_is_wrong(self.name.text().strip(), self._taken):
            return said
        if self.watts.value() <= 0:
            return "What it draws must be above 0 W."
        if not self.low.value() <= self.watts.value() <= self.high.value():
            return "What it draws must lie between its least and its most."
        try:
            self.use()
        except FieldError as error:
            return f"{error}."
        return ""

    def use(self) -> OutageUse:
        """As entered.

        Raises:
            FieldError: an hour or a number is none, or one of two hours is missing.
        """
        watts = self.watts.value()
        begin, end = parse_hour(self.begins.text()), parse_hour(self.ends.text())
        if (begin is None) != (end is None):
            raise FieldError("Give both hours, or none for all day")
        if begin is not None and begin == end:
            raise FieldError("From and to are the same hour: leave both empty for all day")
        return OutageUse(
            name=self.name.text().strip(),
            watts=watts,
            duty=self.duty.value() / 100,
            from_h=begin,
            to_h=end,
            inrush_w=self.inrush.value(),
            low_share=min(self.low.value() / watts, 1.0),
            high_share=max(self.high.value() / watts, 1.0),
        )

    def appliance(self) -> Appliance:
        """As one of the reviewer's own.

        Raises:
            FieldError: as for :meth:`use`.
        """
        use = self.use()
        return Appliance(
            name=use.name, watts=use.watts, duty=use.duty, inrush_w=use.inrush_w,
            low_share=use.low_share, high_share=use.high_share,
        )  # fmt: skip


class HeatDialog(FormDialog):
    """Water that is warmed so many times a day, as an appliance."""

    manual_page = "endurance"

    def __init__(
        self, efficiency: float | None, taken: set[str], parent: QWidget | None = None
    ) -> None:
        super().__init__("Warm water", "Put it in", parent)
        self._taken = taken
        self.name = self.line("Name", "Kettle")
        self.litres = number_box("Litres", "L", 0.05, 200, 1, 2)
        self.cold = number_box("From", "°C", 0, 100, 15)
        self.hot = number_box("To", "°C", 0, 100, 100)
        usual = 85.0 if efficiency is None else 100 * efficiency
        self.efficiency = number_box("Into the water", "%", 1, 100, usual)
        self.watts = number_box("Kettle", "W", 1, _MOST_W, 1500)
        self.times = number_box("Times a day", "", 1, 50, 2)
        self.begins = self.line("Between", "7:00")
        self.ends = self.line("and", "20:00")
        self.said = label("", "muted", wrap=True)
        for words, box in (
            ("Water", self.litres),
            ("from", self.cold),
            ("to", self.hot),
            ("Into the water", self.efficiency),
            ("The kettle draws", self.watts),
            ("Times a day", self.times),
        ):
            box.valueChanged.connect(lambda _: self._say())
            self.rows.addRow(words, box)
        note = (
            "as measured in my own run"
            if efficiency is not None
            else "of a kettle, common practice"
        )
        self.rows.addRow("", label(f"{usual:.0f} % {note}", "muted"))
        self.rows.addRow("", self.said)
        self._say()

    def _heating(self) -> Heating:
        return Heating(
            litres=self.litres.value(),
            from_c=self.cold.value(),
            to_c=self.hot.value(),
            efficiency=self.efficiency.value() / 100,
        )

    def _say(self) -> None:
        try:
            each = self._heating()
        except UnusableDataError:
            self.said.setText("")
            return
        self.said.setText(
            f"{each.into_water_wh:.0f} Wh into the water, {each.from_outlet_wh:.0f} Wh from the "
            f"outlet each time."
        )

    def wrong(self) -> str:
        if said := name_is_wrong(self.name.text().strip(), self._taken):
            return said
        try:
            use = self.use()
        except (FieldError, UnusableDataError) as error:
            return f"{error}."
        if use.duty > 1:
            return "So much water cannot be warmed with these W in these hours."
        return ""

    def use(self) -> OutageUse:
        """As an appliance: its W for a share of the hours between which it is used.

        Raises:
            FieldError: an hour is none, or one is missing.
            UnusableDataError: the water would not become warmer.
        """
        begin, end = parse_hour(self.begins.text()), parse_hour(self.ends.text())
        if begin is None or end is None or begin == end:
            raise FieldError("give the two hours between which it is used")
        hours = (end - begin) % 24 or 24.0
        daily_wh = self.times.value() * self._heating().from_outlet_wh
        return OutageUse(
            name=self.name.text().strip(),
            watts=self.watts.value(),
            duty=daily_wh / (self.watts.value() * hours),
            from_h=begin,
            to_h=end,
            low_share=0.95,
            high_share=1.05,
        )


class FeedDialog(FormDialog):
    """Wall or generator power between two clock hours."""

    manual_page = "endurance"

    def __init__(
        self, feed: OutageFeed | None, taken: set[str], parent: QWidget | None = None
    ) -> None:
        title = "Edit the wall or generator" if feed else "Wall or generator power"
        super().__init__(title, "Keep it", parent, removable=feed is not None)
        self._taken = taken
        self.name = self.line("Name", feed.name if feed else "Generator")
        self.watts = number_box("The charger draws", "W", 0, _MOST_W, feed.watts if feed else 500)
        self.rows.addRow("The charger draws", self.watts)
        self.begins = self.line("From", shown_hour(feed.from_h if feed else 18.0))
        self.ends = self.line("to", shown_hour(feed.to_h if feed else 20.0))
        self.rows.addRow(
            "",
            label("A generator runs out of doors only, away from windows.", "warning", wrap=True),
        )

    def wrong(self) -> str:
        if said := name_is_wrong(self.name.text().strip(), self._taken):
            return said
        if self.watts.value() <= 0:
            return "What it draws must be above 0 W."
        try:
            self.feed()
        except FieldError as error:
            return f"{error}."
        return ""

    def feed(self) -> OutageFeed:
        """As entered.

        Raises:
            FieldError: an hour is none, or one is missing.
        """
        begin, end = parse_hour(self.begins.text()), parse_hour(self.ends.text())
        if begin is None or end is None or begin == end:
            raise FieldError("give the two clock hours between which there is power")
        return OutageFeed(
            name=self.name.text().strip(), watts=self.watts.value(), from_h=begin, to_h=end
        )


class OutageDialog(FormDialog):
    """An outage's name, and figures that are typed instead of measured."""

    manual_page = "endurance"

    def __init__(
        self, outage: StoredOutage, taken: set[str], parent: QWidget | None = None
    ) -> None:
        super().__init__("The outage", "Keep it", parent, removable=outage.id is not None)
        self._before, self._taken = outage, taken
        self.name = self.line("Name", outage.name, "Winter night")
        self.note = self.line("Note", outage.note)
        self.rows.addRow("", label("Where no runs measured the station, type:", "muted"))
        self.store = OptionalNumber("Store at the battery", "Wh", 0, outage.store_wh)
        self.overhead = OptionalNumber("Overhead, outlet on", "W", 1, outage.overhead_w)
        self.conversion = OptionalNumber("Lost of the output", "%", 1, _percent(outage.conversion))
        self.cap = OptionalNumber("Solar input at most", "W", 0, outage.cap_w)
        for words, field in (
            ("Store", self.store),
            ("Overhead", self.overhead),
            ("Lost of the output", self.conversion),
            ("Solar input at most", self.cap),
        ):
            self.rows.addRow(words, field)

    def wrong(self) -> str:
        if said := name_is_wrong(self.name.text().strip(), self._taken):
            return said
        try:
            made = self.record()
        except FieldError as error:
            return f"{error}."
        if (made.store_wh is None) != (made.overhead_w is None):
            return "Type store and overhead both, or neither."
        for value, words, low, high in (
            (made.store_wh, "The store", 1.0, _MOST_WH),
            (made.overhead_w, "The overhead", 0.0, 1000.0),
            (_percent(made.conversion), "What is lost of the output", 0.0, 100.0),
            (made.cap_w, "The solar input", 1.0, _MOST_W),
        ):
            if value is not None and not low <= value <= high:
                return f"{words} must be from {low:g} to {high:g}."
        return ""

    def record(self) -> StoredOutage:
        """As entered.

        Raises:
            FieldError: a number is none.
        """
        lost = self.conversion.value()
        return replace(
            self._before,
            name=self.name.text().strip(),
            note=self.note.text().strip(),
            store_wh=self.store.value(),
            overhead_w=self.overhead.value(),
            conversion=None if lost is None else lost / 100,
            cap_w=self.cap.value(),
        )


def _percent(share: float | None) -> float | None:
    return None if share is None else 100 * share


def names_of(outage: StoredOutage) -> set[str]:
    """Names of its lanes, which must differ."""
    return {use.name for use in outage.uses} | {feed.name for feed in outage.feeds}
