"""What the user prefers, in one record; kept by `settings.UserSettings`."""

from dataclasses import dataclass, replace
from datetime import time

from yardtoll.core.conformance.verdict import Rule
from yardtoll.core.ledger.loss_fit import REPEATABILITY
from yardtoll.core.region import REGIONS, Region
from yardtoll.store.backups import KEPT_DAYS

RULE_WORDS = {
    Rule.GUARDED: "Guarded: must clear the limit by U",
    Rule.SIMPLE: "Simple: the numbers alone",
    Rule.LIKELY: "Likely: the more probable side",
}
TEXT_PERCENTS = (90, 100, 110, 125, 150, 175, 200)
LONGEST_KEPT_DAYS = 3650


@dataclass(frozen=True, kw_only=True)
class Preferences:
    """Every preference; the defaults are those of a first start.

    Attributes:
        region: key of a region; "" for that of the system's country.
        clock: "12" or "24"; "" as in the region. So are ``currency`` and ``decimal_sign``.
        colours: "day", "night", "contrast" or "system".
        sounds, notices: an alarm may be heard, and be shown by the desktop.
        quiet_from, quiet_until: "22:00", between which nothing is heard; "" for never.
        rule, repeatability: what a new yard begins with; the second as a share.
        yards_folder: where new yards are offered a place; "" for the last one used.
        backup_days: how long a day's copy of a yard is kept; 0 for no copies.
    """

    region: str = ""
    clock: str = ""
    currency: str = ""
    decimal_sign: str = ""
    colours: str = "system"
    text_percent: int = 100
    sounds: bool = True
    notices: bool = True
    quiet_from: str = ""
    quiet_until: str = ""
    rule: str = Rule.GUARDED.value
    repeatability: float = REPEATABILITY
    yards_folder: str = ""
    backup_days: int = KEPT_DAYS

    def shown_region(self, of_system: Region) -> Region:
        """The region that is shown, with what was chosen otherwise."""
        region = REGIONS.get(self.region, of_system)
        if self.clock:
            region = replace(region, twelve_hours=self.clock == "12")
        return replace(
            region,
            currency=self.currency or region.currency,
            decimal_sign=self.decimal_sign or region.decimal_sign,
        )

    def is_quiet(self, at: time) -> bool:
        """Whether nothing may be heard at a time of day; from 22:00 to 7:00 goes over midnight."""
        begins, ends = _time_of(self.quiet_from), _time_of(self.quiet_until)
        if begins is None or ends is None or begins == ends:
            return False
        if begins < ends:
            return begins <= at < ends
        return at >= begins or at < ends


def _time_of(text: str) -> time | None:
    try:
        return time.fromisoformat(text)
    except ValueError:
        return None
