"""Charges that flowed into a station at the same time."""

from dataclasses import dataclass
from datetime import datetime

from yardtoll.core.charge.inputs_together import InputsTogether, InputTrace, inputs_together
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns


@dataclass(frozen=True, kw_only=True)
class Beside:
    """A charge that flowed at the same time as another one."""

    other: RunAnalysis
    pair: InputsTogether


def inputs_beside(analysis: RunAnalysis, station: StationRuns) -> list[Beside]:
    """This charge beside every other that flowed into the station at the same time."""
    mine = _input_trace(analysis) if analysis.energy_in is not None else None
    if mine is None:
        return []
    found = []
    for other in station.analyses:
        if other.run.id == analysis.run.id or other.energy_in is None:
            continue
        trace = _input_trace(other) if other.is_finished else None
        pair = inputs_together(mine, trace) if trace is not None else None
        if pair is not None:
            found.append(Beside(other=other, pair=pair))
    return found


def _input_trace(analysis: RunAnalysis) -> InputTrace | None:
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
