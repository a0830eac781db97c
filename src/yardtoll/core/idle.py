"""What a station uses up by itself: W = ΔSOC × rated ÷ hours."""

import math
from dataclasses import dataclass

from yardtoll.core.energy import SECONDS_PER_HOUR
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.soc_times import SOC_HALF_STEP
from yardtoll.core.uncertainty.budget import COVERAGE_FACTOR


@dataclass(frozen=True, kw_only=True)
class IdleResult:
    """Idle draw in W with its expanded uncertainty (k = 2), %/h, and hours from full to empty.

    ``hours_to_empty`` is None where nothing was used up.
    """

    idle_w: float
    idle_w_expanded: float
    percent_per_hour: float
    hours_to_empty: float | None


def idle_draw(rated_wh: float, soc_from: float, soc_to: float, duration_s: float) -> IdleResult:
    """From two display readings.

    Raises:
        ValueOutOfRangeError: a rating or duration not above 0, or a state of charge outside 0–100.
        UnusableDataError: the state of charge rose.
    """
    if not (math.isfinite(rated_wh) and rated_wh > 0):
        raise ValueOutOfRangeError("--rated-wh", rated_wh, "above 0 Wh")
    if not (math.isfinite(duration_s) and duration_s > 0):
        raise ValueOutOfRangeError("--duration", duration_s, "longer than 0 s")
    for name, value in (("--soc-from", soc_from), ("--soc-to", soc_to)):
        if not 0 <= value <= 100:
            raise ValueOutOfRangeError(name, value, "between 0 and 100 %")
    if soc_to > soc_from:
        raise UnusableDataError(
            f"the state of charge rose from {soc_from:g} to {soc_to:g} %: an input was plugged in"
        )
    hours = duration_s / SECONDS_PER_HOUR
    points = soc_from - soc_to
    # Two independent readings, each ± half a point, rectangular (JCGM 100:2008, 4.3.7).
    u_points = math.sqrt(2) * SOC_HALF_STEP / math.sqrt(3)
    watts_per_point = rated_wh / 100 / hours
    return IdleResult(
        idle_w=points * watts_per_point,
        idle_w_expanded=COVERAGE_FACTOR * u_points * watts_per_point,
        percent_per_hour=points / hours,
        hours_to_empty=100 * hours / points if points > 0 else None,
    )
