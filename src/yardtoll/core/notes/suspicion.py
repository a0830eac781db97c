"""Units that may be mixed up in notes: W and Wh, W and kW, and what would fit."""

from itertools import pairwise

import numpy as np

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.electrical.trace import Code, Notice
from yardtoll.core.notes.course import Series

_JUMP = 1000.0
_NEAR = 2.0
"""A jump counts as one by 1000 within this factor …"""
_NEAR_W = 1.3
"""… and one of watts, which stay much the same, within this."""
_MOST_OVER, _LEAST_UNDER = 1.3, 0.1
"""Wh ÷ (W × h): more cannot be; less only of a load that is off most of the time."""
_SAME_SHARE = 0.1
_ODD_SHARE, _COUNTED_SHARE = 0.2, 0.03


def units_suspect(name: str, counter: Series, power: Series) -> list[Notice]:
    """What cannot be as written; the figures are left as they are.

    Args:
        name: for messages.
        counter, power: as noted, in Wh and W.
    """
    said = (
        _jump(counter, "Wh", rises=True)
        or _jump(power, "W", rises=False)
        or _cannot(counter, power)
        or _counted_as_watts(counter, power)
    )
    return [Notice(code=Code.UNITS_SUSPECT, message=f"{name}: {said}")] if said else []


def _jump(series: Series, unit: str, *, rises: bool) -> str:
    """A value about 1000 times its neighbour, which a slip of k makes."""
    values = series.values
    for index, (before, after) in enumerate(pairwise(values)):
        if before <= 0 or after <= 0 or (not rises and min(before, after) in (1.0, 2.0)):
            continue  # a watt or two is no load
        near = _NEAR if rises else _NEAR_W
        for ratio, wrong in ((after / before, "small"), (before / after, "large")):
            if not _JUMP / near <= ratio <= _JUMP * near:
                continue
            if rises and wrong == "small" and not _goes_on(values, index):
                continue
            low, high = min(before, after), max(before, after)
            # Whichever stands alone is the slip.
            small_is_odd = np.sum(values > high / _NEAR) >= np.sum(
                (values > 0) & (values < low * _NEAR)
            )
            odd, meant = (low, low * _JUMP) if small_is_odd else (high, high / _JUMP)
            return f"{odd:g} {unit} beside {high + low - odd:g} {unit}: was it {meant:g} {unit}?"
    return ""


def _goes_on(values: np.ndarray, index: int) -> bool:
    """Whether a counter's jump up is no true rise: what stood before it would fit 1000 times."""
    before = values[: index + 1]
    return bool(np.all(before[before > 0] * _JUMP <= values[index + 1] * _NEAR))


def _cannot(counter: Series, power: Series) -> str:
    """Wh that cannot follow from the watts seen."""
    watts = power.values[power.values > 0]
    if counter.size < 2 or watts.size == 0:
        return ""
    took_h = float(counter.s[-1] - counter.s[0]) / SECONDS_PER_HOUR
    risen = float(counter.values[-1] - counter.values[0])
    expected = float(np.mean(watts)) * took_h
    room = float(np.max(counter.steps)) + expected / max(60 * took_h, 1.0)
    if expected <= 4 * room:
        return ""
    most = float(np.max(watts)) * took_h
    if _LEAST_UNDER * expected - room <= risen <= _MOST_OVER * most + room:
        return ""
    steady = abs(risen) <= _SAME_SHARE * float(np.mean(counter.values))
    if steady and abs(float(np.mean(counter.values)) / float(np.mean(watts)) - 1) <= _SAME_SHARE:
        return f"{counter.values[-1]:g} Wh does not rise and is about the watts seen: are they W?"
    for factor in (_JUMP, 1 / _JUMP):
        if 1 / _NEAR <= risen * factor / expected <= _MOST_OVER:
            meant = counter.values[-1] * factor
            return (
                f"{counter.values[-1]:g} Wh cannot follow from {np.mean(watts):.0f} W in "
                f"{took_h:.1f} h: was it {meant:g} Wh?"
            )
    return (
        f"{risen:g} Wh cannot follow from {np.mean(watts):.0f} W in {took_h:.1f} h, which makes "
        f"{expected:.0f} Wh: are W and Wh mixed up?"
    )


def _counted_as_watts(counter: Series, power: Series) -> str:
    """A value in W that is no power of this load, and just what the counter should show then."""
    if counter.size < 2 or power.size < 2:
        return ""
    usual = float(np.median(power.values))
    for s, watts in zip(power.s, power.values, strict=True):
        if s in counter.s or not counter.s[0] < s < counter.s[-1]:
            continue
        counted = float(np.interp(s, counter.s, counter.values))
        odd = abs(watts / usual - 1) > _ODD_SHARE if usual > 0 else False
        if odd and counted > 0 and abs(watts / counted - 1) <= _COUNTED_SHARE:
            return f"{watts:g} W is what the counter showed about then: was it {watts:g} Wh?"
    return ""
