"""When a charging station showed which state of charge: the display's readings against time."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import Code, FloatArray, Notice
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.formatting import format_clock

SOC_HALF_STEP = 0.5
"""A display that steps by one point is right to half a point."""
_EARLY, _LATE = 0.005, 0.995
_ASKED_SOCS = (80.0, 100.0)
WIDEST_BRACKET = 25.0
"""Readings further apart in points do not show what is between, without a power log."""
_UNEVEN_SHARE = 0.1
_PAST_THE_END = 1.2
"""Full may lie so much further than the end of the draw (common practice, no source)."""


@dataclass(frozen=True, kw_only=True)
class SocReading:
    """The display's state of charge in % at s from charge start."""

    s: float
    soc: float


@dataclass(frozen=True, kw_only=True)
class ToSoc:
    """When a state of charge was reached, s from charge start, and its limit ±."""

    soc: float
    s: float
    plus_minus_s: float | None


@dataclass(frozen=True, kw_only=True)
class BetweenSoc:
    """s from one state of charge to another, ± from the display's step at both ends."""

    soc_from: float
    soc_to: float
    s: float
    plus_minus_s: float | None


def rising_readings(readings: Sequence[SocReading]) -> tuple[list[SocReading], list[Notice]]:
    """Readings in order of time without those that fall; what was left out is reported.

    Raises:
        ValueOutOfRangeError: a state of charge outside 0–100 %, or a time below 0.
    """
    for reading in readings:
        if not 0 <= reading.soc <= 100:
            raise ValueOutOfRangeError("reading", reading.soc, "between 0 and 100 %")
        if not reading.s >= 0:
            raise ValueOutOfRangeError("reading", reading.s, "0 s or later")
    kept: list[SocReading] = []
    dropped = []
    for reading in sorted(readings, key=lambda r: r.s):
        if kept and reading.soc < kept[-1].soc:
            dropped.append(reading)
        else:
            kept.append(reading)
    if not dropped:
        return kept, []
    words = ", ".join(f"{r.soc:g} % at {format_clock(r.s)}" for r in dropped)
    message = f"the display fell while charging; left out: {words}"
    return kept, [Notice(code=Code.READINGS_NOT_RISING, message=message)]


def shown_ends(
    readings: Sequence[SocReading], duration_s: float | None
) -> tuple[float | None, float | None]:
    """What the display said at the very start and the very end; None where it was not read."""
    if not readings:
        return None, None
    first, last = readings[0], readings[-1]
    early = first.s == 0 or bool(duration_s and first.s <= _EARLY * duration_s)
    late = bool(duration_s and last.s >= _LATE * duration_s)
    return first.soc if early else None, last.soc if late else None


@dataclass(frozen=True, kw_only=True, eq=False)
class EnergyCurve:
    """What was drawn by when: (n,) s from charge start, rising, and (n,) Wh, never falling."""

    s: FloatArray
    energy_wh: FloatArray

    def at(self, s: float) -> float:
        """Wh drawn by then."""
        return float(np.interp(s, self.s, self.energy_wh))

    def when(self, energy_wh: float, within: tuple[float, float]) -> float:
        """The time in s by which so much was drawn, kept within two times."""
        index = int(np.searchsorted(self.energy_wh, energy_wh, side="left"))
        if index == 0:
            found = float(self.s[0])
        elif index >= self.s.size:
            found = float(self.s[-1])
        else:
            before, after = self.energy_wh[index - 1], self.energy_wh[index]
            share = (energy_wh - before) / (after - before) if after > before else 1.0
            found = float(self.s[index - 1] + share * (self.s[index] - self.s[index - 1]))
        return min(max(found, within[0]), within[1])


def times_to_soc(
    readings: Sequence[SocReading], curve: EnergyCurve | None = None
) -> tuple[tuple[ToSoc, ...], list[Notice]]:
    """Every reading, and 80 and 100 % where readings stand on both sides, and what is left out.

    Args:
        readings: in order of time, not falling.
        curve: of a power log; without it 80 % is not known between readings over 25 points apart.
    """
    asked = {float(r.soc) for r in readings}
    notices = []
    if readings:
        asked |= {soc for soc in _ASKED_SOCS if readings[0].soc <= soc <= readings[-1].soc}
    found = []
    for soc in sorted(asked):
        placed = _placed(soc, readings, curve)
        if placed is None:
            before, after = _neighbours(soc, readings)
            message = (
                f"{soc:g} % is not known: the display was read at {before.soc:g} and "
                f"{after.soc:g} % only, and there is no power log between"
            )
            notices.append(Notice(code=Code.NOT_BRACKETED, message=message))
        else:
            found.append(ToSoc(soc=soc, s=placed[0], plus_minus_s=placed[1]))
    return tuple(found), notices


