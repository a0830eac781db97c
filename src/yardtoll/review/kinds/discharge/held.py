"""Loads at and above the rating in a discharge: what was carried, how long, what ended it."""

from collections.abc import Iterator

from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.electrical.trace import Code, Trace
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import format_span
from yardtoll.core.methods import Method, Outlet
from yardtoll.core.output.hold import HoldResult, LoadStep, StepEnd, analyse_hold, lowered_volts
from yardtoll.core.output.noted import held_trace
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.store.records import ReadingKind

_OVER = 1.02
_MOST_STEPS = 6
_ENDS = {
    StepEnd.TRIP: "then it tripped",
    StepEnd.HAND: "then it was stopped by hand",
    StepEnd.BATTERY: "then the battery was empty",
    StepEnd.UNKNOWN: "what ended it is not known",
    StepEnd.LOG_END: "the log ends under load",
}


def held_in(
    run: RunAnalysis, trace: Trace | None, highest_w: float | None, noted: StepEnd | None = None
) -> HoldResult | None:
    """The steps of a run that holds a power, or that went over the rating by plan or by accident.

    None for all others, through a DC port, and without samples.

    Args:
        noted: what ended it, by notes; what is kept with the run goes before.
    """
    method, rated_w = run.method, run.station.rated_w
    if trace is None or method.outlet is Outlet.DC or not rated_w:
        return None
    if not _is_about_power(method) and (highest_w or 0.0) <= _OVER * rated_w:
        return None
    said = StepEnd(run.run.ended_by) if run.run.ended_by else noted
    try:
        return analyse_hold(trace, rated_w, ended_by=said, rated_wh=run.station.rated_wh)
    except UnusableDataError:
        return None


def held_in_notes(run: RunAnalysis, highest_w: float | None) -> HoldResult | None:
    """The same of a run noted by hand; what its notes say ended it counts unless the run says so.

    None where the notes have too little.
    """
    try:
        trace, said = held_trace(run.records.notes)
    except UnusableDataError:
        return None
    return held_in(run, trace, highest_w, said)


def overload_words(held: HoldResult) -> Iterator[str]:
    """The same for a report: only where the load went over the rating."""
    if held.surge_w is not None or any(s.share_of_rated > _OVER for s in held.steps):
        yield from held_words(held)


_LOWERED_SHARE = 0.95
"""Volts below this share of no load, in voltage-lowering mode, are lowered (common practice)."""


def lowered_clause(run: RunAnalysis, result: DischargeResult | None) -> str:
    """Why a run in voltage-lowering mode does not show rated power or volts; "" where it does."""
    if result is None or not run.run.conditions.lowers_voltage or not result.volts_mean:
        return ""
    demand_w, watts = run.run.target_w, result.mean_w
    held_back = bool(demand_w and watts and watts < _LOWERED_SHARE * demand_w)
    sags = result.sag_ratio is not None and result.sag_ratio > 1 - _LOWERED_SHARE
    if not held_back and not sags:
        return ""
    return (
        f"had voltage-lowering mode on and {result.volts_mean:.1f} V: heaters at lowered volts "
        "do not show what it gives at its rated ones"
    )


def lowered_words(run: RunAnalysis, result: DischargeResult) -> Iterator[str]:
    """Voltage-lowering mode: the volts against those that the square law gives for the load.

    Only where the load is known, by the watts that it was to draw, and the volts without it too.
    """
    demand_w, watts, volts = run.run.target_w, result.mean_w, result.volts_mean
    if not run.run.conditions.lowers_voltage or not demand_w or not watts or not volts:
        return
    if result.sag_ratio is None or watts >= demand_w:
        return
    no_load = volts / (1 - result.sag_ratio)
    should = lowered_volts(no_load, demand_w, watts)
    yield (
        f"Loads of {demand_w:.0f} W at {no_load:.1f} V drew {watts:.0f} W at {volts:.1f} V; "
        f"of heaters the square law would give {should:.1f} V."
    )


