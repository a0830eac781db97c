"""Findings of a solar run: the input's watts and the hours to full."""

from collections.abc import Iterator, Sequence

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.methods.sources import SUN
from yardtoll.core.sun.limits import Limit
from yardtoll.core.uncertainty.budget import Budget, Measured, ratio, rectangular
from yardtoll.review.budgets import EXACT, NO_METER, of_station, volts_budget, watts_budget
from yardtoll.review.kinds.solar.figures import harvest_of, volts_seen
from yardtoll.review.kinds.solar.sunlight import Sunlight
from yardtoll.review.run_analysis import RunAnalysis, in_time
from yardtoll.review.station.outlet_runs import WHOLE_CHARGE
from yardtoll.review.station.runs import StationRuns

_CAP_SEEN = 0.02
"""Of the time at its cap, before an input's watts are the station's own."""
_USUAL_EFFICIENCY = 0.9
"""Stored of what a solar input takes, where no recharge shows it (common practice, no source)."""


def solar_findings(
    analysis: RunAnalysis, light: Sunlight, station: StationRuns, claims: Sequence[Claim]
) -> Iterator[Finding]:
    """Sustained watts; and the hours to full worked out, where the run itself did not fill it.

    An input that never reached its cap shows only what the panels gave: it can meet a claim, not
    miss it.
    """
    run, source = light.run, analysis.method.source
    assert source is not None
    if source == SUN and (volts := volts_seen(analysis)) is not None:
        yield from _window(analysis, volts)
    if run.sustained_w is None:
        return
    at_cap = (run.limited_by or {}).get(Limit.CAP, 0.0) >= _CAP_SEEN
    yield Finding(
        kind=source.watts,
        value=run.sustained_w,
        budget=of_station(run.sustained_w, watts_budget(run.sustained_w, analysis), analysis),
        unknown=NO_METER,
        runs=(analysis.run.number,),
        method=analysis.run.method,
        doubts=analysis.doubts,
        lower_bound=not at_cap,
        why_bound=""
        if at_cap
        else f"The panels gave no more than {run.sustained_w:.0f} W, so the input may take more: "
        "it needs more panels, or more sun.",
        seen=f"sustained over 5 minutes, {run.peak_w:.0f} W at the peak",
    )
    asked = any(c.kind == SUN.time and c.soc_window in (None, (0.0, 100.0)) for c in claims)
    if source == SUN and asked and not _is_whole(analysis):
        yield from _worked_out_hours(analysis, light, station, at_cap=at_cap)


def _window(analysis: RunAnalysis, volts: tuple[float, float]) -> Iterator[Finding]:
    """The volts at which the input took power: nobody tries its limits."""
    seen = f"took power from {volts[0]:.1f} to {volts[1]:.1f} V"
    for kind, value in zip(("solar_v_min", "solar_v_max"), volts, strict=True):
        yield Finding(
            kind=kind,
            value=value,
            budget=volts_budget(value, analysis),
            unknown=NO_METER,
            runs=(analysis.run.number,),
            method=analysis.run.method,
            seen=seen,
        )


def _is_whole(analysis: RunAnalysis) -> bool:
    """Whether the run's own readings show a charge from empty to full."""
    result = analysis.energy_in.result if analysis.energy_in is not None else None
    if result is None or not result.readings:
        return False
    shown = [reading.soc for reading in result.readings]
    return max(shown) - min(shown) >= WHOLE_CHARGE


def _worked_out_hours(
    analysis: RunAnalysis, light: Sunlight, station: StationRuns, *, at_cap: bool
) -> Iterator[Finding]:
    """Energy of a whole charge ÷ the day's mean watts: the day's sum, put to one charge.

    The time in which a nearly full battery held the input back is no part of that mean.
    """
    harvest, run = harvest_of(analysis, light), light.run
    seconds, taken_wh = run.while_taking()
    if harvest is None or run.harvest_wh <= 0 or seconds <= 0 or taken_wh <= 0:
        return
    needed, words = _needed(analysis, station)
    mean_w = 3600 * taken_wh / seconds
    # The meter's limits are shares and an offset: they go with the mean as with the harvest.
    mean = Measured(value=mean_w, budget=harvest.scaled(mean_w / run.harvest_wh, "W"))
    quotient = ratio(needed, mean, names=("Needed", "Harvested"))
    at_best_h = needed.value / (run.sustained_w or mean_w)
    # Another day is not this one: the best five minutes bound what a better sun would do.
    sun = rectangular(
        "The day's sun",
        abs(quotient.value - at_best_h),
        f"at its best it would be {at_best_h:.1f} h",
    )
    yield Finding(
        kind=SUN.time,
        value=quotient.value,
        budget=Budget.of("h", [*quotient.budget.lines, sun]),
        unknown=NO_METER,
        runs=(analysis.run.number,),
        method=analysis.run.method,
        soc=(0.0, 100.0),
        lower_bound=not at_cap,
        why_bound=""
        if at_cap
        else "Fewer panels or less sun than the input takes were at work that day; more would be "
        "quicker.",
        seen=f"worked out: {needed.value:.0f} Wh {words}, at {mean.value:.0f} W, the day's mean "
        "until nearly full",
    )


def _needed(analysis: RunAnalysis, station: StationRuns) -> tuple[Measured, str]:
    """What a charge from empty to full takes: by the latest whole recharge, else by the rating."""
    whole = [
        (a.run.number, a.energy_in.measured)
        for a in in_time(station.analyses)
        if a.energy_in is not None
        and a.energy_in.measured is not None
        and not a.energy_in.by_sun
        and a.is_finished
        and a.energy_in.result.soc[1] - a.energy_in.result.soc[0] >= WHOLE_CHARGE
    ]
    if whole and whole[-1][1] is not None:
        return whole[-1][1], f"as in run {whole[-1][0]}"
    value = analysis.station.rated_wh / _USUAL_EFFICIENCY
    return Measured(value=value, budget=EXACT), "by the rating, a tenth lost"