def _placed(
    soc: float, readings: Sequence[SocReading], curve: EnergyCurve | None
) -> tuple[float, float | None] | None:
    """(s, limit ±) at which a state of charge was reached; None where the readings do not show it.

    Args:
        soc: from the first reading's to the last one's.
    """
    read = next((r for r in readings if r.soc == soc), None)
    if read is not None:
        return read.s, _half_step_s(read, readings, curve)
    before, after = _neighbours(soc, readings)
    share = (soc - before.soc) / (after.soc - before.soc)
    within = (before.s, after.s)
    if curve is None:
        if after.soc - before.soc > WIDEST_BRACKET:
            return None
        s = before.s + share * (after.s - before.s)
        # The display rises between the two readings, but when is not known.
        return s, max(s - before.s, after.s - s)
    start_wh, risen_wh = curve.at(before.s), curve.at(after.s) - curve.at(before.s)
    s = curve.when(start_wh + share * risen_wh, within)
    nearest = min(soc - before.soc, after.soc - soc)
    # The display need not rise evenly with the energy: a tenth of the way to the nearest reading.
    points = SOC_HALF_STEP + _UNEVEN_SHARE * nearest
    reach = points / (after.soc - before.soc) * risen_wh
    energy = start_wh + share * risen_wh
    early, late = (curve.when(energy + way * reach, within) for way in (-1.0, 1.0))
    return s, max(s - early, late - s)


def _neighbours(soc: float, readings: Sequence[SocReading]) -> tuple[SocReading, SocReading]:
    """The last reading below and the first above."""
    below = [r for r in readings if r.soc < soc]
    above = [r for r in readings if r.soc > soc]
    return below[-1], above[0]


def _half_step_s(
    read: SocReading, readings: Sequence[SocReading], curve: EnergyCurve | None
) -> float | None:
    """Half a point of the display as time, at the slower of the two rates beside a reading.

    By the power at that moment where there is a log. None where the rate is not known.
    """
    times = []
    beside = [next((r for r in reversed(readings) if r.soc < read.soc), None)]
    beside.append(next((r for r in readings if r.soc > read.soc), None))
    for other in beside:
        if other is None or other.s == read.s:
            continue
        points = abs(other.soc - read.soc)
        if curve is None:
            times.append(SOC_HALF_STEP * abs(other.s - read.s) / points)
            continue
        reach = SOC_HALF_STEP / points * abs(curve.at(other.s) - curve.at(read.s))
        way = 1.0 if other.s > read.s else -1.0
        span = (min(read.s, other.s), max(read.s, other.s))
        times.append(abs(curve.when(curve.at(read.s) + way * reach, span) - read.s))
    if curve is not None and beside[1] is None and readings[0].soc < read.soc:
        # Nothing was read after it, and near full a charge goes slower and slower, and unevenly.
        first, end_s = readings[0], float(curve.s[-1])
        per_point_wh = (curve.at(read.s) - curve.at(first.s)) / (read.soc - first.soc)
        nearest = read.soc - max(r.soc for r in readings if r.soc < read.soc)
        reach = (SOC_HALF_STEP + _UNEVEN_SHARE * nearest) * per_point_wh
        drawn_since_wh = curve.at(end_s) - curve.at(read.s)
        later_s = curve.when(curve.at(read.s) + reach, (read.s, end_s)) - read.s
        # The end of the draw bounds it, and is itself no sharper than the display is even.
        further = min(max(reach / drawn_since_wh, 1), _PAST_THE_END) if drawn_since_wh > 0 else 0.0
        times.append(later_s * further)
    known = [t for t in times if t > 0]
    return max(known) if known else None


def time_between(
    readings: Sequence[SocReading],
    soc_from: float,
    soc_to: float,
    curve: EnergyCurve | None = None,
) -> BetweenSoc:
    """How long the display took from one state of charge to another.

    Between two readings the time is placed by the energy drawn where there is a power log.

    Args:
        readings: in any order; falling ones are left out.
        soc_from, soc_to: %, the second above the first.

    Raises:
        UnusableDataError: the readings do not reach from one to the other or stand too far apart,
            or the wish falls.
    """
    if not soc_from < soc_to:
        raise UnusableDataError(f"{soc_to:g} % is not above {soc_from:g} %")
    kept, _ = rising_readings(readings)
    if len(kept) < 2:
        raise UnusableDataError("the display was read less than twice")
    if soc_from < kept[0].soc or soc_to > kept[-1].soc:
        raise UnusableDataError(
            f"the display was read from {kept[0].soc:g} to {kept[-1].soc:g} % only"
        )
    ends = []
    for soc in (soc_from, soc_to):
        placed = _placed(soc, kept, curve)
        if placed is None:
            raise UnusableDataError(
                f"{soc:g} % lies between readings over {WIDEST_BRACKET:g} points apart, and no "
                "power log shows when it was reached"
            )
        ends.append(placed)
    known = [limit for _, limit in ends if limit is not None]
    within = math.hypot(*known) if len(known) == len(ends) else None
    return BetweenSoc(
        soc_from=soc_from, soc_to=soc_to, s=ends[1][0] - ends[0][0], plus_minus_s=within
    )


def logged_readings(time_s: FloatArray, soc: FloatArray, start_s: float) -> list[SocReading]:
    """A logged state of charge as readings: its first and last sample and each step, from charge
    start on.

    Args:
        time_s, soc: (n,) s and %, finite.
    """
    inside = time_s >= start_s
    if not inside.any():
        return []
    t, shown = time_s[inside], soc[inside]
    at = np.unique(np.concatenate([[0], np.flatnonzero(np.diff(shown)) + 1, [t.size - 1]]))
    return [
        SocReading(s=float(t[i] - start_s), soc=float(shown[i])) for i in at if 0 <= shown[i] <= 100
    ]
