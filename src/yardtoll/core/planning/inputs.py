"""The watts a station takes from each source, and how long a measured charge would take there."""

from collections.abc import Sequence

import numpy as np

from yardtoll.core.claims.contradictions import binding_limit
from yardtoll.core.claims.kinds import Claim
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.methods.sources import Source

_FLOWING_W = 2.0


def claimed(claims: Sequence[Claim], kind: str) -> float | None:
    """The most cautious of a kind's claimed figures; None where there is none."""
    found = binding_limit(claims, kind)
    return found.value if found is not None else None


def source_w(
    source: Source, claims: Sequence[Claim], rated_wh: float, *, array_w: float | None = None
) -> float | None:
    """W at full power from a source: as claimed, else what is usual; None where neither is known.

    Args:
        array_w: what the array at hand gives, up to the claimed solar input.
    """
    stated = claimed(claims, source.watts) if source.watts else None
    if source.by_panels:
        given = [watts for watts in (array_w, stated) if watts]
        return min(given) if given else None
    if stated:
        return stated
    if source.parts:
        found = (source_w(part, claims, rated_wh, array_w=array_w) for part in source.parts)
        return sum(watts or 0.0 for watts in found)
    if source.typical_v is not None and source.typical_a is not None:
        volts = claimed(claims, source.volts) or source.typical_v
        return volts * (claimed(claims, source.amps) or source.typical_a)
    if source.typical_c is not None:
        return source.typical_c * rated_wh
    return source.typical_w


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
