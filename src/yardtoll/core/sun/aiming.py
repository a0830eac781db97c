"""Turning panels by hand: what it gains now, and over a day at a few chosen hours."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.sun.panels import SunArray, array_power_w
from yardtoll.core.sun.sky import Sky, SunSite, clear_sky, on_plane

_TILTS = np.arange(0.0, 91.0, 1.0)


@dataclass(frozen=True, kw_only=True)
class Aim:
    """A way to turn the panels, degrees, and the W it gives at that moment after the cap."""

    tilt: float
    azimuth: float
    power_w: float


@dataclass(frozen=True, kw_only=True)
class AimedDay:
    """A day of panels that are left as they are, and of panels turned at chosen times, Wh.

    Attributes:
        aims: (index into the day's times, how to turn them then).
        fixed_w, aimed_w: (n,) W after the cap.
    """

    fixed_wh: float
    aimed_wh: float
    aims: tuple[tuple[int, Aim], ...]
    fixed_w: FloatArray
    aimed_w: FloatArray

    @property
    def gain_wh(self) -> float:
        """What the turning brings."""
        return self.aimed_wh - self.fixed_wh


def aim_at(site: SunSite, array: SunArray, when_s: FloatArray) -> tuple[Aim, Aim]:
    """At one moment: the panels as they stand, and turned for the most light.

    The beam decides, so they face the sun's own direction; the tilt is the one that gives most.

    Args:
        when_s: (1,) s since 1970, UTC.
    """
    sky = clear_sky(site, when_s)
    now = Aim(
        tilt=site.tilt,
        azimuth=site.azimuth % 360,
        power_w=_power(sky, site, array, site.tilt, site.azimuth % 360),
    )
    return now, _best(sky, site, array)


def aimed_by_hand(
    site: SunSite, array: SunArray, clock_s: FloatArray, at: Sequence[int]
) -> AimedDay:
    """A clear day with the panels turned at chosen times, each for the middle of its stretch.

    Args:
        clock_s: (n,) every minute of the day, s since 1970, UTC.
        at: rising indices into it; before the first the panels stand as they are, and where
            no beam reaches them nobody turns them.
    """
    sky = clear_sky(site, clock_s)
    fixed = _turned_w(sky, site, array, site.tilt, site.azimuth % 360)
    tilt = np.full(clock_s.size, site.tilt)
    azimuth = np.full(clock_s.size, site.azimuth % 360)
    lit = np.flatnonzero(sky.direct > 0)
    sunset = int(lit[-1]) + 1 if lit.size else clock_s.size
    aims = []
    ends = [*at[1:], max(sunset, at[-1] + 1)] if at else []
    for start, end in zip(at, ends, strict=True):
        middle = min((start + end) // 2, clock_s.size - 1)
        if not sky.direct[middle] > 0:
            continue
        best = _best(_moment(sky, middle), site, array)
        tilt[start:], azimuth[start:] = best.tilt, best.azimuth
        aims.append((start, best))
    aimed = _turned_w(sky, site, array, tilt, azimuth)
    hours = float(clock_s[1] - clock_s[0]) / 3600
    return AimedDay(
        fixed_wh=float(fixed.sum()) * hours,
        aimed_wh=float(aimed.sum()) * hours,
        aims=tuple(aims),
        fixed_w=fixed,
        aimed_w=aimed,
    )


def _moment(sky: Sky, index: int) -> Sky:
    one = slice(index, index + 1)
    return Sky(
        clock_s=sky.clock_s[one],
        direct=sky.direct[one],
        diffuse=sky.diffuse[one],
        level=sky.level[one],
        zenith=sky.zenith[one],
        azimuth=sky.azimuth[one],
        up=sky.up[one],
    )


def _best(sky: Sky, site: SunSite, array: SunArray) -> Aim:
    """Of one moment: towards the sun, at the tilt that gives most."""
    azimuth = float(sky.azimuth[0])
    powers = [_power(sky, site, array, float(tilt), azimuth) for tilt in _TILTS]
    index = int(np.argmax(powers))
    return Aim(tilt=float(_TILTS[index]), azimuth=azimuth, power_w=powers[index])


def _power(sky: Sky, site: SunSite, array: SunArray, tilt: float, azimuth: float) -> float:
    return float(_turned_w(sky, site, array, tilt, azimuth)[0])


def _turned_w(
    sky: Sky,
    site: SunSite,
    array: SunArray,
    tilt: float | FloatArray,
    azimuth: float | FloatArray,
) -> FloatArray:
    """(n,) W after the cap, the panels turned so."""
    watts = array_power_w(on_plane(sky, tilt, azimuth, site.albedo), array)
    return watts if array.cap_w is None else np.minimum(watts, array.cap_w)
