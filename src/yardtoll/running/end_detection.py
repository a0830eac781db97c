"""Whether the samples of a run in progress show its end, by the direction of its energy."""

import numpy as np

from yardtoll.core.electrical.load_span import IDLE_LIMIT_W, LOAD_SHARE
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.live.charge_watch import watch_charged
from yardtoll.core.live.cutoff_watch import (
    DARK_PORT_VOLTS,
    DARK_VOLTS,
    CutoffState,
    watch_auto_off,
    watch_cutoff,
)
from yardtoll.core.methods import Method, Outlet
from yardtoll.running.live_samples import LiveSamples

_OFF_BELOW_V = {Outlet.AC: DARK_VOLTS, Outlet.DC: DARK_PORT_VOLTS}


def end_seen(method: Method, samples: LiveSamples, *, full_shown: bool) -> CutoffState:
    """Judge the samples so far.

    Args:
        full_shown: the display was read at the charge that a recharge aims at.
    """
    power, volts = samples.column(Quantity.POWER), samples.column(Quantity.VOLTS)
    off_below_v = _OFF_BELOW_V[method.outlet] if method.outlet is not None else None
    if method.charges:
        return watch_charged(samples.time_s, power, full_shown=full_shown)
    if method.rests:
        return watch_auto_off(samples.time_s, volts, off_below_v)
    latest_w = samples.latest(Quantity.POWER)
    if latest_w is not None and latest_w > max(IDLE_LIMIT_W, LOAD_SHARE * samples.highest_w):
        # Loaded whatever the usual load is: hours of samples need not be gone through.
        return CutoffState(ended=False, since_s=None, reason="")
    return watch_cutoff(
        samples.time_s,
        power,
        volts if np.isfinite(volts).any() else None,
        dark_v=DARK_VOLTS if off_below_v is None else off_below_v,
    )
