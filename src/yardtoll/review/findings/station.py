"""Every finding on one station, and the runs left out."""

from collections.abc import Iterator, Sequence

from yardtoll.core.claims.kinds import CLAIM_KINDS, Claim
from yardtoll.core.conformance.findings import ExcludedRun, Finding
from yardtoll.core.methods import METHODS, Flow
from yardtoll.core.uncertainty.budget import Budget, rectangular
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.findings.budgets import EXACT, of_station
from yardtoll.review.findings.discharges import capacity_findings, power_findings, supply_findings
from yardtoll.review.findings.recharges import recharge_findings
from yardtoll.review.port_runs import idle_of_fitted_store
from yardtoll.review.together import StationRuns
from yardtoll.store.records import Observation, Receiving, RunState


def findings(
    found: StationRuns,
    claims: Sequence[Claim] = (),
    receiving: Receiving | None = None,
    observations: Sequence[Observation] = (),
) -> tuple[list[Finding], list[ExcludedRun]]:
    """Every finding on a station, in the order of its runs, and the runs left out.

    Args:
        claims: tell which DC port a run was at, by its volts, and which charge a time is asked
            for.
    """
    made: list[Finding] = []
    excluded: list[ExcludedRun] = []
    for analysis in sorted(found.analyses, key=lambda a: a.run.started_at):
        kinds = [kind.key for kind in METHODS[analysis.run.method].speaks_to]
        if analysis.run.state == RunState.VOID.value:
            reason = f"is void: {analysis.run.void_reason or 'no reason given'}"
            excluded += [
                ExcludedRun(kind=kind, run=analysis.run.number, reason=reason) for kind in kinds
            ]
            continue
        if not analysis.tells:
            excluded += [
                ExcludedRun(
                    kind=kind, run=analysis.run.number, reason=f"tells nothing: {analysis.problem}"
                )
                for kind in kinds
            ]
            continue
        made += _of_run(analysis, found, claims)
    made += capacity_findings(found)
    made += _noted(receiving, observations)
    return made, excluded


def _of_run(
    analysis: RunAnalysis, found: StationRuns, claims: Sequence[Claim]
) -> Iterator[Finding]:
    flow = METHODS[analysis.run.method].flow
    if flow is Flow.IN:
        yield from recharge_findings(analysis, found, claims)
    elif flow is Flow.IDLE:
        yield from _idle(analysis, found)
    else:
        yield from power_findings(analysis, claims)
        yield from supply_findings(analysis, claims)


def _idle(analysis: RunAnalysis, found: StationRuns) -> Iterator[Finding]:
    """The idle draw in shares of the fitted store, where runs gave one."""
    if analysis.idle is None or analysis.run.method != "idle_ac":
        return
    idle = idle_of_fitted_store(analysis.idle, found.ac.split)
    assert idle is not None
    yield Finding(
        kind="idle_w",
        value=idle.idle_w,
        budget=of_station(idle.idle_w, idle.budget, analysis),
        runs=(analysis.run.number,),
        method=analysis.run.method,
        seen=f"idle draw with nothing plugged in, by {idle.store.basis}",
    )


def _noted(receiving: Receiving | None, observations: Sequence[Observation]) -> Iterator[Finding]:
    if receiving is not None and receiving.weight_kg:
        text = f"{receiving.weight_kg:g}"
        step = 10.0 ** -(len(text.split(".")[1]) if "." in text else 0)
        yield Finding(
            kind="weight_kg",
            value=receiving.weight_kg,
            budget=Budget.of("kg", [rectangular("Last digit", step / 2, f"read to {step:g} kg")]),
            seen="on the scale",
        )
    for seen in observations:
        if seen.subject not in CLAIM_KINDS:
            continue
        yield Finding(
            kind=seen.subject,
            value=1.0 if seen.agrees else 0.0,
            budget=EXACT,
            agrees=seen.agrees,
            seen=f"on {seen.observed_on}: {seen.words}" if seen.words else f"on {seen.observed_on}",
        )
