"""The coming days: what a clear sky gives, when to test, and what turning the panels brings."""

from datetime import datetime
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QBoxLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from yardtoll.desktop.theme.fonts import SEMIBOLD, font
from yardtoll.desktop.views.sun.sun_week import SunWeek
from yardtoll.desktop.widgets.basics import button, label, scrolled

if TYPE_CHECKING:
    from yardtoll.review.sun.days import SunOutlook

_MOST_TURNS = 8


class DaysPanel(QWidget):
    """A week of sun and the chosen day's figures.

    Attributes:
        row, side: the week and the words, beside each other or not; the words' area.

    Signals:
        plan_asked(at): plan a solar run, for the local moment at which the chosen day's next
            hours worth testing in begin; None for now.
        turns_changed(hours): turn the panels at these hours.
    """

    plan_asked = Signal(object)
    turns_changed = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.outlook: SunOutlook | None = None
        self.chosen = 0
        layout = self.row = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(26)
        self.week = SunWeek()
        self.week.day_chosen.connect(self.choose_day)
        layout.addWidget(self.week, 8)
        side = QWidget()
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 10, 0)
        column.setSpacing(8)
        self.day_line = label("", "heading")
        self.sum_line = label("", wrap=True)
        self.sum_line.setFont(font(34, SEMIBOLD))
        self.sum_line.setProperty("role", "sum")
        self._facts = label("", "quiet", wrap=True)
        self.now: datetime | None = None
        self.plan_button = button("Plan a solar run", self._ask_plan, "primary")
        for widget in (self.day_line, self.sum_line, self._facts):
            column.addWidget(widget)
        row = QHBoxLayout()
        row.addWidget(self.plan_button)
        row.addStretch(1)
        column.addLayout(row)
        column.addSpacing(10)
        column.addWidget(label("Turn the panels now", "heading"))
        self.now_words = label("", "quiet", wrap=True)
        column.addWidget(self.now_words)
        column.addSpacing(6)
        column.addWidget(label("Turn them through the first day", "heading"))
        hours = QHBoxLayout()
        hours.addWidget(label("At hours", "muted"))
        self.hours = QLineEdit()
        self.hours.setAccessibleName("Hours at which the panels are turned")
        self.hours.editingFinished.connect(self.hours_changed)
        hours.addWidget(self.hours, 1)
        column.addLayout(hours)
        self.turn_words = label("", "quiet", wrap=True)
        column.addWidget(self.turn_words)
        column.addStretch(1)
        self.side = scrolled(side)
        layout.addWidget(self.side, 4)

    def show_outlook(self, outlook: "SunOutlook | None", now: datetime) -> None:
        """Show a week; None while it is worked out."""
        self.outlook, self.now = outlook, now
        self.chosen = min(self.chosen, len(outlook.days) - 1) if outlook else 0
        self.week.show_outlook(outlook, self.chosen)
        if outlook is None:
            self.sum_line.setText("…")
            self._facts.setText("Working the sun out.")
            return
        self._show_day()
        if not self.hours.hasFocus():
            self.hours.setText(", ".join(str(hour) for hour in outlook.turn_hours))
        self.now_words.setText(_now_words(outlook, now))
        self.turn_words.setText(_turn_words(outlook))

    def choose_day(self, index: int) -> None:
        """Show another day's figures."""
        self.chosen = index
        if self.outlook is not None:
            self.week.show_outlook(self.outlook, index)
            self._show_day()

    def _show_day(self) -> None:
        assert self.outlook is not None
        day = self.outlook.days[self.chosen]
        self.day_line.setText(f"{day.day:%A %-d %B}, clear sky")
        self.sum_line.setText(f"{day.clear.expected_wh:.0f} Wh")
        facts = [f"Peak {day.clear.peak_w:.0f} W."]
        if day.clear.clipped_wh >= 1:
            facts.append(f"The station's cap clips {day.clear.clipped_wh:.0f} Wh.")
        windows = " and ".join(f"{s:%-H:%M} to {e:%-H:%M}" for s, e in day.window)
        facts.append(
            f"Worth testing from {windows}: over half of the peak." if windows else "No sun."
        )
        start = self.start
        self.plan_button.setText(f"Plan it for {start:%A %-H:%M}" if start else "Plan a solar run")
        facts += [f"{n.message[:1].upper()}{n.message[1:]}." for n in day.clear.notices]
        self._facts.setText(" ".join(facts))

    @property
    def start(self) -> datetime | None:
        """When the chosen day's next window begins; None where it is open, or none is to come."""
        if self.outlook is None or self.now is None:
            return None
        windows = self.outlook.days[self.chosen].window
        coming = next((start for start, end in windows if end > self.now), None)
        return coming if coming is not None and coming > self.now else None

    def _ask_plan(self) -> None:
        self.plan_asked.emit(self.start)

    def hours_changed(self) -> None:
        found = parse_hours(self.hours.text())
        if found is None:
            self.turn_words.setText("Hours are whole numbers from 0 to 23, such as 9, 12, 15.")
        else:
            self.turns_changed.emit(found)


def parse_hours(text: str) -> tuple[int, ...] | None:
    """Like "9, 12 15" as hours; None where one is none, or there are too many."""
    words = text.replace(",", " ").replace(";", " ").split()
    if len(words) > _MOST_TURNS or not all(word.isdigit() for word in words):
        return None
    hours = tuple(sorted({int(word) for word in words}))
    return hours if all(0 <= hour <= 23 for hour in hours) else None


def _now_words(outlook: "SunOutlook", now: datetime) -> str:
    here, best = outlook.as_they_are, outlook.best
    if here is None or best is None:
        return f"At {now:%-H:%M} the sun is down."
    gain = best.power_w - here.power_w
    if gain < 1:
        return f"At {now:%-H:%M} they are aimed right: {here.power_w:.0f} W under a clear sky."
    return (
        f"At {now:%-H:%M} they give {here.power_w:.0f} W under a clear sky. Facing "
        f"{best.azimuth:.0f}° from north and tilted {best.tilt:.0f}° it would be "
        f"{best.power_w:.0f} W: {gain:.0f} W more."
    )


def _turn_words(outlook: "SunOutlook") -> str:
    turned = outlook.turned
    if not turned.aims:
        return "Left as they are."
    times = outlook.days[0].times
    parts = [
        f"{times[i]:%-H:%M} to {aim.azimuth:.0f}°, tilt {aim.tilt:.0f}°" for i, aim in turned.aims
    ]
    share = turned.gain_wh / turned.fixed_wh if turned.fixed_wh else 0.0
    return (
        f"{'; '.join(parts)}. {turned.aimed_wh:.0f} Wh against {turned.fixed_wh:.0f} Wh: "
        f"{turned.gain_wh:+.0f} Wh, {100 * share:+.0f} % (the dashed line)."
    )
