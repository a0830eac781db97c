"""The sun of an outage: what the panels give, step by step; a day as it was measured."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.review.kinds.solar.outcome import sunlight_in
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.store.records import SolarArray
from yardtoll.store.site_time import local

STEP_H = 0.25
_STEPS_A_DAY = 96


@dataclass(frozen=True, kw_only=True, eq=False)
class Sky:
    """What panels give from an outage's beginning on, a mean a step.

    Attributes:
        first_w: (steps,) of the first array.
        others_w: (steps,) of those beside it.
        modules: how many modules the first array has.
        module_w: the rating of one of them.
    """

    first_w: FloatArray
    others_w: FloatArray
    modules: int
    module_w: float

    def watts(self, more_panels: int = 0) -> tuple[float, ...]:
        """With so many modules beside those of the first array."""
        share = 1 + more_panels / self.modules
        return tuple((share * self.first_w + self.others_w).tolist())


def measured_day(
    analysis: RunAnalysis, arrays: Sequence[SolarArray], begins: datetime, hours: float
) -> Sky | None:
    """A day as a solar run measured it, at the same clock hours of each day; None without watts.

    What the run's station kept out at its cap or when it was full is not in it.
    """
    light = sunlight_in(analysis)
    if light is None or light.run.time_s.size < 2:
        return None
    zone = begins.tzinfo
    began = local(analysis.run.started_at, zone)
    began_h = began.hour + began.minute / 60 + began.second / 3600
    clock_h = began_h + light.run.time_s / 3600
    steps = np.floor((clock_h % 24) / STEP_H).astype(int) % _STEPS_A_DAY
    # By time and not by samples: a meter may have read faster at noon.
    weights = np.gradient(light.run.time_s)
    energy = np.bincount(steps, light.run.power_w * weights, _STEPS_A_DAY)
    seconds = np.bincount(steps, weights, _STEPS_A_DAY)
    whole = np.maximum(seconds, STEP_H * 3600)
    day_w = energy / whole
    first = (begins.hour + begins.minute / 60) / STEP_H
    count = int(np.ceil(hours / STEP_H))
    places = (np.floor(first + np.arange(count)).astype(int)) % _STEPS_A_DAY
    own = arrays[0] if arrays else None
    return Sky(
        first_w=day_w[places],
        others_w=np.zeros(count),
        modules=own.series * own.parallel if own is not None else 1,
        module_w=own.module_w if own is not None else 0.0,
    )
