"""The watts a station takes from each source, and how long a measured charge would take there."""

from collections.abc import Sequence

import numpy as np

from yardtoll.core.claims.contradictions import binding_limit
from yardtoll.core.claims.kinds import Claim
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.planning.expected import TYPICAL_CHARGE_C

# Common practice, no source.
USUAL_CAR_V, USUAL_CAR_A, USUAL_USB_W = 12.0, 8.0, 60.0
_FLOWING_W = 2.0


def claimed(claims: Sequence[Claim], kind: str) -> float | None:
    """The most cautious of a kind's claimed figures; None where there is none."""
    found = binding_limit(claims, kind)
    return found.value if found is not None else None


def input_w(
    claims: Sequence[Claim], rated_wh: float, *, array_w: float | None = None
) -> dict[str, float]:
    """W at full power by the method that charges so; no sun without array or claim.

    Args:
        array_w: what the array at hand gives, up to the claimed solar input.
    """
    given = [watts for watts in (array_w, claimed(claims, "solar_w")) if watts]
    sun = min(given) if given else None
    wall = claimed(claims, "recharge_w") or TYPICAL_CHARGE_C * rated_wh
    car_v = claimed(claims, "car_in_v") or USUAL_CAR_V
    found = {
        "recharge_wall": wall,
        "recharge_car": claimed(claims, "car_in_w")
        or car_v * (claimed(claims, "car_in_a") or USUAL_CAR_A),
        "recharge_usb_c": claimed(claims, "usb_in_w") or USUAL_USB_W,
        "recharge_wall_sun": claimed(claims, "combined_in_w") or wall + (sun or 0.0),
    }
    return found | ({"recharge_sun": sun} if sun else {})


def same_charge_s(time_s: FloatArray, power_w: FloatArray, source_w: float) -> float:
    """How long a measured charge would take from a source of fewer watts, its taper included.

    Where the station took more than the source has, the same energy takes energy ÷ W; where it
    took less, as in the taper, it decides by itself. Pauses are left out, equal losses assumed.

    Args:
        time_s, power_w: (n,) s rising and W of the measured charge.
        source_w: > 0.
    """
    steps = np.diff(time_s)
    mean_w = (power_w[1:] + power_w[:-1]) / 2
    flowing = mean_w > _FLOWING_W
    return float(np.sum(steps[flowing] * np.maximum(mean_w[flowing] / source_w, 1.0)))
