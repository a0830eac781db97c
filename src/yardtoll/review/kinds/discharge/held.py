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
    if held.surge_w is not None and held.surge_s is not None:
        least = "at least " if held.surge_at_least else ""
        yield (
            f"A surge of {least}{_watts(held.surge_w, held)} was carried for {held.surge_s:.1f} s"
            + (
                ": the meter is too slow to have seen its peak."
                if any(n.code is Code.TOO_SLOW_FOR_SURGE for n in held.notices)
                else "."
            )
        )


def overload_words(held: HoldResult) -> Iterator[str]:
    """The same for a report: only where the load went over the rating."""
    if held.surge_w is not None or any(s.share_of_rated > _OVER for s in held.steps):
        yield from held_words(held)


def _is_about_power(method: Method) -> bool:
    """Whether a method asks how long a power is carried."""
    return method.may_exceed_rating or any(size.hold_s for size in method.sizes)


def _step_words(step: LoadStep) -> str:
    return (
        f"{step.mean_w:.0f} W ({100 * step.share_of_rated:.0f} %) for {format_span(step.seconds)}"
    )


def _watts(watts: float, held: HoldResult) -> str:
    return f"{watts:.0f} W, {100 * watts / held.rated_w:.0f} % of rated,"
