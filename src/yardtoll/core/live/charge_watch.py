"""Detecting that a charging station is full and not only pausing to cool."""

import numpy as np

from yardtoll.core.charge.analysis import END_FLOOR_W, END_SHARE
from yardtoll.core.charge.phases import full_power_w
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.live.cutoff_watch import PAUSE_SECONDS, CutoffState

LEAST_CHARGE_S = 60.0
"""A charge that has drawn for less than this has hardly begun."""


def watch_charged(time_s: FloatArray, power_w: FloatArray, *, full_shown: bool) -> CutoffState:
    """Judge the samples so far: ended when almost nothing was drawn for half an hour.

    Args:
        time_s, power_w: (n,) s and W; NaN power counts as nothing.
        full_shown: the display was read at 100 %; then five minutes are enough.
    """
    finite = power_w[np.isfinite(power_w)]
    limit = max(END_FLOOR_W, END_SHARE * full_power_w(finite))
    drawing = np.flatnonzero(power_w > limit)
    if drawing.size == 0 or drawing[-1] == time_s.size - 1:
        return CutoffState(ended=False, since_s=None, reason="")
    last = float(time_s[drawing[-1]])
    if last - float(time_s[drawing[0]]) < LEAST_CHARGE_S:
        return CutoffState(ended=False, since_s=last, reason="")
    quiet_s = float(time_s[-1]) - last
    wait_s = PAUSE_SECONDS / 6 if full_shown else PAUSE_SECONDS
    return CutoffState(
        ended=quiet_s >= wait_s,
        since_s=last,
        reason=f"the station has taken nothing for {quiet_s / 60:.0f} min",
    )
