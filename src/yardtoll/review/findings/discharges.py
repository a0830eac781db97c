"""What a discharge says: energy to empty, power held, surge, volts and hertz under load."""

from collections.abc import Iterator, Sequence

import numpy as np

from yardtoll.core.claims.kinds import PORTS, Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.energy import slice_between
from yardtoll.core.methods import METHODS
from yardtoll.core.quantities import Quantity
from yardtoll.core.repeats import SAME_LOAD_SHARE
from yardtoll.core.trace import Code, FloatArray
from yardtoll.core.uncertainty.budget import Budget, Contribution, Measured, mean_of, rectangular
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.findings.budgets import NO_METER, gain_budget, watts_budget
from yardtoll.review.port_runs import Port, is_whole, off_the_usual_load, port_of
from yardtoll.review.together import Together

_PORT_APART = 0.25
_NEARLY_RATED = 0.95


def capacity_findings(found: Together) -> Iterator[Finding]:
    """The energy to empty, by load: repeats at one load as their mean.

    The load nearest to 0.2 C comes last: it stands where a claim names none.
    """
    whole = [a for a in found.analyses if is_whole(a) and port_of(a) is Port.AC]
    whole.sort(key=off_the_usual_load, reverse=True)
    while whole:
        first = whole[0]
        load = _mean_w(first)
        same = [a for a in whole if abs(_mean_w(a) / load - 1) <= SAME_LOAD_SHARE]
        whole = [a for a in whole if a not in same]
        same.sort(key=lambda a: a.run.number)
        measured = _energy(same)
        value = measured.value if measured else sum(_delivered(a) for a in same) / len(same)
        count = f", mean of {len(same)} runs" if len(same) > 1 else ""
        for kind in ("usable_wh", "rated_wh"):
            yield Finding(
                kind=kind,
                value=value,
                budget=measured.budget if measured else None,
                unknown=NO_METER,
                runs=tuple(a.run.number for a in same),
                method=same[-1].run.method,
                load_w=load,
                lower_bound=kind == "rated_wh",
                why_bound="The rated energy is in the cells; what reaches the outlet is held "
                "against the yardsticks.",
                seen=f"delivered at {load:.0f} W{count}",
            )


def _energy(same: Sequence[RunAnalysis]) -> Measured | None:
    """The mean energy of repeats with its budget; None where one has no meter."""
    parts = [Measured(value=_delivered(a), budget=a.budget) for a in same if a.budget is not None]
    return mean_of(parts) if len(parts) == len(same) else None


def power_findings(analysis: RunAnalysis) -> Iterator[Finding]:
    """Power held, and the highest power and how long it lasted."""
    result = analysis.result
    if result is None or not result.duration_s or not result.mean_w:
        return
    number = analysis.run.number
    held = analysis.run.method == "hold"
    stopped = held and not result.has(Code.NO_CUTOFF) and not _done(analysis)
    nearly = result.mean_w >= _NEARLY_RATED * analysis.station.rated_w
    if held or (port_of(analysis) is Port.AC and nearly):
        yield Finding(
            kind="continuous_w",
            value=result.mean_w,
            budget=watts_budget(result.mean_w, analysis),
            unknown=NO_METER,
            runs=(number,),
            method=analysis.run.method,
            load_w=result.mean_w,
            held_s=result.duration_s,
            stopped=stopped,
            seen=f"held for {result.duration_s / 60:.0f} min",
        )
    if analysis.run.method == "overload" and result.max_w:
        tripped = not result.has(Code.NO_CUTOFF)
        bound = "It did not trip, and nothing higher was asked of it."
        yield Finding(
            kind="surge_w",
            value=result.max_w,
            budget=watts_budget(result.max_w, analysis),
            unknown=NO_METER,
            runs=(number,),
            method="overload",
            lower_bound=not tripped,
            why_bound=bound,
            seen="at the highest",
        )
        lasted = _time_above(analysis, 0.98 * result.max_w)
        if lasted is not None:
            step_s = result.edge_s
            yield Finding(
                kind="surge_s",
                value=lasted,
                budget=Budget.of("s", [rectangular("Sampling", step_s, f"every {step_s:g} s")]),
                runs=(number,),
                method="overload",
                lower_bound=not tripped,
                why_bound=bound,
                seen=f"at {result.max_w:.0f} W",
            )


