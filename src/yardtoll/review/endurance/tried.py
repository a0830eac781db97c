"""Runs with real appliances: what an appliance is by one, and the forecast held against one."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.energy import slice_between
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Code
from yardtoll.core.endurance.display import HoursMore, hours_more
from yardtoll.core.endurance.duty import DutyCycle, duty_of
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.formatting import format_span, format_with_uncertainty
from yardtoll.core.methods import Outlet
from yardtoll.review.endurance.answer import Answer
from yardtoll.review.run_analysis import RunAnalysis, once_a_run
from yardtoll.store.records import Appliance, ReadingKind

_UNKNOWN_SHARE = 0.2
"""How far an appliance may be off where fewer than three cycles were seen (common practice, no
source)."""
_FEWEST_POINTS = 400
HOUR_S = 3600.0


def has_appliance(analysis: RunAnalysis) -> bool:
    """Whether a run may tell what an appliance is: a discharge through the AC outlet with a log."""
    return bool(
        analysis.is_valid_discharge
        and analysis.method.outlet is Outlet.AC
        and not analysis.method.may_exceed_rating
        and analysis.has_trace
    )


@once_a_run
def duty_in(analysis: RunAnalysis) -> DutyCycle | str:
    """What the appliance of a run draws; or why that is not known, in a clause."""
    trace, out = analysis.trace, analysis.energy_out
    if trace is None or out is None:
        return "the run has no log of watts"
    time_s, power_w = trace.valid(Quantity.POWER)
    start, end = out.result.start_s, out.result.cutoff_s
    if start is not None and end is not None:
        within = slice_between(time_s, start, end)
        time_s, power_w = time_s[within], power_w[within]
    try:
        return duty_of(time_s, power_w)
    except UnusableDataError as error:
        return str(error)


def appliance_from(analysis: RunAnalysis, name: str) -> Appliance | str:
    """The appliance of a run with its range; or why there is none, in a clause."""
    duty, out = duty_in(analysis), analysis.energy_out
    if isinstance(duty, str):
        return duty
    by_cycles = duty.expanded_w / duty.mean_w if duty.expanded_w is not None else _UNKNOWN_SHARE
    if not duty.cycles and duty.duty >= 1:
        by_cycles = 0.0
    by_meter = 0.0
    if out is not None and out.budget is not None and out.delivered_wh > 0:
        by_meter = out.budget.expanded / out.delivered_wh
    share = min(float(np.hypot(by_cycles, by_meter)), 0.95)
    return Appliance(
        name=name,
        watts=duty.watts,
        duty=duty.duty,
        inrush_w=duty.start_w if duty.start_w and duty.start_w > 1.2 * duty.watts else None,
        low_share=1 - share,
        high_share=1 + share,
        run_id=analysis.run.id,
        note=duty_words(duty),
    )


def duty_words(duty: DutyCycle) -> str:
    """Like "93 W, 41 % of the time; 917 ± 22 Wh a day in 14 cycles; 420 W to start"."""
    if duty.expanded_w is not None:
        daily = format_with_uncertainty(duty.daily_wh, 24 * duty.expanded_w)
    else:
        daily = f"about {duty.daily_wh:.0f}"
    parts = [f"{duty.watts:.0f} W" + (f", {100 * duty.duty:.0f} % of the time" * (duty.duty < 1))]
    cycles = f" in {duty.cycles} cycles" if duty.cycles else ""
    parts.append(f"{daily} Wh a day{cycles}")
    if duty.start_w is not None and duty.start_w > 1.2 * duty.watts:
        parts.append(f"at least {duty.start_w:.0f} W to start")
    return "; ".join(parts)


@dataclass(frozen=True, kw_only=True)
class Tried:
    """How an outage really was.

    Attributes:
        hours: from load-on to the end of the run.
        is_whole: it was seen from a full store to the cut-off.
        course: (h, Wh) of the store: by the meter with the station's tolls, or by the display.
        more: what the last reading of the display said of the rest; None where there is none.
        shown: that reading: (h, %).
    """

    number: int
    hours: float
    is_whole: bool
    course: tuple[tuple[float, float], ...]
    more: HoursMore | None = None
    shown: tuple[float, float] | None = None


def tried_in(analysis: RunAnalysis, answer: Answer) -> Tried | str:
    """A run beside the forecast; or why it says nothing, in a clause."""
    out = analysis.energy_out
    if out is None or not out.result.duration_s:
        return f"run {analysis.run.number} has no result: {analysis.problem or 'no duration'}"
    shown = _last_shown(analysis)
    return Tried(
        number=analysis.run.number,
        hours=out.result.duration_s / HOUR_S,
        is_whole=out.is_whole and not out.result.has(Code.NO_CUTOFF),
        course=tuple(_course(analysis, answer)),
        more=_more(analysis, shown),
        shown=shown,
    )


def _readings(analysis: RunAnalysis) -> list[tuple[float, float]]:
    """(h since load-on, %) of the display."""
    out = analysis.energy_out
    start = (out.result.start_s if out is not None else None) or 0.0
    soc = analysis.records.readings_of(ReadingKind.SOC)
    return [((r.time_s - start) / HOUR_S, r.value) for r in soc if r.time_s > start]


def _last_shown(analysis: RunAnalysis) -> tuple[float, float] | None:
    between = [(h, shown) for h, shown in _readings(analysis) if shown > 0]
    return between[-1] if between else None


def _more(analysis: RunAnalysis, shown: tuple[float, float] | None) -> HoursMore | None:
    if shown is None:
        return None
    try:
        return hours_more(shown[1], shown[0] * HOUR_S, analysis.run.soc_from)
    except ValueOutOfRangeError:
        return None


def _course(analysis: RunAnalysis, answer: Answer) -> Sequence[tuple[float, float]]:
    """The store by the meter, thinned; by the display where there is no log."""
    asked, trace, out = answer.asked, analysis.trace, analysis.energy_out
    full_wh = asked.store_wh
    if trace is None or analysis.records.typed or out is None or out.result.start_s is None:
        shown = _readings(analysis)
        begin = [(0.0, full_wh * analysis.run.soc_from / 100)]
        return [*begin, *((h, full_wh * percent / 100) for h, percent in shown)]
    time_s, power_w = trace.valid(Quantity.POWER)
    end = out.result.cutoff_s if out.result.cutoff_s is not None else float(time_s[-1])
    within = slice_between(time_s, out.result.start_s, end)
    time_s, power_w = time_s[within], power_w[within]
    if time_s.size < 2:
        return []
    battery_w = power_w * (1 + asked.conversion) + asked.ohmic_per_w * power_w**2 + asked.overhead_w
    steps = np.diff(time_s) * (battery_w[1:] + battery_w[:-1]) / 2 / HOUR_S
    left = full_wh - np.concatenate([[0.0], np.cumsum(steps)])
    places = np.unique(np.linspace(0, time_s.size - 1, _FEWEST_POINTS).astype(int))
    hours = (time_s - time_s[0]) / HOUR_S
    return [(float(hours[i]), max(float(left[i]), 0.0)) for i in places]


def tried_words(tried: Tried, answer: Answer) -> list[str]:
    """The forecast held against what was, in sentences."""
    was = format_span(tried.hours * HOUR_S)
    hours = answer.result.hours
    said = []
    if not tried.is_whole:
        said.append(
            f"Tried in run {tried.number}: {was} at least; its end or its beginning was not seen, "
            "so the forecast cannot be judged by it."
        )
    elif hours is None:
        said.append(f"Tried in run {tried.number}: empty after {was}; the forecast lasts longer.")
    else:
        off = 100 * (hours / tried.hours - 1)
        low, high = answer.spread.low_h, answer.spread.high_h
        inside = (low is None or tried.hours >= low) and (high is None or tried.hours <= high)
        where = "within its ±" if inside else "outside its ±: store or appliances are others"
        side = "more" if off >= 0 else "less"
        said.append(
            f"Tried in run {tried.number}: {was}. The forecast is {abs(off):.0f} % {side} than "
            f"that, {where}."
        )
    if tried.more is not None and tried.shown is not None:
        more = format_with_uncertainty(tried.more.hours, tried.more.expanded_h)
        at, percent = tried.shown
        said.append(
            f"After {format_span(at * HOUR_S)} the display said {percent:g} %: {more} h more at "
            "the pace so far."
        )
    return said
