"""The energy of one run, discharge or recharge, from its counter or its power, gaps bridged."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yardtoll.core.electrical.energy import (
    COUNTER_COARSE_SHARE,
    DISAGREE_SHARE,
    SECONDS_PER_HOUR,
    Counter,
    Gap,
    counter_step_wh,
    disagreement,
    gaps_between,
    slice_between,
    trapezoid_wh,
)
from yardtoll.core.electrical.load_span import LoadSpan
from yardtoll.core.electrical.parts import differences, step_parts
from yardtoll.core.electrical.timebase import Sampling, thinned, usual_step_s
from yardtoll.core.electrical.trace import Code, FloatArray, Notice
from yardtoll.core.formatting import counted

_DIGITS_SEEN = 20
"""So many different watts show which digits a meter has."""
_LEVELS_LOOKED_AT = 1000
_CHANGED_SHARE = 0.02
"""A step between two samples that changes the power by less than this share of it is drift."""


@dataclass(frozen=True, kw_only=True)
class SampleLimits:
    """What the samples of one log leave open in its energy, in Wh.

    Attributes:
        resolution_wh, resolution_why: limit ±, from the last digit of the counter or the power.
        sampling_u_wh: standard uncertainty of what happened between the samples; 0 for a counter.
        edges_wh: limits ± of the energy at load-on and at cut-off; 0 for a counter, which has
            counted all there was between the samples around them, and where a gap tells its own.
        lost_wh: limit ± of what a counter lost when it restarted.
        unread_wh: limit ± of what came after the last value that was read.
        of_counter: whether an energy counter gave the energy, read by a log or by eye.
    """

    resolution_wh: float
    resolution_why: str
    sampling_u_wh: float = 0.0
    edges_wh: tuple[float, float] = (0.0, 0.0)
    lost_wh: float = 0.0
    unread_wh: float = 0.0
    of_counter: bool = False


def sample_limits(
    source: str,
    power: tuple[FloatArray, FloatArray] | None,
    counter: Counter | None,
    span: LoadSpan,
    gaps: tuple[Gap, ...],
) -> SampleLimits:
    """The resolution of the source of a run's energy, and what its samples leave open.

    A counter is right to half a step at either end. Watts are right to half a step all the time: a
    steady load may sit just between two of them.
    """
    if source == "counter" and counter is not None:
        lost = [
            lost
            for at_s, lost in zip(counter.reset_times_s, counter.lost_wh, strict=True)
            if span.start_s < at_s <= span.cutoff_s
        ]
        return SampleLimits(
            resolution_wh=math.sqrt(2) * counter.step_wh / 2,
            resolution_why=f"steps of {counter.step_wh:g} Wh, at either end",
            lost_wh=sum(lost),
            of_counter=True,
        )
    assert power is not None
    within = slice_between(power[0], span.start_s, span.cutoff_s)
    time_s, watts = power[0][within], power[1][within]
    step_w = _step_w(watts) if watts.size else 0.0
    edges_wh = [0.0, 0.0]
    if watts.size:
        beside = _gaps_beside(gaps, time_s)
        for end in (0, -1):
            known = max(float(watts[end]), 0.0) * span.edges_s[end] / SECONDS_PER_HOUR
            edges_wh[end] = known if beside[end] is None else 0.0
    return SampleLimits(
        resolution_wh=step_w / 2 * span.hours,
        resolution_why=f"steps of {step_w:g} W for {span.hours:.2f} h",
        sampling_u_wh=_between_samples_u_wh(time_s, watts),
        edges_wh=(edges_wh[0], edges_wh[1]),
    )


def _gaps_beside(gaps: tuple[Gap, ...], time_s: FloatArray) -> tuple[Gap | None, Gap | None]:
    """The gaps that lead to the first and from the last of a run's samples."""
    before = (gap for gap in gaps if gap.end_s == time_s[0])
    after = (gap for gap in gaps if gap.start_s == time_s[-1])
    return next(before, None), next(after, None)


def _step_w(watts: FloatArray) -> float:
    """The last digit of the watts: the largest round step that all of them are made of.

    A few levels, such as 400 and 200 W, do not show a meter's digits; they count as whole watts
    at most.
    """
    step = counter_step_wh(watts)
    return min(step, 1.0) if _has_few_levels(watts) else step


