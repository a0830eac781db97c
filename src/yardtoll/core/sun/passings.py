"""What passed over a solar input, shade or cloud: how long to come back, and what it cost."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR, trapezoid_wh
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.sun.allowed import AvailablePower, capped
from yardtoll.core.sun.limits import LIMITS, Limit, Limits

_CLOUD_SHARE = 0.8
_PASSED_SHARE = 0.95
_LONGEST_CLOUD_S = 3600.0
_CLEAR_S = 900.0


@dataclass(frozen=True, kw_only=True)
class Recovery:
    """Shade put on and taken off, s from the log's first sample, W.

    Attributes:
        end_s: the last sample on the floor.
        recover_s: from there to 95 % of the level before; None where it never came back.
        lost_wh: against the level before.
    """

    start_s: float
    end_s: float
    drop_w: float
    recover_s: float | None
    lost_wh: float


@dataclass(frozen=True, kw_only=True)
class Cloud:
    """A cloud that passed, s from the log's first sample.

    Attributes:
        lost_wh: what the clear sky would have given more, the tracker's lag included.
        lag_s: from the light's return to the input's; None where irradiance was not logged, or
            the input did not come back before the next cloud.
        lag_wh: what that lag alone cost; None likewise.
    """

    start_s: float
    end_s: float
    lost_wh: float
    lag_s: float | None
    lag_wh: float | None


def find_recoveries(
    time_s: FloatArray, power_w: FloatArray, limits: Limits, expected_w: FloatArray | None
) -> tuple[Recovery, ...]:
    """Each drop of a solar input with its way back.

    Args:
        time_s, power_w: (n,) s and W at the station.
        expected_w: (n,) W that the sun allowed after the cap; None where that is not known.
    """
    found = []
    for drop in limits.drops:
        end = drop.back if drop.back is not None else drop.last
        inside = slice(max(drop.first - 1, 0), end + 1)
        level = power_w[max(drop.first - 1, 0)]
        if expected_w is not None:
            # The sun moves on under a long shade: what was lost follows it.
            level = drop.before * expected_w[inside]
        lost = trapezoid_wh(time_s[inside], np.maximum(level - power_w[inside], 0.0))
        floor_w = float(np.median(power_w[drop.first : drop.last + 1]))
        recover = None
        if drop.back is not None:
            # It was taken away somewhere between the last sample on the floor and the next.
            off_s = (time_s[drop.last] + time_s[min(drop.last + 1, drop.back)]) / 2
            recover = float(time_s[drop.back] - off_s)
        found.append(
            Recovery(
                start_s=float(time_s[drop.first]),
                end_s=float(time_s[drop.last]),
                drop_w=float(power_w[max(drop.first - 1, 0)]) - floor_w,
                recover_s=recover,
                lost_wh=lost,
            )
        )
    return tuple(found)


def find_clouds(
    time_s: FloatArray, power_w: FloatArray, sun: AvailablePower, limits: Limits
) -> tuple[Cloud, ...]:
    """Passing clouds: the light falls under 80 % of the clear sky's and comes back within an hour.

    The light is the irradiance where it is logged, else the input itself.

    Args:
        time_s, power_w: (n,) s and W at the station.
        sun: at the same samples.
    """
    if sun.clear_w is None or not sun.up.any():
        return ()
    lit = sun.clear_w > 0.1 * float(sun.clear_w.max())
    usual = min(limits.usual_share or 1.0, 1.2)
    light = sun.free_w if sun.measured else _uncapped(power_w / max(usual, 0.05), sun, limits)
    clear = np.where(lit, light / np.maximum(sun.clear_w, 1e-9), 1.0)
    free_of_shade = limits.which != LIMITS.index(Limit.SHADE)
    dim = lit & (clear < _CLOUD_SHARE) & (free_of_shade | sun.measured)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], dim.astype(np.int8), [0]])))
    # Once for all of them: a day of broken cloud has thousands.
    seen = _Seen(
        time_s=time_s,
        power_w=power_w,
        free_w=sun.free_w if sun.measured else None,
        target_w=usual * capped(sun.free_w, limits.cap_w),
        clear_w=usual * capped(sun.clear_w, limits.cap_w),
    )
    found = []
    for start, stop in edges.reshape(-1, 2).tolist():
        if start == 0 or stop >= time_s.size:
            continue
        if time_s[stop] - time_s[start] > _LONGEST_CLOUD_S:
            continue
        if limits.which[start - 1] == LIMITS.index(Limit.FULL):
            continue  # a battery that takes no more loses nothing to a cloud
        found.append(_cloud(seen, start, stop))
    return tuple(found)


def _uncapped(light_w: FloatArray, sun: AvailablePower, limits: Limits) -> FloatArray:
    """An input at the cap, or held by a full battery, says nothing about the light: clear there."""
    assert sun.clear_w is not None
    held = np.isin(limits.which, [LIMITS.index(Limit.CAP), LIMITS.index(Limit.FULL)])
    return np.where(held, sun.clear_w, light_w)


@dataclass(frozen=True, kw_only=True)
class _Seen:
    """A day at its samples: (n,) s; the input's W, and what it would be in the light that there
    was and under a clear sky, after the cap; the light itself where a sensor saw it.
    """

    time_s: FloatArray
    power_w: FloatArray
    free_w: FloatArray | None
    target_w: FloatArray
    clear_w: FloatArray


def _cloud(seen: _Seen, start: int, stop: int) -> Cloud:
    time_s, power_w = seen.time_s, seen.power_w
    lag_s = lag_wh = None
    until = stop
    if seen.free_w is not None:
        # The light is back when it is again at its level behind the cloud.
        behind = seen.free_w[stop : min(stop + 600, time_s.size)]
        behind = behind[: max(3, behind.size // 10)]
        light = stop + int(np.argmax(behind >= _PASSED_SHARE * float(np.max(behind))))
        late = slice(light, int(np.searchsorted(time_s, time_s[light] + _CLEAR_S)))
        back = np.flatnonzero(power_w[late] >= _PASSED_SHARE * seen.target_w[late])
        if back.size:
            until = light + int(back[0])
            lag_s = float(time_s[until] - time_s[light])
            lagging = slice(light, until + 1)
            lost_w = np.maximum(seen.target_w[lagging] - power_w[lagging], 0.0)
            lag_wh = trapezoid_wh(time_s[lagging], lost_w)
    inside = slice(max(start - 1, 0), until + 1)
    lost = trapezoid_wh(time_s[inside], np.maximum(seen.clear_w[inside] - power_w[inside], 0.0))
    return Cloud(
        start_s=float(time_s[start]),
        end_s=float(time_s[stop]),
        lost_wh=lost,
        lag_s=lag_s,
        lag_wh=lag_wh,
    )


def usual_lag(clouds: Sequence[Cloud], recoveries: Sequence[Recovery]) -> float | None:
    """Median seconds to come back, over clouds and shade; None where none was seen."""
    lags = [c.lag_s for c in clouds if c.lag_s is not None]
    lags += [r.recover_s for r in recoveries if r.recover_s is not None]
    return float(np.median(lags)) if lags else None


def slow_tracker_wh(lag_s: float, step_w: float, passings: int) -> float:
    """What a tracker's lag costs on a day of broken cloud.

    A tracker that comes back along an exponential reaches 95 % after three time constants
    (−ln 0.05 = 3.0) and has then lost about the step for one of them.

    Args:
        lag_s: to 95 % of the step.
        step_w: what comes back each time.
        passings: how often.
    """
    return passings * step_w * lag_s / -math.log(0.05) / SECONDS_PER_HOUR
