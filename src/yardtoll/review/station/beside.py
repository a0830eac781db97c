"""Charges that flowed into a station at the same time."""

from dataclasses import dataclass
from datetime import datetime

from yardtoll.core.charge.inputs_together import InputsTogether, InputTrace, inputs_together
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.review.run_analysis import RunAnalysis, once_a_run
from yardtoll.review.station.runs import StationRuns

_FEW_SAMPLES = 20_000


@dataclass(frozen=True, kw_only=True)
class Beside:
    """A charge that flowed at the same time as another one."""

    other: RunAnalysis
    pair: InputsTogether


def inputs_beside(analysis: RunAnalysis, station: StationRuns) -> list[Beside]:
    """This charge beside every other that flowed into the station at the same time."""
    span = _on_the_clock(analysis) if analysis.energy_in is not None else None
    if span is None:
        return []
    _short_input(analysis)  # while its samples are at hand
    found = []
    for other in station.analyses:
        if other.run.id == analysis.run.id or other.energy_in is None or not other.is_finished:
            continue
        also = _on_the_clock(other)
        # Few charges flow together, and samples are many: times alone rule most of them out.
        if also is None or also[0] >= span[1] or also[1] <= span[0]:
            continue
        mine, trace = _input_trace(analysis), _input_trace(other)
        pair = inputs_together(mine, trace) if mine is not None and trace is not None else None
        if pair is not None:
            found.append(Beside(other=other, pair=pair))
    return found


@once_a_run
def _on_the_clock(analysis: RunAnalysis) -> tuple[float, float] | None:
    """First and last sample, s since 1970; None without samples of power."""
    trace = _read_input(analysis)
    return (float(trace.time_s[0]), float(trace.time_s[-1])) if trace is not None else None


def _input_trace(analysis: RunAnalysis) -> InputTrace | None:
    """A charge's power on the clock; None without power samples."""
    known = _short_input(analysis)
    return known if known is not None else _read_input(analysis)


@once_a_run
def _short_input(analysis: RunAnalysis) -> InputTrace | None:
    """The same where it has so few samples that they may stay."""
    trace = _read_input(analysis)
    return trace if trace is not None and trace.time_s.size <= _FEW_SAMPLES else None


def _read_input(analysis: RunAnalysis) -> InputTrace | None:
    """A charge's power on the clock; None without power samples."""
    if analysis.trace is None:
        return None
    time_s, power = analysis.trace.valid(Quantity.POWER)
    if time_s.size < 2:
        return None
    began_s = datetime.fromisoformat(analysis.run.started_at).timestamp()
    return InputTrace(
        name=f"run {analysis.run.number} ({analysis.method.title})",
        time_s=time_s + began_s,
        power_w=power,
    )
