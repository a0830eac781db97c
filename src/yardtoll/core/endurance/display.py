"""How much longer it goes, from what the display says after some hours."""

import math
from dataclasses import dataclass

from yardtoll.core.errors import ValueOutOfRangeError

_FULL_PERCENT = 100.0
_U_STEP = 0.5 / math.sqrt(3)
"""A display in whole % is within half a point, rectangular (JCGM 100:2008, 4.3.7)."""


@dataclass(frozen=True, kw_only=True)
class HoursMore:
    """Hours to empty at the pace so far, and their U, k = 2."""

    hours: float
    expanded_h: float


def hours_more(shown_percent: float, after_s: float, from_percent: float = 100.0) -> HoursMore:
    """Of a display that fell from full to so many % in so long.

    Raises:
        ValueOutOfRangeError: it did not fall, or the time is not above 0.
    """
    if not 0 < from_percent <= _FULL_PERCENT:
        raise ValueOutOfRangeError("{from_percent}", from_percent, "above 0 and at most 100")
    if not 0 <= shown_percent < from_percent:
        words = f"0 or more and under {from_percent:g}"
        raise ValueOutOfRangeError("{shown}", shown_percent, words)
    if not 0 < after_s < math.inf:
        raise ValueOutOfRangeError("{after}", after_s, "above 0")
    hours, fell = after_s / 3600, from_percent - shown_percent
    per_shown = hours * from_percent / fell**2
    per_first = hours * shown_percent / fell**2
    u_h = _U_STEP * math.hypot(per_shown, per_first)
    return HoursMore(hours=shown_percent / fell * hours, expanded_h=2 * u_h)
