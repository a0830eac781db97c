"""Runs read by eye: a meter's Wh typed now and then. Between readings energy is bounded, not
invented: the mean power of a stretch is known, its course is not.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR, counter_step_wh

STAMP_S = 2.0
"""How far a typed time may be from the moment the figure was read."""


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
