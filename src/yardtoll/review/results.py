"""A yard's results in the shape that the shipped JSON Schema describes."""

from collections.abc import Sequence
from pathlib import Path

from yardtoll import __version__
from yardtoll.core.conformance.judging import JudgedClaim
from yardtoll.core.conformance.verdict import Rule
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.figure import Figure, Style
from yardtoll.report.results import (
    SCHEMA_FILE,
    BudgetLine,
    ClaimResult,
    FigureResult,
    FittedResult,
    Results,
    RunResult,
    StationResult,
    shipped_schema,
)
from yardtoll.review.analysis import analyses_of
from yardtoll.review.conformance import judged_claims
from yardtoll.review.kinds import kind_of
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.cycle import round_trips
from yardtoll.review.station.fitted import fitted_terms
from yardtoll.review.station.runs import station_runs
from yardtoll.store.errors import PackageError
from yardtoll.store.records import Station
from yardtoll.store.yard_file import YardFile
from yardtoll.whole_files import write_whole

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
        write_whole(folder / RESULTS_FILE, f"{made.model_dump_json(indent=2)}\n")
        write_whole(folder / SCHEMA_FILE, shipped_schema())
    except OSError as error:
        raise PackageError(f"{folder} cannot be written: {error.strerror}") from None


def station_results(
    yard: YardFile, station: Station, analyses: Sequence[RunAnalysis] | None = None
) -> StationResult:
    """Runs, round trip and claims of one station."""
    assert station.id is not None
    found = station_runs(analyses_of(yard, station) if analyses is None else analyses)
    rule = Rule(yard.info().rule)
    judged = judged_claims(
        found,
        [stored.claim for stored in yard.claims(station.id)],
        yard.receiving(station.id),
        yard.observations(station.id),
        rule,
    )
    trips = round_trips(found)
    return StationResult(
        station=station.name,
        rated_wh=station.rated_wh,
        rated_w=station.rated_w,
        rule=rule.value,
        repeatability=yard.info().repeatability,
        round_trip=_figure(trips[-1]) if trips else None,
        fitted=[
            FittedResult(
                name=figure.title,
                outlet=runs.outlet.value,
                at_most=figure.at_most,
                figure=_as_shown(figure),
            )
            for runs in (found.ac, found.dc)
            for figure in fitted_terms(runs).values()
        ],
        runs=[_run(analysis) for analysis in found.analyses],
        claims=[_claim(j) for j in judged],
    )


def _figure(figure: Figure) -> FigureResult:
    """In the figure's own unit: a share stays a fraction."""
    return _result(figure.value, figure.unit, figure.budget)


def _as_shown(figure: Figure) -> FigureResult:
    """As it is shown: a share in percent."""
    if figure.style is Style.PERCENT:
        return _result(100 * figure.value, "%", figure.shown_budget)
    return _figure(figure)


def _result(value: float, unit: str, budget: Budget | None) -> FigureResult:
    return FigureResult(
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


_NAMED = ("mean_w", "duration_s", "delivered_wh", "usable_ratio", "drawn_wh", "idle_w")
"""Figures that have a field of their own in a run's results."""


def _run(analysis: RunAnalysis) -> RunResult:
    run, figures = analysis.run, analysis.figures

    def figure(key: str) -> FigureResult | None:
        found = figures.get(key)
        return _figure(found) if found is not None else None

    def value(key: str) -> float | None:
        found = figures.get(key)
        return found.value if found is not None else None

    return RunResult(
        number=run.number,
        method=run.method,
        state=run.state,
        void_reason=run.void_reason,
        started_at=run.started_at,
        soc_from=run.soc_from,
        soc_to=run.soc_to,
        mean_w=value("mean_w"),
        duration_s=value("duration_s"),
        delivered_wh=figure("delivered_wh"),
        usable_ratio=figure("usable_ratio"),
        drawn_wh=figure("drawn_wh"),
        idle_w=figure("idle_w"),
        further={key: _figure(f) for key, f in figures.items() if key not in _NAMED},
        found=_found(analysis),
        lines=[
            {**entry.fields, **analysis.outcome.told.get(entry.id or 0, {})}
            for entry in analysis.records.entries
        ],
        ended_by=run.ended_by,
        warnings=[notice.message for notice in analysis.notices],
        doubts=[code.value for code in analysis.doubts],
        explained=dict(run.explained),
    )


def _found(analysis: RunAnalysis) -> str:
    if not analysis.method.is_table or not analysis.has_outcome:
        return ""
    return kind_of(analysis.run.method).output_headline(analysis)


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
