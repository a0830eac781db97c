"""What an array should give on a clear day, minute by minute, and the hours worth testing in."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import Code, FloatArray, Notice
from yardtoll.core.sun.panels import SunArray, array_power_w
from yardtoll.core.sun.sky import Sky, SunSite, clear_sky, on_plane

STEP_S = 60.0
WINDOW_SHARE = 0.5
"""The hours worth testing in: the input above this share of the day's peak."""


@dataclass(frozen=True, kw_only=True)
class ClearDay:
    """A clear day, minute by minute.

    Attributes:
        clock_s: (n,) s since 1970, UTC, one a minute from midnight.
        input_w: (n,) W at the station after its cap.
        window_s: (start, end) in s since 1970 of each stretch above half of the day's peak.
    """

    clock_s: FloatArray
    input_w: FloatArray
    expected_wh: float
    peak_w: float
    clipped_wh: float
    window_s: tuple[tuple[float, float], ...]
    notices: tuple[Notice, ...]


def clear_day(
    site: SunSite,
    array: SunArray,
    clock_s: FloatArray,
    others: Sequence[tuple[SunSite, SunArray]] = (),
) -> ClearDay:
    """What the array gives over one local day under a clear sky.

    Args:
        clock_s: (n,) every minute of the day, s since 1970, UTC.
        others: further arrays on the same input, each turned as it is; the first one's cap holds
            for all of them.
    """
    free_w = free_power_w([(site, array), *others], clock_s)
    input_w = free_w if array.cap_w is None else np.minimum(free_w, array.cap_w)
    hours = STEP_S / 3600
    peak = float(input_w.max())
    notices = []
    if peak <= 0:
        message = "the sun does not reach the panels on that day"
        notices.append(Notice(code=Code.NO_SUN, message=message))
    if site.tilt > 90:
        message = f"at a tilt of {site.tilt:g}° the panels face the ground"
        notices.append(Notice(code=Code.FACES_DOWN, message=message))
    return ClearDay(
        clock_s=clock_s,
        input_w=input_w,
        expected_wh=float(input_w.sum()) * hours,
        peak_w=peak,
        clipped_wh=float((free_w - input_w).sum()) * hours,
        window_s=_window_s(clock_s, input_w, peak),
        notices=tuple(notices),
    )


def free_power_w(
    parts: Sequence[tuple[SunSite, SunArray]], clock_s: FloatArray, first: Sky | None = None
) -> FloatArray:
    """(n,) W of all arrays under a clear sky, before any cap.

    Args:
        clock_s: (n,) s since 1970, UTC.
        first: the clear sky over the first site, where it is known already.
    """
    made = []
    for number, (site, array) in enumerate(parts):
        sky = first if number == 0 and first is not None else clear_sky(site, clock_s)
        plane = on_plane(sky, site.tilt, site.azimuth % 360, site.albedo)
        made.append(array_power_w(plane, array))
    return np.asarray(np.sum(made, axis=0))


def _window_s(
    clock_s: FloatArray, input_w: FloatArray, peak_w: float
) -> tuple[tuple[float, float], ...]:
    """Stretches above half of the peak; a minute counts to its end."""
    if peak_w <= 0:
        return ()
    above = np.flatnonzero(input_w > WINDOW_SHARE * peak_w)
    parts = np.split(above, np.flatnonzero(np.diff(above) > 1) + 1)
    return tuple((float(clock_s[p[0]]), float(clock_s[p[-1]]) + STEP_S) for p in parts if p.size)
