"""Evidence for the scorecard, from runs, from what was seen, and from what was paid."""

from collections.abc import Sequence
from dataclasses import replace

from yardtoll.core.conformance.scorecard import Evidence, Scored, score
from yardtoll.core.electrical.doubts import doubt_reason
from yardtoll.core.formatting import format_span, format_with_uncertainty
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.port_runs import WHOLE_CHARGE, Port, is_whole, off_the_usual_load, port_of
from yardtoll.review.together import StationRuns, station_energy
from yardtoll.store.records import Observation, Receiving, RunState, StoredScorePoint

_REGULATED = 0.05
"""A DC port within this share of its mean from full to empty is regulated (common practice)."""


def scored(
    points: Sequence[StoredScorePoint],
    found: StationRuns,
    receiving: Receiving,
    observations: Sequence[Observation],
) -> list[Scored]:
    """Every point of the yard's scorecard with what a station got, and why."""
    return score([stored.point for stored in points], evidence(found, receiving, observations))


def evidence(
    found: StationRuns, receiving: Receiving, observations: Sequence[Observation]
) -> dict[str, Evidence]:
    """What is known of each quantity of the scorecard; what a run found stands before the eye."""
    made: dict[str, Evidence] = {}
    for seen in observations:
        day = f" on {seen.observed_on}" if seen.observed_on else ""
        how = f": {seen.words}" if seen.words else ""
        made[seen.subject] = Evidence(
            value=float(seen.agrees),
            words=f"seen{day}{how}" if seen.agrees else f"not so{day}{how}",
        )
    runs = sorted(found.analyses, key=lambda a: a.run.started_at)
    for analysis in runs:
        if analysis.run.state != RunState.FINISHED.value:
            continue
        made |= _of_charge(analysis)
        if port_of(analysis) is Port.DC:
            made |= _of_dc(analysis)
    made |= _of_capacity(found)
    if receiving.price and found.analyses:
        rated_wh = found.analyses[0].station.rated_wh
        price = receiving.price / rated_wh
        words = f"{price:.2f} {receiving.currency} per rated Wh".replace("  ", " ")
        made["price_per_wh"] = Evidence(value=price, words=words)
    return made


def _of_charge(analysis: RunAnalysis) -> dict[str, Evidence]:
    """The hours from empty to full: to the display's 100 % where it was read, else by the power."""
    result = analysis.recharge
    kinds = {"recharge_wall": "full_charge_h", "recharge_sun": "solar_full_h"}
    kind = kinds.get(analysis.run.method)
    if result is None or kind is None or not result.duration_s:
        return {}
    if result.soc[1] - result.soc[0] < WHOLE_CHARGE:
        return {}
    took_s = result.duration_s
    full = [r.s for r in result.readings if r.soc >= 100.0]
    if full:
        took_s = min(took_s, *full)
    until = "until the display said 100 % " if full else ""
    words = f"{format_span(took_s)} {until}in run {analysis.run.number}"
    return {kind: _trusted(took_s / 3600, words, analysis)}


def _of_dc(analysis: RunAnalysis) -> dict[str, Evidence]:
    result = analysis.result
    if result is None or not result.volts_mean or result.volts_min is None:
        return {}
    fall = 1 - result.volts_min / result.volts_mean
    words = f"falls {100 * fall:.1f} % below its mean in run {analysis.run.number}"
    return {"regulated_dc": _trusted(float(fall <= _REGULATED), words, analysis)}


def _trusted(value: float, words: str, analysis: RunAnalysis) -> Evidence:
    """Evidence of a run; one that is doubted for something nobody explained scores nothing."""
    doubt = doubt_reason(analysis.doubts) if analysis.doubts else ""
    return Evidence(value=value, words=words, doubt=doubt)


def _of_capacity(found: StationRuns) -> dict[str, Evidence]:
    """Delivered ÷ rated at the load nearest to 0.2 C."""
    whole = [a for a in found.analyses if is_whole(a) and port_of(a) is Port.AC and a.result]
    if not whole:
        return {}
    nearest = min(whole, key=off_the_usual_load)
    result = nearest.result
    assert result is not None
    measured = station_energy(nearest, found)
    rated_wh = nearest.station.rated_wh
    value = measured.value / rated_wh if measured else result.usable_ratio
    expanded = measured.expanded / rated_wh if measured else 0.0
    shown = format_with_uncertainty(100 * value, 100 * expanded)
    words = f"{shown} % at {result.mean_w or 0:.0f} W in run {nearest.run.number}"
    return {"usable_ratio": replace(_trusted(value, words, nearest), expanded=expanded)}
