"""Whether the samples of a run that is going show its end, by the way its energy goes."""

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.live.charge_watch import watch_charged
from yardtoll.core.live.cutoff_watch import (
    DARK_PORT_VOLTS,
    DARK_VOLTS,
    CutoffState,
    watch_auto_off,
    watch_cutoff,
)
from yardtoll.core.methods import Flow, Method
from yardtoll.running.live_samples import SampleBuffer

_LIVE_WHILE_IDLE = {"idle_ac": DARK_VOLTS, "idle_dc": DARK_PORT_VOLTS}


def end_seen(method: Method, samples: SampleBuffer, *, full_shown: bool) -> CutoffState:
    """Judge the samples so far.

    Args:
        full_shown: the display was read at the charge that a recharge aims at.
    """
    power, volts = samples.column(Quantity.POWER), samples.column(Quantity.VOLTS)
    if method.flow is Flow.IN:
        return watch_charged(samples.time_s, power, full_shown=full_shown)
    if method.flow is Flow.IDLE:
        return watch_auto_off(samples.time_s, volts, _LIVE_WHILE_IDLE.get(method.key))
    return watch_cutoff(
        samples.time_s,
        power,
        volts if np.isfinite(volts).any() else None,
        dark_v=DARK_PORT_VOLTS if method.key == "capacity_dc" else DARK_VOLTS,
    )
