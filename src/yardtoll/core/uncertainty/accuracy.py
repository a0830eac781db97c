"""A meter's stated limits of error, as makers write them."""

import math
import re
from dataclasses import dataclass

from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.formatting import quoted

COMMON_SHARE = 0.5
"""Share of the gain's variance that is the same at every reading of one meter, where nothing is
stated (common practice, no source)."""

_LIMITS = re.compile(
    r"^\s*(?:±\s*)?(?:(?P<percent>\d+(?:\.\d+)?)\s*%(?:\s*(?:of\s+)?(?:reading|rdg))?)?"
    r"\s*\+?\s*(?:(?P<floor>\d+(?:\.\d+)?)\s*(?P<unit>m?W))?\s*$",
    re.IGNORECASE,
)
_COMMON = re.compile(r"^\s*(?P<percent>\d+(?:\.\d+)?)\s*%\s*common\s*$", re.IGNORECASE)
_LINEARITY = re.compile(
    r"^\s*(?:linearity\s*(?P<after>\d+(?:\.\d+)?)\s*%|(?P<before>\d+(?:\.\d+)?)\s*%\s*linearity)\s*$",
    re.IGNORECASE,
)
_STEPS = re.compile(
    r"^\s*steps?\s*(?:of\s*)?(?P<step>\d+(?:\.\d+)?)\s*(?P<unit>m?k?Wh)\s*$", re.IGNORECASE
)
_PHASE = re.compile(
    r"^\s*phase\s*(?P<degrees>\d+(?:\.\d+)?)\s*(?:deg(?:rees?)?|°)\s*$", re.IGNORECASE
)
_STEP_UNITS = {"wh": 1.0, "kwh": 1000.0, "mwh": 0.001}


@dataclass(frozen=True, kw_only=True)
class MeterAccuracy:
    """A meter's stated limits of error: ±(share of the reading + floor in W).

    Attributes:
        common_share: share of the gain's variance that all readings of this meter have in common,
            0 to 1; the rest belongs to each level and range (JCGM 100:2008, 5.2.4 and F.1.2.3:
            correlation has to be justified).
        step_wh: last digit of its energy counter in Wh; None where it is not stated.
        phase_deg: limit of its phase error in degrees; 0 where none is stated.
    """

    reading_share: float
    floor_w: float
    common_share: float = COMMON_SHARE
    step_wh: float | None = None
    phase_deg: float = 0.0

    def __post_init__(self) -> None:
        if not 0 <= self.reading_share < 1:
            raise ValueOutOfRangeError("the meter's share of reading", self.reading_share, "0 to 1")
        if not self.floor_w >= 0:
            raise ValueOutOfRangeError("the meter's floor in W", self.floor_w, "0 or more")
        if not 0 <= self.common_share <= 1:
            raise ValueOutOfRangeError("the meter's common share", self.common_share, "0 to 1")
        if self.step_wh is not None and not self.step_wh > 0:
            raise ValueOutOfRangeError("the meter's step in Wh", self.step_wh, "above 0")
        if not 0 <= self.phase_deg < 45:
            raise ValueOutOfRangeError("the meter's phase error", self.phase_deg, "0 to 45°")

    def __str__(self) -> str:
        if not self.reading_share and not self.floor_w:
            # Such as a sound level meter; "±0" would claim what no meter keeps.
            return "(no limits in W stated)"
        return f"±({self.reading_share * 100:g} % + {self.floor_w:g} W)"

    @property
    def common_limit(self) -> float:
        """Limit of the gain's part that all readings have in common, as a share of the reading."""
        return self.reading_share * math.sqrt(self.common_share)

    @property
    def level_limit(self) -> float:
        """Limit of the gain's part that belongs to each level, as a share of the reading."""
        return self.reading_share * math.sqrt(1 - self.common_share)

    def phase_limit(self, power_factor: float) -> float:
        """Limit of what the phase error does to the watts, as a share: tan φ · δφ.

        Args:
            power_factor: of the load, 0 to 1; at 1 a small phase error does nothing.
        """
        within = min(max(abs(power_factor), 0.05), 1.0)
        return math.tan(math.acos(within)) * math.radians(self.phase_deg)


def common_share_of_linearity(reading_share: float, linearity_share: float) -> float:
    """The common share where the maker states how far the gain changes with the level.

    Args:
        reading_share, linearity_share: limits, as shares of the reading.
    """
    if reading_share <= 0:
        return COMMON_SHARE
    return max(0.0, 1 - (linearity_share / reading_share) ** 2)


def parse_accuracy(text: str) -> MeterAccuracy:
    """Read "1% + 0.5 W", and after commas in any order "50 % common", "linearity 0.1 %", "steps
    0.01 Wh", "phase 0.3 deg".

    Raises:
        UnusableDataError: the text is none of these.
    """
    limits: re.Match[str] | None = None
    common: float | None = None
    linearity: float | None = None
    step_wh: float | None = None
    phase_deg = 0.0
    wrong = UnusableDataError(f'the accuracy {quoted(text)} should look like "1% + 0.5 W"')
    for part in text.split(","):
        if found := _COMMON.match(part):
            common = float(found["percent"]) / 100
        elif found := _LINEARITY.match(part):
            linearity = float(found["after"] or found["before"]) / 100
        elif found := _STEPS.match(part):
            step_wh = float(found["step"]) * _STEP_UNITS.get(found["unit"].lower(), math.nan)
        elif found := _PHASE.match(part):
            phase_deg = float(found["degrees"])
        elif limits is None and (found := _LIMITS.match(part)) and part.strip():
            limits = found
        else:
            raise wrong
    if limits is None or (limits["percent"] is None and limits["floor"] is None):
        raise wrong
    floor = float(limits["floor"] or 0) * (0.001 if (limits["unit"] or "").lower() == "mw" else 1)
    reading_share = float(limits["percent"] or 0) / 100
    if linearity is not None:
        common = common_share_of_linearity(reading_share, linearity)
    return MeterAccuracy(
        reading_share=reading_share,
        floor_w=floor,
        common_share=COMMON_SHARE if common is None else common,
        step_wh=step_wh,
        phase_deg=phase_deg,
    )
