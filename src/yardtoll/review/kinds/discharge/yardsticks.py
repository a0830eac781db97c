"""Discharges against the yardsticks that speak to them; runs at different loads stay apart."""

from collections.abc import Sequence
from dataclasses import replace

from yardtoll.core.conformance.verdict import Outcome, Rule
from yardtoll.core.conformance.yardsticks import Basis, Yardstick, judge_discharge
from yardtoll.core.discharge.repeats import SAME_LOAD_SHARE
from yardtoll.core.electrical.trace import Code
from yardtoll.core.ledger.loss_fit import REPEATABILITY_DEGREES_OF_FREEDOM
from yardtoll.core.methods import Outlet
from yardtoll.core.uncertainty.budget import Budget, Measured, station_mean
from yardtoll.core.uncertainty.energy_budget import usable_ratio, usable_ratio_window
from yardtoll.review.budgets import NO_METER
from yardtoll.review.outcome import EnergyOut
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns
from yardtoll.review.yardstick_rows import YardstickRow
from yardtoll.store.shown_region import day
from yardtoll.store.site_time import local

FULL_LOAD_SHARE = 0.95
"""A discharge at this share of the rated W is one at full load."""
_SPEAKING = (Basis.OF_RATED, Basis.OF_WINDOW, Basis.OF_RATED_DC, Basis.FULL_LOAD)


def discharge_rows(station: StationRuns, yardstick: Yardstick, rule: Rule) -> list[YardstickRow]:
    """One row for each run, or for each group of repeats."""
    if yardstick.basis not in _SPEAKING:
        return []
    runs = [a for a in station.analyses if a.method.counts_for_capacity]
    return [
        _of_runs(same, yardstick, rule)
        for same in _repeats([a for a in runs if _speaks(a, yardstick.basis)])
    ]


def _repeats(runs: Sequence[RunAnalysis]) -> list[list[RunAnalysis]]:
    """Runs that give one result of the station: whole ones of a method, window and load together.

    Every other run is a result of its own.
    """
    groups: list[list[RunAnalysis]] = []
    for run in runs:
        fitting = next((g for g in groups if _are_repeats(g[0], run)), None)
        if fitting is None:
            groups.append([run])
        else:
            fitting.append(run)
    return groups


def _are_repeats(one: RunAnalysis, other: RunAnalysis) -> bool:
    if not (one.is_valid_discharge and other.is_valid_discharge):
        return False
    mine, others = one.energy_out, other.energy_out
    if mine is None or others is None or one.doubts or other.doubts:
        return False
    if _incomplete(mine) or _incomplete(others) or not (mine.mean_w and others.mean_w):
        return False
    alike = (one.run.method, one.run.soc_from, one.run.soc_to) == (
        other.run.method,
        other.run.soc_from,
        other.run.soc_to,
    )
    return alike and abs(others.mean_w / mine.mean_w - 1) <= SAME_LOAD_SHARE


def _speaks(analysis: RunAnalysis, basis: Basis) -> bool:
    """Whether a capacity run is one that the yardstick is for."""
    outlet, out = analysis.method.outlet, analysis.energy_out
    if basis is Basis.OF_RATED_DC:
        return outlet is Outlet.DC
    if basis is Basis.FULL_LOAD:
        mean_w = out.mean_w if out is not None else 0.0
        return outlet is Outlet.AC and mean_w >= FULL_LOAD_SHARE * analysis.station.rated_w
    return outlet is Outlet.AC or basis is Basis.OF_WINDOW


def _of_runs(same: Sequence[RunAnalysis], yardstick: Yardstick, rule: Rule) -> YardstickRow:
    """Repeats of one load, or one run, as what they say of the station."""
    analysis = same[-1]
    run, out = analysis.run, analysis.energy_out
    load = f" at {out.mean_w:.0f} W" if out and out.mean_w else ""
    c_rate = f" · {out.result.c_rate:.2f} C" if out and out.result.c_rate else ""
    port = ", DC" if analysis.method.outlet is Outlet.DC else ""
    numbers = ", ".join(str(a.run.number) for a in same)
    title = f"Run{'s' if len(same) > 1 else ''} {numbers}{load}{port}"
    subtitle = f"{run.soc_from:g} → {run.soc_to:g} %{c_rate} · {day(local(run.started_at))}"
    if len(same) > 1:
        subtitle += f" · mean of {len(same)}"
    measured = _ratio(same, yardstick) if not analysis.is_void else None
    value = measured.value if measured is not None else None

    def unjudged(word: str, reason: str) -> YardstickRow:
        return YardstickRow(
            title=title, subtitle=subtitle, analysis=analysis, value=value, budget=None,
            verdict=None, word=word, reasons=(reason,),
        )  # fmt: skip

    if analysis.is_void:
        return unjudged("void", f"Void and kept: {run.void_reason or 'no reason given'}.")
    if out is None or measured is None:
        return unjudged("cannot be judged", analysis.problem)
    without_meter = any(a.energy_out is None or a.energy_out.budget is None for a in same)
    if without_meter and rule is not Rule.SIMPLE:
        return unjudged("cannot be judged", f"{NO_METER} Or judge by the simple rule.")
    judged = judge_discharge(out.result, measured, yardstick, rule, analysis.doubts)
    if judged.verdict.outcome is not Outcome.MEETS and (incomplete := _incomplete(out)):
        row = unjudged("cannot be judged", incomplete)
        return replace(row, lower_bound=True, repeat_to_empty=out.result.has(Code.NO_CUTOFF))
    if judged.verdict.outcome is Outcome.CANNOT_BE_JUDGED:
        return replace(unjudged("cannot be judged", judged.reasons[0]), reasons=judged.reasons)
    return YardstickRow(
        title=title, subtitle=subtitle, analysis=analysis, value=value,
        budget=None if without_meter else measured.budget,
        verdict=judged.verdict, word=judged.verdict.outcome.words, reasons=judged.reasons,
    )  # fmt: skip


def _ratio(same: Sequence[RunAnalysis], yardstick: Yardstick) -> Measured | None:
    """Delivered ÷ rated of the station; without a budget's lines where a meter is not stated."""
    parts, unknown = [], False
    for analysis in same:
        out = analysis.energy_out
        if out is None:
            return None
        unknown = unknown or out.budget is None
        share = usable_ratio_window if yardstick.basis is Basis.OF_WINDOW else usable_ratio
        parts.append(share(out.result, out.budget or Budget(unit="Wh", lines=())))
    if unknown:
        value = sum(part.value for part in parts) / len(parts)
        return Measured(value=value, budget=Budget(unit="", lines=()))
    return station_mean(parts, same[0].repeatability, REPEATABILITY_DEGREES_OF_FREEDOM)


def _incomplete(out: EnergyOut) -> str:
    """Why the delivered energy is only a lower bound, "" if it is all there was.

    A lower bound that meets a limit meets it; one that does not says nothing.
    """
    if out.result.has(Code.NO_CUTOFF):
        return "The run ends under load: the station may hold more. Run it to empty."
    if out.result.has(Code.STARTS_LOADED):
        return "The log begins under load: what was delivered before is not in it."
    return ""
