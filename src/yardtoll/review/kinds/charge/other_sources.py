"""A measured recharge held against what was set, and predicted for the station's other inputs."""

import math
from collections.abc import Sequence

from yardtoll.core.charge.phases import full_power_w
from yardtoll.core.claims.kinds import Claim
from yardtoll.core.electrical.energy import SECONDS_PER_HOUR, slice_between
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.formatting import format_span
from yardtoll.core.methods import METHODS
from yardtoll.core.planning.inputs import same_charge_s, source_w
from yardtoll.review.run_analysis import RunAnalysis

_SET_APART = 0.05


def set_against_drawn(analysis: RunAnalysis) -> str:
    """Like "300 W were set, 600 W were drawn."; "" where none were set, or they were kept."""
    run = analysis.run
    size = analysis.method.size(run.conditions.size)
    found = _charge(analysis)
    if not size.asks_w or not run.target_w or found is None:
        return ""
    drawn_w = full_power_w(found[1])
    if abs(drawn_w / run.target_w - 1) <= _SET_APART:
        return ""
    return f"{run.target_w:.0f} W were set, {drawn_w:.0f} W were drawn."


def from_other_sources(analysis: RunAnalysis, claims: Sequence[Claim]) -> str:
    """How long this charge would take from the station's other inputs; "" without power.

    A charge of which the energy and the time alone are known is divided by the watts.
    """
    found, mine = _charge(analysis), analysis.method.source
    result = analysis.energy_in.result if analysis.energy_in is not None else None
    if mine is None or mine.parts or result is None:
        return ""
    if found is None and not analysis.records.typed:
        return ""
    full_w = full_power_w(found[1]) if found is not None else result.mean_w or math.inf
    others = []
    for method in METHODS.values():
        source = method.source
        if source is None or source.parts or source == mine:
            continue
        watts = source_w(source, claims, analysis.station.rated_wh)
        if watts is not None and 0 < watts < full_w:
            others.append((source.name, watts))
    if not others:
        return ""
    drawn_wh = result.drawn_wh or 0.0
    predicted = [
        f"{name} at {watts:.0f} W "
        + format_span(
            same_charge_s(*found, watts)
            if found is not None
            else drawn_wh / watts * SECONDS_PER_HOUR
        )
        for name, watts in others
    ]
    how = "taper included" if found is not None else "at constant power"
    return f"The same charge from elsewhere, {how}: {', '.join(predicted)}."


def _charge(analysis: RunAnalysis) -> tuple[FloatArray, FloatArray] | None:
    """Power from charge start to its end; None without samples of it."""
    result = analysis.energy_in.result if analysis.energy_in is not None else None
    if result is None or result.start_s is None or not result.duration_s:
        return None
    if analysis.trace is None:
        return None
    time_s, power = analysis.trace.valid(Quantity.POWER)
    within = slice_between(time_s, result.start_s, result.start_s + result.duration_s)
    return (time_s[within], power[within]) if time_s[within].size > 1 else None
