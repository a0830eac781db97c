"""A test of power while it runs: seconds at this step, share of the rating, the step to come."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import FloatArray

_SAME_SHARE = 0.03
"""A load within this share of now's is still the same step."""
_NOW_SAMPLES = 3
_LOAD_W, _OVER = 2.0, 1.02
_REACHED = 0.985


@dataclass(frozen=True, kw_only=True)
class HoldNow:
    """What is carried at this moment.

    Attributes:
        step_s: for how long the load has been what it is now.
        over_s: for how long it has been above the rating without a break; 0 where it is not.
        next_share, next_w: of the ladder's step to come; None at its end.
    """

    step_w: float
    step_s: float
    share_of_rated: float
    over_s: float
    next_share: float | None
    next_w: float | None


def hold_now(
    time_s: FloatArray, power_w: FloatArray, rated_w: float, ladder: Sequence[float] = ()
) -> HoldNow | None:
    """From the latest samples back; None before a load is on.

    Args:
        time_s, power_w: (n,) of the run so far; NaN is a missing value.
        ladder: shares of the rating that are to be tried, in any order.
    """
    good = np.isfinite(power_w)
    time_s, power_w = time_s[good], power_w[good]
    if power_w.size == 0 or rated_w <= 0:
        return None
    level = float(np.median(power_w[-_NOW_SAMPLES:]))
    if level <= _LOAD_W:
        return None
    share = level / rated_w
    to_come = sorted(step for step in ladder if step * _REACHED > share)
    return HoldNow(
        step_w=level,
        step_s=_since(time_s, np.abs(power_w - level) > _SAME_SHARE * level),
        share_of_rated=share,
        over_s=_since(time_s, power_w <= _OVER * rated_w) if share > _OVER else 0.0,
        next_share=to_come[0] if to_come else None,
        next_w=to_come[0] * rated_w if to_come else None,
    )


def _since(time_s: FloatArray, otherwise: np.ndarray) -> float:
    """S since the last sample that was otherwise."""
    last = np.flatnonzero(otherwise)
    begin = last[-1] + 1 if last.size else 0
    return float(time_s[-1] - time_s[min(begin, time_s.size - 1)])
