"""The station's display held against the meter: W, state of charge, time left, hidden reserve."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.discharge.meter_log import DisplayEntry
from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.electrical.trace import FloatArray

_LEAST_RANGE_SHARE = 0.2
"""A gain needs watts that differ by this share; else only an offset can be found."""


@dataclass(frozen=True, kw_only=True)
class Shown:
    """One reading of the display at s from the run's first sample."""

    s: float
    value: float


@dataclass(frozen=True, kw_only=True)
class SocAgainstEnergy:
    """A shown state of charge beside the share of the energy that was left, both in %.

    ``gone_wh`` is what had been delivered by then.
    """

    s: float
    shown: float
    left: float
    gone_wh: float


@dataclass(frozen=True, kw_only=True)
class TimeLeftError:
    """A shown time left beside the truth, in s; ``share`` is (true − shown) ÷ shown."""

    s: float
    shown_s: float
    true_s: float

    @property
    def share(self) -> float:
        """What was given over what was promised; below 0 when the display promises too much."""
        return self.true_s / self.shown_s - 1 if self.shown_s > 0 else 0.0


@dataclass(frozen=True, kw_only=True)
class DisplayAudit:
    """What the display got right and wrong; None where it was not read.

    Attributes:
        gain: shown W ÷ metered W, where the watts differed enough to separate it from an offset.
        offset_w: shown − metered W on the mean, or of the fit beside a gain.
        reserve_wh, reserve_s: delivered, and passed, after the display first said 0 %.
    """

    gain: float | None
    offset_w: float | None
    soc: tuple[SocAgainstEnergy, ...]
    time_left: tuple[TimeLeftError, ...]
    reserve_wh: float | None
    reserve_s: float | None


def audit_display(
    time_s: FloatArray,
    power_w: FloatArray,
    span: tuple[float, float],
    *,
    watts: Sequence[Shown] = (),
    soc: Sequence[Shown] = (),
    time_left: Sequence[Shown] = (),
    soc_to: float = 0.0,
) -> DisplayAudit:
    """Hold readings against a whole discharge.

    Args:
        time_s, power_w: (n,) of the meter, finite.
        span: load-on and cut-off in s.
        soc_to: % at which the discharge ends by plan.
    """
    start_s, end_s = span
    energy = (
        np.concatenate([[0.0], np.cumsum(0.5 * (power_w[1:] + power_w[:-1]) * np.diff(time_s))])
        / SECONDS_PER_HOUR
    )
    first, last = (float(np.interp(at, time_s, energy)) for at in span)
    total = last - first

    def left_share(at_s: float) -> float:
        return (last - float(np.interp(at_s, time_s, energy))) / total if total > 0 else 0.0

    inside = [r for r in soc if start_s <= r.s <= end_s]
    gain, offset = _gain_and_offset(time_s, power_w, [r for r in watts if start_s <= r.s <= end_s])
    empty = next((r for r in inside if r.value <= 0), None)
    return DisplayAudit(
        gain=gain,
        offset_w=offset,
        soc=tuple(
            SocAgainstEnergy(
                s=r.s,
                shown=r.value,
                left=soc_to + (100 - soc_to) * left_share(r.s),
                gone_wh=total * (1 - left_share(r.s)),
            )
            for r in inside
        ),
        time_left=tuple(
            TimeLeftError(s=r.s, shown_s=r.value, true_s=end_s - r.s)
            for r in time_left
            if start_s <= r.s < end_s
        ),
        reserve_wh=None if empty is None else left_share(empty.s) * total,
        reserve_s=None if empty is None else end_s - empty.s,
    )


def audit_of_entries(
    entries: Sequence[DisplayEntry], delivered_wh: float, *, soc_to: float = 0.0
) -> DisplayAudit:
    """The same from readings that stand beside the truth already, as those of notes do."""
    empty = next((e for e in entries if e.shown_soc is not None and e.shown_soc <= 0), None)
    pairs = [(e.meter_w, e.shown_w) for e in entries if e.shown_w and e.meter_w]
    gain, offset = _line_through(*(np.array(column) for column in zip(*pairs, strict=True))) if (
        pairs
    ) else (None, None)  # fmt: skip

    def left(energy_left_wh: float) -> float:
        return soc_to + (100 - soc_to) * energy_left_wh / delivered_wh

    return DisplayAudit(
        gain=gain,
        offset_w=offset,
        soc=tuple(
            SocAgainstEnergy(
                s=e.at_s,
                shown=e.shown_soc,
                left=left(e.energy_left_wh),
                gone_wh=delivered_wh - e.energy_left_wh,
            )
            for e in entries
            if e.shown_soc is not None and e.energy_left_wh is not None and delivered_wh > 0
        ),
        time_left=tuple(
            TimeLeftError(s=e.at_s, shown_s=e.shown_left_s, true_s=e.true_left_s)
            for e in entries
            if e.shown_left_s is not None and e.true_left_s
        ),
        reserve_wh=None if empty is None else empty.energy_left_wh,
        reserve_s=None if empty is None else empty.true_left_s,
    )


def _gain_and_offset(
    time_s: FloatArray, power_w: FloatArray, watts: Sequence[Shown]
) -> tuple[float | None, float | None]:
    """Of readings against the meter's samples."""
    if not watts:
        return None, None
    metered = np.interp([r.s for r in watts], time_s, power_w)
    return _line_through(metered, np.array([r.value for r in watts]))


def _line_through(metered: FloatArray, shown: FloatArray) -> tuple[float | None, float | None]:
    """A straight line through (metered, shown) where the range allows, else the mean difference."""
    if shown.size > 2 and float(np.ptp(metered)) > _LEAST_RANGE_SHARE * float(metered.max()):
        gain, offset = np.polyfit(metered, shown, 1)
        return float(gain), float(offset)
    return None, float(np.mean(shown - metered))
