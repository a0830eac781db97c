"""Detecting during a run that the station has shut off and not only paused."""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.load_span import load_limit_w
from yardtoll.core.electrical.trace import FloatArray

DARK_VOLTS = 20.0
"""Below this an AC outlet is off, whatever its nominal voltage."""
DARK_PORT_VOLTS = 2.0
"""Below this a DC port is off."""
DARK_SECONDS = 15.0
"""An outlet dark for this long has been switched off by the station."""
PAUSE_SECONDS = 1800.0
"""A load may rest this long while the outlet stays live; longer than any thermostat's pause."""
PAUSE_MULTIPLE = 3.0


@dataclass(frozen=True, kw_only=True)
class CutoffState:
    """Whether a run has ended; ``since_s`` is its last loaded sample."""

    ended: bool
    since_s: float | None
    reason: str


def watch_cutoff(
    time_s: FloatArray,
    power_w: FloatArray,
    volts_v: FloatArray | None,
    *,
    dark_v: float = DARK_VOLTS,
) -> CutoffState:
    """Judge the samples so far.

    A dark outlet ends the run soon; a live outlet without load only after a pause three times
    the longest seen so far, and not before half an hour.

    Args:
        time_s, power_w: (n,) s and W; NaN power counts as no load.
        volts_v: (n,) V, or None where the meter gives none.
        dark_v: below this the output counts as off.
    """
    # NaN compares as not loaded, and a load limit of NaN must not arise from one lost sample.
    finite = power_w[np.isfinite(power_w)]
    loaded = np.flatnonzero(power_w > load_limit_w(finite))
    if loaded.size == 0 or loaded[-1] == time_s.size - 1:
        return CutoffState(ended=False, since_s=None, reason="")
    last = float(time_s[loaded[-1]])
    silent_s = float(time_s[-1]) - last
    after = slice(int(loaded[-1]) + 1, None)
    if volts_v is not None and np.all(volts_v[after] < dark_v):
        ended = silent_s >= DARK_SECONDS
        return CutoffState(ended=ended, since_s=last, reason="the outlet switched off")
    longest_s = float(np.max(np.diff(time_s[loaded]), initial=0.0))
    wait_s = max(PAUSE_SECONDS, PAUSE_MULTIPLE * longest_s)
    return CutoffState(
        ended=silent_s >= wait_s,
        since_s=last,
        reason=f"no load for {silent_s / 60:.0f} min though the outlet is live",
    )


def watch_auto_off(time_s: FloatArray, volts_v: FloatArray, dark_v: float | None) -> CutoffState:
    """Whether an outlet that was live without a load has switched itself off.

    Args:
        volts_v: (n,) V; NaN where the meter gives none.
        dark_v: below this the output counts as off; None where it is meant to be off.
    """
    live = np.flatnonzero(volts_v >= dark_v) if dark_v is not None else np.empty(0, dtype=int)
    if live.size == 0 or live[-1] == time_s.size - 1:
        return CutoffState(ended=False, since_s=None, reason="")
    last = float(time_s[live[-1]])
    return CutoffState(
        ended=float(time_s[-1]) - last >= DARK_SECONDS,
        since_s=last,
        reason="the station switched its outlet off by itself",
    )
