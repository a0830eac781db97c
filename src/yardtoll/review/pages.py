"""A run's page, from its kind and from what is the same for all kinds."""

from collections.abc import Iterator, Sequence
from dataclasses import replace

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.electrical.doubts import DOUBTS, doubts_of
from yardtoll.core.formatting import decimals_for
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.review.kinds import kind_of
from yardtoll.review.page import RunPage
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns, station_runs
from yardtoll.store.shown_region import day
from yardtoll.store.site_time import local


def run_caption(run: RunAnalysis) -> str:
    """A run in a list: number, result, load."""
    result_text = kind_of(run.run.method).caption(run) or "no result"
    out = run.energy_out
    if out is not None and out.mean_w:
        result_text += f" at {out.mean_w:.0f} W"
    return f"Run {run.run.number} · {result_text}{' (void)' if run.is_void else ''}"


def run_page(
    run: RunAnalysis, station: StationRuns | None = None, claims: Sequence[Claim] = ()
) -> RunPage:
    """The page of one run, with what the station's other runs and claims say of it."""
    if run.has_outcome:
        page = kind_of(run.run.method).page(run, station or station_runs([run]), claims)
        page = replace(page, budget=page.budget or budget_rows(run))
    else:
        page = RunPage(headline="This run has no result", notices=(run.problem,))
    doubtful = tuple(n.message for n in run.notices if n.code in DOUBTS)
    return replace(
        page,
        subtitle=_subtitle(run),
        notices=tuple(said for said in page.notices if said not in doubtful),
        doubts=doubts_of(run.notices),
        doubtful=doubtful,
        explained=tuple(explained_words(run)),
    )


def explained_words(run: RunAnalysis) -> Iterator[str]:
    """What the reviewer says of the doubts about a run."""
    for code in doubts_of(run.notices):
        if words := run.run.explained.get(code.value):
            yield f"Explained: {DOUBTS[code]}, because {words}."


def budget_rows(run: RunAnalysis) -> tuple[tuple[str, str], ...]:
    """Where the ± of its main figure comes from, largest first; U = 2u."""
    figure = run.main_figure
    budget: Budget | None = figure.budget if figure is not None else None
    if budget is None:
        return (("Unknown", "state the meter: Edit the run"),)
    decimals = decimals_for(budget.expanded) + 1
    return tuple(
        (f"{line.name}, {line.why}", f"{2 * abs(line.u):.{decimals}f} {budget.unit}")
        for line in budget.lines
    )


def _subtitle(run: RunAnalysis) -> str:
    record, conditions = run.run, run.run.conditions
    window = f"{record.soc_from:g} → {record.soc_to:g} %"
    meter = f"{run.meter.name} {run.meter.accuracy}" if run.meter else "no meter stated"
    parts = [
        f"Run {record.number}, {run.method.title}",
        day(local(record.started_at)),
        conditions.file or conditions.load,
        window,
        meter,
    ]
    subtitle = " · ".join(part for part in parts if part)
    if conditions.override is not None:
        subtitle += f" · started anyway: {conditions.override.reason}"
    if run.is_void:
        subtitle += f" · void: {record.void_reason}"
    return subtitle