def _done(analysis: RunAnalysis) -> bool:
    """Whether a hold lasted as long as it was meant to."""
    size = METHODS["hold"].size(str(analysis.run.conditions.get("size", "")))
    lasted = analysis.result.duration_s if analysis.result else None
    return size.hold_s is not None and (lasted or 0.0) >= 0.995 * size.hold_s


def _time_above(analysis: RunAnalysis, watts: float) -> float | None:
    """The longest stretch above so many W, in s."""
    if analysis.trace is None:
        return None
    time_s, power = analysis.trace.valid(Quantity.POWER)
    above = np.flatnonzero(power >= watts)
    if above.size == 0:
        return None
    parts = np.split(above, np.flatnonzero(np.diff(above) > 1) + 1)
    return max(float(time_s[part[-1]] - time_s[part[0]]) for part in parts)


def supply_findings(analysis: RunAnalysis, claims: Sequence[Claim]) -> Iterator[Finding]:
    """Volts under load, of the AC outlet or of the DC port whose claim is nearest."""
    result = analysis.result
    if result is None:
        return
    if result.volts_mean is not None and result.volts_min is not None:
        dc = port_of(analysis) is Port.DC
        kind = _dc_port(result.volts_mean, claims) if dc else "ac_v"
        if kind:
            sag = result.volts_mean - result.volts_min
            yield _nominal(
                kind, result.volts_mean, "V", analysis,
                extra=rectangular("Falls to", sag, f"lowest {result.volts_min:.1f} V under load"),
            )  # fmt: skip
    hertz = _loaded(analysis, Quantity.HERTZ)
    if hertz.size and port_of(analysis) is not Port.DC:
        swing = float(np.ptp(hertz)) / 2
        yield _nominal(
            "ac_hz", float(hertz.mean()), "Hz", analysis,
            extra=rectangular("Wanders", swing, f"±{swing:.2f} Hz over the run"),
        )  # fmt: skip


def _nominal(
    kind: str, value: float, unit: str, analysis: RunAnalysis, extra: Contribution
) -> Finding:
    """A nominal figure, with what moves it over the run."""
    budget = gain_budget(value, unit, analysis)
    return Finding(
        kind=kind,
        value=value,
        budget=Budget.of(unit, [*budget.lines, extra]) if budget else None,
        unknown=NO_METER,
        runs=(analysis.run.number,),
        method=analysis.run.method,
        load_w=analysis.result.mean_w if analysis.result else None,
        seen="under load",
    )


def _dc_port(volts: float, claims: Sequence[Claim]) -> str:
    """The kind of the DC port whose claimed volts are nearest; "" where none is near."""
    known = [c for c in claims if c.kind in {f"{port}_v" for port in PORTS} and c.value]
    if not known:
        return ""
    nearest = min(known, key=lambda c: abs(volts / (c.value or 1.0) - 1))
    return nearest.kind if abs(volts / (nearest.value or 1.0) - 1) <= _PORT_APART else ""


def _loaded(analysis: RunAnalysis, quantity: Quantity) -> FloatArray:
    result = analysis.result
    if analysis.trace is None or result is None or result.start_s is None:
        return np.empty(0)
    time_s, values = analysis.trace.valid(quantity)
    return values[slice_between(time_s, result.start_s, result.cutoff_s or np.inf)]


def _mean_w(analysis: RunAnalysis) -> float:
    return (analysis.result.mean_w if analysis.result else None) or 1.0


def _delivered(analysis: RunAnalysis) -> float:
    return analysis.result.delivered_wh if analysis.result else 0.0
