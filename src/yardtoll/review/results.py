"""A yard's results in the shape that the shipped JSON Schema describes."""

from collections.abc import Sequence
from pathlib import Path

from yardtoll import __version__
from yardtoll.core.conformance.judging import JudgedClaim
from yardtoll.core.conformance.verdict import Rule
from yardtoll.core.electrical.trace import Notice
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import usable_ratio
from yardtoll.report.results import (
    SCHEMA_FILE,
    BudgetLine,
    ClaimResult,
    Figure,
    FittedResult,
    Results,
    RunResult,
    StationResult,
    shipped_schema,
)
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.conformance import judged_claims
from yardtoll.review.cycle_figures import station_round_trip
from yardtoll.review.fitted import fitted_terms
from yardtoll.review.sheet import analyses_of
from yardtoll.review.together import cycle_of, together
from yardtoll.store.errors import PackageError
from yardtoll.store.records import Station
from yardtoll.store.yard_file import YardFile

RESULTS_FILE = "results.json"


def write_results(yard: YardFile, folder: Path) -> None:
    """Write the results of every station, and the schema they follow, into a folder.

    Raises:
        PackageError: the folder cannot be written.
    """
    made = Results(
        program=f"Yard Toll {__version__}",
        stations=[station_results(yard, station) for station in yard.stations()],
    )
    try:
        (folder / RESULTS_FILE).write_text(f"{made.model_dump_json(indent=2)}\n", "utf-8")
        (folder / SCHEMA_FILE).write_text(shipped_schema(), "utf-8")
    except OSError as error:
        raise PackageError(f"{folder} cannot be written: {error.strerror}") from None


def station_results(
    yard: YardFile, station: Station, analyses: Sequence[RunAnalysis] | None = None
) -> StationResult:
    """Runs, round trip and claims of one station."""
    assert station.id is not None
    found = together(analyses_of(yard, station) if analyses is None else analyses)
    rule = Rule(yard.info().rule)
    judged = judged_claims(
        found,
        [stored.claim for stored in yard.claims(station.id)],
        yard.receiving(station.id),
        yard.observations(station.id),
        rule,
    )
    trips = [station_round_trip(cycle_of(a, found)) for a in found.analyses if a.counts]
    known = [trip for trip in trips if trip is not None]
    return StationResult(
        station=station.name,
        rated_wh=station.rated_wh,
        rated_w=station.rated_w,
        rule=rule.value,
        repeatability=yard.info().repeatability,
        round_trip=_figure(known[-1].value, "", known[-1].budget) if known else None,
        fitted=[
            FittedResult(
                name=name,
                outlet=runs.port.value,
                at_most=fitted.at_most,
                figure=_figure(fitted.value, fitted.unit, fitted.budget),
            )
            for runs in (found.ac, found.dc)
            for name, fitted in fitted_terms(runs).items()
        ],
        runs=[_run(analysis) for analysis in found.analyses],
        claims=[_claim(j) for j in judged],
    )


def _figure(value: float, unit: str, budget: Budget | None) -> Figure:
    return Figure(
        value=value,
        unit=unit,
        expanded=budget.expanded if budget else None,
        coverage_factor=budget.coverage_factor if budget else None,
        budget=[
            BudgetLine(
                name=line.name,
                kind=line.evaluation.value,
                u=abs(line.u),
                share=budget.share(line),
                why=line.why,
            )
            for line in budget.lines
        ]
        if budget
        else [],
    )


def _run(analysis: RunAnalysis) -> RunResult:
    run, budget = analysis.run, analysis.budget
    result, recharge, idle = analysis.result, analysis.recharge, analysis.idle
    notices: tuple[Notice, ...] = result.notices if result else recharge.notices if recharge else ()
    told = result or recharge
    ratio = usable_ratio(result, budget) if result and budget else None
    return RunResult(
        number=run.number,
        method=run.method,
        state=run.state,
        void_reason=run.void_reason,
        started_at=run.started_at,
        soc_from=run.soc_from,
        soc_to=run.soc_to,
        mean_w=told.mean_w if told else None,
        duration_s=told.duration_s if told else None,
        delivered_wh=_figure(result.delivered_wh, "Wh", budget) if result else None,
        usable_ratio=_figure(result.usable_ratio, "", ratio.budget if ratio else None)
        if result
        else None,
        drawn_wh=_figure(recharge.drawn_wh, "Wh", budget) if recharge else None,
        idle_w=_figure(idle.idle_w, "W", idle.budget) if idle else None,
        ended_by=run.ended_by,
        warnings=[notice.message for notice in notices],
        doubts=[code.value for code in analysis.doubts],
        explained=dict(run.explained),
    )


def _claim(judged: JudgedClaim) -> ClaimResult:
    claim, finding = judged.claim, judged.finding
    budget = finding.budget if finding else None
    return ClaimResult(
        kind=claim.kind,
        claimed=claim.value,
        unit=claim.about.unit,
        condition=claim.condition,
        wording=claim.wording,
        read_as=judged.meaning.words if judged.meaning else "",
        source=claim.source,
        verdict=judged.standing.value,
        measured=finding.value if finding else None,
        expanded=budget.expanded if budget else None,
        probability=judged.verdict.probability if judged.verdict else None,
        runs=list(finding.runs) if finding else [],
        sentence=judged.sentence,
    )
