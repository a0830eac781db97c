"""A date and time of day as the clock at the bench's site shows it."""

from datetime import datetime

from PySide6.QtCore import QDate, QDateTime, QTime, QTimeZone
from PySide6.QtWidgets import QDateTimeEdit, QWidget

from yardtoll.desktop.widgets.wheel import ScrolledPast
from yardtoll.store.site_time import meant_here, shown_zone

_ISO = "yyyy-MM-ddTHH:mm:ss"


class ClockField(ScrolledPast, QDateTimeEdit):
    """Typed and shown in the zone of the site.

    The toolkit knows the computer's zone, in which such a time may not be there, or be there twice;
    so it is given a clock without a zone.

    Args:
        name: for those who cannot see it.
        pattern: of the toolkit, how it is shown.
    """

    def __init__(self, name: str, pattern: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.let_pass()
        self.setTimeZone(QTimeZone.utc())
        self.setDisplayFormat(pattern)
        self.setAccessibleName(name)

    def clock(self) -> datetime:
        """What stands there, without a zone."""
        return datetime.fromisoformat(self.dateTime().toString(_ISO))

    def moment(self) -> datetime:
        """The moment that is meant, aware."""
        return meant_here(self.clock())

    def show_clock(self, at: datetime) -> None:
        """Show a time of the site's clock, naive."""
        day, clock = QDate(at.year, at.month, at.day), QTime(at.hour, at.minute, at.second)
        self.setDateTime(QDateTime(day, clock, QTimeZone.utc()))

    def show_moment(self, at: datetime) -> None:
        """Show an aware moment."""
        self.show_clock(at.astimezone(shown_zone()).replace(tzinfo=None))
