"""When a charging station showed which state of charge: the display's readings against time."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.figures import format_clock
from yardtoll.core.trace import Code, FloatArray, Notice

SOC_HALF_STEP = 0.5
"""A display that steps by one point is right to half a point."""
_EARLY, _LATE = 0.005, 0.995
_ASKED_SOCS = (80.0, 100.0)


@dataclass(frozen=True, kw_only=True)
class SocReading:
    """The display's state of charge in % at s from charge start."""

    s: float
    soc: float


@dataclass(frozen=True, kw_only=True)
class ToSoc:
    """When a state of charge was reached, s from charge start, ± from the display's step."""

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
    """Readings in order of time without those that fall; what was left out is told.

    Raises:
        ValueOutOfRangeError: a state of charge outside 0–100 %, or a time below 0.
    """
    for reading in readings:
        if not 0 <= reading.soc <= 100:
            raise ValueOutOfRangeError("--reading", reading.soc, "between 0 and 100 %")
        if not reading.s >= 0:
            raise ValueOutOfRangeError("--reading", reading.s, "0 s or later")
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


def times_to_soc(readings: Sequence[SocReading]) -> tuple[ToSoc, ...]:
    """Every reading, and 80 and 100 % where readings stand on both sides, by straight line."""
    if not readings:
        return ()
    socs = np.array([r.soc for r in readings])
    times = np.array([r.s for r in readings])
    asked = {float(soc) for soc in socs}
    asked |= {soc for soc in _ASKED_SOCS if socs[0] <= soc <= socs[-1]}
    return tuple(
        ToSoc(
            soc=soc,
            s=_first_at(soc, socs, times),
            plus_minus_s=_half_step_s(soc, socs, times),
        )
        for soc in sorted(asked)
    )


def _first_at(soc: float, socs: FloatArray, times: FloatArray) -> float:
    """When a state of charge was first reached."""
    same = np.flatnonzero(socs == soc)
    if same.size:
        return float(times[same[0]])
    return float(np.interp(soc, socs, times))


def _half_step_s(soc: float, socs: FloatArray, times: FloatArray) -> float | None:
    """Half a point of the display as time: 0.5 ÷ (points a second) around that state of charge."""
    after = int(np.searchsorted(socs, soc, side="right"))
    before = max(int(np.searchsorted(socs, soc, side="left")) - 1, 0)
    after = min(after, socs.size - 1)
    risen, took = float(socs[after] - socs[before]), float(times[after] - times[before])
    return SOC_HALF_STEP * took / risen if risen > 0 and took > 0 else None


def time_between(readings: Sequence[SocReading], soc_from: float, soc_to: float) -> BetweenSoc:
    """How long the display took from one state of charge to another, by straight line.

    Args:
        readings: in any order; falling ones are left out.
        soc_from, soc_to: %, the second above the first.

    Raises:
        UnusableDataError: the readings do not reach from one to the other, or the wish falls.
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
    socs = np.array([r.soc for r in kept])
    times = np.array([r.s for r in kept])
    ends = [_half_step_s(soc, socs, times) for soc in (soc_from, soc_to)]
    known = [half for half in ends if half is not None]
    within = math.hypot(*known) if len(known) == len(ends) else None
    started, reached = (_first_at(soc, socs, times) for soc in (soc_from, soc_to))
    return BetweenSoc(soc_from=soc_from, soc_to=soc_to, s=reached - started, plus_minus_s=within)