def _has_few_levels(watts: FloatArray) -> bool:
    some = watts[:: max(1, watts.size // _LEVELS_LOOKED_AT)]
    return bool(
        np.unique(some).size < _DIGITS_SEEN and np.unique(thinned(watts)).size < _DIGITS_SEEN
    )


def _between_samples_u_wh(time_s: FloatArray, power_w: FloatArray) -> float:
    """Standard uncertainty in Wh of what a load did between the samples.

    A change of ΔP within an interval of dt happened somewhere in it: u = |ΔP|·dt ÷ √12. Where
    changes follow on each other the load may have switched unseen in between, and each sample
    represents its interval by chance: u = |ΔP|·dt ÷ √2. The changed samples are independent, so
    they add in quadrature. Gaps are budgeted apart from this and do not count here.
    """
    if time_s.size < 3:
        return 0.0
    longest_s = max(5.0 * usual_step_s(time_s), 10.0)
    total = 0.0
    for part, own in step_parts(time_s.size, around=1):
        steps, changes = differences(time_s[part]), differences(power_w[part])
        if steps.max() > longest_s:
            changes[steps > longest_s] = 0.0
        moved = _moved(changes, power_w[part])
        changes *= steps
        total += float(np.einsum("i,i->", changes[own], changes[own])) / 12
        follow = np.flatnonzero(np.diff(moved) == 1)
        if follow.size:
            unseen = np.zeros(changes.size, dtype=bool)
            unseen[moved[follow]] = unseen[moved[follow + 1]] = True
            total += (1 / 2 - 1 / 12) * float((changes[own][unseen[own]] ** 2).sum())
    return math.sqrt(total) / SECONDS_PER_HOUR


def _moved(changes: FloatArray, watts: FloatArray) -> NDArray[np.intp]:
    """Which of the (n − 1,) changes between (n,) W are more than drift."""
    # Few are more than drift from the lowest power; the rest need no closer look.
    drift_w = _CHANGED_SHARE * max(float(watts.min()), 0.0)
    sizes = np.abs(changes)
    if sizes.max() <= drift_w:
        return np.empty(0, dtype=np.intp)
    likely = np.flatnonzero(sizes > drift_w)
    levels = np.maximum(np.abs(watts[likely]), np.abs(watts[likely + 1]))
    return likely[sizes[likely] > _CHANGED_SHARE * levels]


def energy_of_run(
    sampling: Sampling,
    power: tuple[FloatArray, FloatArray] | None,
    counter: Counter | None,
    span: LoadSpan,
) -> tuple[float, str, tuple[Gap, ...]]:
    """Wh of a run, what gave it ("counter" or "power"), and the gaps in it.

    The counter is used, not the power column, unless its step is coarser than 0.5 % of the total.
    From power it is the trapezoid between the first and the last loaded sample, and their own power
    out to load-on and cut-off, or what the counter says of a gap there.

    Args:
        power: (n,) s and (n,) W, or None; a trace without power has a counter.
    """
    if counter is not None:
        total = _counted_wh(counter, span)
        if power is None or counter.step_wh <= COUNTER_COARSE_SHARE * total:
            time_s = power[0] if power is not None else counter.time_s
            gaps = gaps_between(sampling, time_s, None, counter, span.start_s, span.cutoff_s)
            return total, "counter", gaps
    assert power is not None
    gaps = gaps_between(sampling, *power, counter, span.start_s, span.cutoff_s)
    within = slice_between(power[0], span.start_s, span.cutoff_s)
    time_s, watts = power[0][within], power[1][within]
    delivered = trapezoid_wh(time_s, watts)
    if not watts.size:
        return delivered, "power", gaps
    beside = _gaps_beside(gaps, time_s)
    outside_s = (time_s[0] - span.start_s, span.cutoff_s - time_s[-1])
    for end in (0, -1):
        gap = beside[end]
        if gap is not None and gap.bridged_by == "counter":
            delivered += gap.energy_wh
        else:
            delivered += float(watts[end] * outside_s[end]) / SECONDS_PER_HOUR
    for gap in gaps:
        if gap.bridged_by == "counter" and gap not in beside:
            ends = slice_between(power[0], gap.start_s, gap.end_s)
            delivered += gap.energy_wh - trapezoid_wh(power[0][ends], power[1][ends])
    return delivered, "power", gaps


def energy_notices(
    name: str,
    sampling: Sampling,
    power: tuple[FloatArray, FloatArray] | None,
    counter: Counter | None,
    span: LoadSpan,
    gaps: tuple[Gap, ...],
) -> list[Notice]:
    """What must be known of how a run's energy came about: gaps, counter resets, disagreement.

    Args:
        name: the log's, put in front of every notice.
    """
    found = []

    def say(code: Code, message: str) -> None:
        found.append(Notice(code=code, message=f"{name}: {message}"))

    if gaps:
        longest = max(gap.end_s - gap.start_s for gap in gaps)
        hidden = sum(gap.could_hide_wh for gap in gaps)
        say(
            Code.GAP,
            f"{counted(len(gaps), 'gap')} in the run, longest {longest:.0f} s;"
            f" up to {hidden:.1f} Wh could be hidden in them",
        )
    if counter is None:
        return found
    resets = [t for t in counter.reset_times_s if span.start_s < t <= span.cutoff_s]
    if resets:
        at = ", ".join(f"{t:.0f} s" for t in resets)
        say(
            Code.COUNTER_RESET,
            f"the energy counter restarted or jumped at {at}; the parts were joined",
        )
    apart = None
    if power is not None:
        apart = disagreement(sampling, *power, counter, span.start_s, span.cutoff_s)
    if apart is not None and abs(apart) > DISAGREE_SHARE:
        side = "above" if apart > 0 else "below"
        say(
            Code.COUNTER_DISAGREES,
            f"the energy counter is {abs(apart):.1%} {side} what the power column adds up to",
        )
    return found


def _counted_wh(counter: Counter, span: LoadSpan) -> float:
    """Counter from the sample before load-on to the one after cut-off.

    A counter often takes in the last moments only with its next sample; what it shows just
    outside the run is still the run's.
    """
    before = max(int(np.searchsorted(counter.time_s, span.start_s, side="left")) - 1, 0)
    after = min(
        int(np.searchsorted(counter.time_s, span.cutoff_s, side="right")), counter.time_s.size - 1
    )
    if counter.time_s[after] in counter.reset_times_s and counter.time_s[after] > span.cutoff_s:
        after -= 1
    return float(counter.energy_wh[after] - counter.energy_wh[before])
