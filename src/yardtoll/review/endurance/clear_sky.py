"""The sun of an outage under a clear sky."""

from collections.abc import Sequence
from datetime import datetime

import numpy as np

from yardtoll.core.sun.clear_day import free_power_w
from yardtoll.review.endurance.sky import STEP_H, Sky
from yardtoll.review.sun.arrays import parts_of
from yardtoll.store.records import Site, SolarArray


def clear_sky(
    site: Site, arrays: Sequence[SolarArray], begins: datetime, hours: float
) -> Sky | None:
    """Under a clear sky; None where the site has no place, or there are no panels.

    Args:
        begins: aware.
    """
    parts = parts_of(site, arrays)
    if not parts:
        return None
    count = int(np.ceil(hours / STEP_H))
    # The middle of each step stands for it.
    middle_h = (np.arange(count) + 0.5) * STEP_H
    clock_s = np.asarray(begins.timestamp() + 3600 * middle_h, dtype=np.float64)
    first_w = free_power_w(parts[:1], clock_s)
    others_w = free_power_w(parts[1:], clock_s) if parts[1:] else np.zeros(count)
    return Sky(
        first_w=first_w,
        others_w=others_w,
        modules=arrays[0].series * arrays[0].parallel,
        module_w=arrays[0].module_w,
    )
