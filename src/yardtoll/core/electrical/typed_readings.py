"""Runs read by eye: a meter's Wh typed now and then. Between readings energy is bounded, not
invented: the mean power of a stretch is known, its course is not.
"""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR, counter_step_wh
from yardtoll.core.electrical.run_energy import SampleLimits
from yardtoll.core.errors import UnusableDataError

STAMP_S = 2.0
"""How far a typed time may be from the moment the figure was read."""
DAY_S = 86_400.0
_LINE = re.compile(
    r"^\s*(\d{1,3}):(\d{2})(?::(\d{2}))?[\s,;|]+(\d+(?:[.,]\d+)?)\s*(kWh|Wh)?"
    r"(?:[\s,;|]+(\d{1,3}(?:[.,]\d+)?)\s*%)?\s*$",
    re.IGNORECASE,
)


@dataclass(frozen=True, kw_only=True)
class TypedReading:
    """A meter's counter in Wh at s from the run's start; the display's % where read too.

    ``step_wh`` is the last digit it was read to; None where that is not known.
    """

    s: float
    energy_wh: float
    soc: float | None = None
    step_wh: float | None = None


@dataclass(frozen=True, kw_only=True)
class Stretch:
    """Between two readings: mean W with its standard uncertainty from steps and stamps."""

    start_s: float
    end_s: float
    energy_wh: float
    mean_w: float
    mean_w_u: float


def parse_typed_lines(text: str) -> list[TypedReading]:
    """Lines like "10:32 0 Wh", "11:02:30 205.3", "12:10 0.41 kWh 80 %"; times from the first.

    Clock times may pass midnight. Empty lines and lines beginning with # are passed over.

    Raises:
        UnusableDataError: a line is malformed, or there are fewer than two; it names the line.
    """
    found: list[TypedReading] = []
    first_s = last_s = 0.0
    for number, line in enumerate(text.splitlines(), start=1):
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        match = _LINE.match(line)
        if not match or int(match[2]) > 59 or int(match[3] or 0) > 59:
            raise UnusableDataError(
                f'line {number}: "{line.strip()}" should look like 11:02 205 Wh'
            )
        at_s = 3600.0 * int(match[1]) + 60.0 * int(match[2]) + float(match[3] or 0)
        if not found:
            first_s = last_s = at_s
        while at_s < last_s:
            at_s += DAY_S
        last_s = at_s
        kilo = 1000.0 if (match[5] or "").lower() == "kwh" else 1.0
        found.append(
            TypedReading(
                s=at_s - first_s,
                energy_wh=kilo * float(match[4].replace(",", ".")),
                soc=float(match[6].replace(",", ".")) if match[6] else None,
                step_wh=kilo * last_digit(match[4]),
            )
        )
    if len(found) < 2:
        raise UnusableDataError("a run needs at least two readings, such as 10:32 0 and 14:55 1830")
    return found


def last_digit(figure: str) -> float:
    """The step of a written figure: "1100" was read to 1, "0.41" to 0.01."""
    _, _, decimals = figure.replace(",", ".").partition(".")
    return 10.0 ** -len(decimals)


def reading_step_wh(readings: Sequence[TypedReading]) -> float:
    """What typed figures were read to, in Wh: as written, else by their digits, 1 Wh at most."""
    known = [r.step_wh for r in readings if r.step_wh is not None]
    if known:
        return max(known)
    return min(counter_step_wh(np.array([r.energy_wh for r in readings])), 1.0)


def stretches(readings: Sequence[TypedReading]) -> list[Stretch]:
    """The mean power between neighbouring readings, in order of time."""
    in_time = sorted(readings, key=lambda r: r.s)
    step = reading_step_wh(in_time) if in_time else 0.0
    found = []
    for before, after in pairwise(in_time):
        took_s = after.s - before.s
        if took_s <= 0:
            continue
        energy = after.energy_wh - before.energy_wh
        mean = energy / took_s * SECONDS_PER_HOUR
        # Each reading is right to half a step and its stamp to two seconds, rectangular.
        u_energy = math.sqrt(2) * step / 2 / math.sqrt(3) / took_s * SECONDS_PER_HOUR
        u_stamp = math.sqrt(2) * STAMP_S / math.sqrt(3) / took_s * abs(mean)
        found.append(
            Stretch(
                start_s=before.s,
                end_s=after.s,
                energy_wh=energy,
                mean_w=mean,
                mean_w_u=math.hypot(u_energy, u_stamp),
            )
        )
    return found


def end_limit_s(before_last: TypedReading, last: TypedReading, off_s: float | None) -> float:
    """Limit ± of the end: a stamp where it was seen, else the stretch before the last reading."""
    return STAMP_S if off_s is not None else max(last.s - before_last.s, STAMP_S)


def reading_limits(readings: Sequence[TypedReading]) -> SampleLimits:
    """The last digit of the figures typed, at either end."""
    step = reading_step_wh(readings)
    return SampleLimits(
        resolution_wh=math.sqrt(2) * step / 2,
        resolution_why=f"read to {step:g} Wh, at either end",
        of_counter=True,
    )


def first_last_before(
    readings: Sequence[TypedReading],
) -> tuple[TypedReading, TypedReading, TypedReading]:
    """First, last and last but one reading in order of time."""
    in_time = sorted(readings, key=lambda r: r.s)
    if len(in_time) < 2 or in_time[-1].s <= in_time[0].s:
        raise UnusableDataError("fewer than two readings of the meter's Wh were typed")
    for before, after in pairwise(in_time):
        if after.energy_wh < before.energy_wh:
            raise UnusableDataError(
                f"the meter's Wh fall from {before.energy_wh:g} to {after.energy_wh:g}: one of the "
                "readings is wrong; take it back"
            )
    return in_time[0], in_time[-1], in_time[-2]
