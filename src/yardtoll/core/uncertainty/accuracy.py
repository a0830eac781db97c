"""A meter's stated limits of error, as makers write them."""

import re
from dataclasses import dataclass

from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError

_ACCURACY = re.compile(
    r"^\s*(?:±\s*)?(?:(?P<percent>\d+(?:\.\d+)?)\s*%(?:\s*(?:of\s+)?(?:reading|rdg))?)?"
    r"\s*\+?\s*(?:(?P<floor>\d+(?:\.\d+)?)\s*(?P<unit>m?W))?\s*$",
    re.IGNORECASE,
)


@dataclass(frozen=True, kw_only=True)
class MeterAccuracy:
    """A meter's stated limits of error: ±(share of the reading + floor in W)."""

    reading_share: float
    floor_w: float

    def __post_init__(self) -> None:
        if not 0 <= self.reading_share < 1:
            raise ValueOutOfRangeError("the meter's share of reading", self.reading_share, "0 to 1")
        if not self.floor_w >= 0:
            raise ValueOutOfRangeError("the meter's floor in W", self.floor_w, "0 or more")

    def __str__(self) -> str:
        return f"±({self.reading_share * 100:g} % + {self.floor_w:g} W)"


def parse_accuracy(text: str) -> MeterAccuracy:
    """Read "1% + 0.5 W", "0.5 %" or "0.2 W".

    Raises:
        UnusableDataError: the text is none of these.
    """
    found = _ACCURACY.match(text)
    if not found or (found["percent"] is None and found["floor"] is None):
        raise UnusableDataError(f'the accuracy "{text}" does not read like "1% + 0.5 W"')
    floor = float(found["floor"] or 0) * (0.001 if (found["unit"] or "").lower() == "mw" else 1)
    return MeterAccuracy(reading_share=float(found["percent"] or 0) / 100, floor_w=floor)