def held_words(held: HoldResult) -> Iterator[str]:
    """Each step with its seconds, the highest of them over the rating first where there are many.

    Steps within the rating are told where there is nothing else.
    """
    over = [step for step in held.steps if step.share_of_rated > _OVER]
    shown = over or [step for step in held.steps if step.share_of_rated >= 1 - (_OVER - 1)]
    if len(shown) > _MOST_STEPS:
        shown = sorted(
            sorted(shown, key=lambda s: -s.mean_w)[:_MOST_STEPS], key=lambda s: s.start_s
        )
    if shown:
        last = shown[-1]
        ended = f", {_ENDS[last.ended_by]}" if last.ended_by in _ENDS else ""
        begins = "Over the rating" if over else "At the rating"
        yield f"{begins}: {', '.join(map(_step_words, shown))}{ended}."
    if held.trip is not None and not over:
        yield f"It tripped at {_watts(held.trip.from_w, held)}."
    if held.surge_w is not None and held.surge_s is not None and not _is_a_step(held):
        least = "at least " if held.surge_at_least else ""
        yield (
            f"A surge of {least}{_watts(held.surge_w, held)} was carried for {held.surge_s:.1f} s"
            + (
                ": the meter is too slow to have seen its peak."
                if any(n.code is Code.TOO_SLOW_FOR_SURGE for n in held.notices)
                else "."
            )
        )


def volts_words(held: HoldResult) -> Iterator[str]:
    """Volts at the rating, and how far they sag from those without load."""
    if held.volts_at_rated is not None:
        sag = f", {100 * held.sag_ratio:.1f} % below no load" if held.sag_ratio is not None else ""
        yield f"At the rating the outlet had {held.volts_at_rated:.1f} V{sag}."


def lowered_headline(run: RunAnalysis, result: DischargeResult) -> str:
    """Like "Held heaters of 1700 W at 1202 W by lowering its volts to 100.8 V"; "" for others."""
    if not lowered_clause(run, result) or not run.run.target_w or not result.mean_w:
        return ""
    return (
        f"Held heaters of {run.run.target_w:.0f} W at {result.mean_w:.0f} W by lowering its volts "
        f"to {result.volts_mean:.1f} V"
    )


def heat_words(run: RunAnalysis) -> Iterator[str]:
    """The temperatures that were noted on the way."""
    noted = [r.value for r in run.records.readings_of(ReadingKind.TEMPERATURE)]
    if noted:
        span = f"{min(noted):.0f}–" if max(noted) - min(noted) >= 1 else ""
        yield f"Temperatures noted meanwhile: {span}{max(noted):.0f} °C."


def held_headline(held: HoldResult) -> str:
    """Like "Held 2000 W for 30 min", "Tripped at 2400 W, 120 % of rated, after 42 s"."""
    rated = f"{held.rated_w:g} W"
    if held.trip is not None:
        trip = held.trip
        after = format_span(trip.seconds_above_rated)
        share = f"{100 * trip.share_of_rated:.0f} % of rated"
        if trip.share_of_rated > _OVER:
            return f"Tripped at {trip.from_w:.0f} W, {share}, after {after} above the rating"
        return f"Tripped at {trip.from_w:.0f} W, {share}"
    highest = max(held.steps, key=lambda s: s.mean_w, default=None)
    if highest is not None and highest.share_of_rated > _OVER:
        share = f"{100 * highest.share_of_rated:.0f} % of rated"
        return f"Carried {highest.mean_w:.0f} W, {share}, for {format_span(highest.seconds)}"
    if held.longest_at_rated_s > 0:
        return f"Held its {rated} for {format_span(held.longest_at_rated_s)}"
    return f"Its {rated} were not reached"


def _is_a_step(held: HoldResult) -> bool:
    """Whether the highest was a steady load of the ladder, and no surge of its own."""
    surge = held.surge_w or 0.0
    return any(abs(step.mean_w / surge - 1) < 1 - _LOWERED_SHARE for step in held.steps)


def _is_about_power(method: Method) -> bool:
    """Whether a method asks how long a power is carried."""
    return method.may_exceed_rating or any(size.hold_s for size in method.sizes)


def _step_words(step: LoadStep) -> str:
    share = f"{100 * step.share_of_rated:.0f} %"
    inside = share if step.mean_v is None else f"{share}, {step.mean_v:.1f} V"
    return f"{step.mean_w:.0f} W ({inside}) for {format_span(step.seconds)}"


def _watts(watts: float, held: HoldResult) -> str:
    return f"{watts:.0f} W, {100 * watts / held.rated_w:.0f} % of rated,"
