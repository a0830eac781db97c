"""Idle tests: what a station uses by itself, from two readings of its display."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.conformance.scorecard import Evidence
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import format_span
from yardtoll.core.ledger.idle import IdleResult, Store, idle_draw
from yardtoll.core.ledger.idle_figures import idle_figures
from yardtoll.core.methods import Method, Outlet
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.report.charts.curve import Curve
from yardtoll.review.budgets import of_station
from yardtoll.review.evidence import trusted
from yardtoll.review.kinds.kind import RunKind
from yardtoll.review.outcome import Outcome, OwnUse
from yardtoll.review.page import RunPage
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.outlet_runs import idle_of_fitted_store
from yardtoll.review.station.runs import StationRuns
from yardtoll.store.records import ReadingKind

_A_NIGHT_S = 8 * 3600.0
_EMPTY = 5.0
"""A display at this or below, in %, may have been empty."""


@dataclass(frozen=True, kw_only=True)
class IdleOutcome(Outcome):
    """The results of an idle test."""

    idle: IdleResult


class Idle(RunKind):
    """Nothing is plugged in; the display's state of charge falls."""

    order = 40

    def serves(self, method: Method) -> bool:
        """Methods in which the station only uses energy by itself."""
        return method.rests

    def analyse(self, run: RunAnalysis) -> IdleOutcome:
        """The draw from the first and the last reading of the display."""
        shown = run.records.readings_of(ReadingKind.SOC)
        if len(shown) < 2:
            raise UnusableDataError(
                "an idle test needs the display's state of charge at its start and at its end"
            )
        first, last = shown[0], shown[-1]
        store = Store.rated(run.station.rated_wh)
        idle = idle_draw(store, first.value, last.value, last.time_s - first.time_s)
        return IdleOutcome(
            idle=idle,
            figures=idle_figures(idle),
            own_use=OwnUse(idle=idle, outlet=run.method.outlet),
        )

    def caption(self, run: RunAnalysis) -> str:
        """Like "18.2 ± 1.9 W idle"."""
        return f"{super().caption(run)} idle" if run.has_outcome else ""

    def page(self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]) -> RunPage:
        """What the station used by itself."""
        outcome = run.outcome
        assert isinstance(outcome, IdleOutcome)
        return RunPage(
            headline=f"{outcome.idle.idle_w:.1f} W idle draw with nothing plugged in",
            figures=outcome.figures,
            words=(("Idle draw comes from two display readings: twice the time halves its ±.",),),
        )

    def findings(
        self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]
    ) -> Iterator[Finding]:
        """The idle draw in shares of the fitted store, where runs gave one."""
        use = run.own_use
        kinds = run.method.claims
        if use is None or not kinds:
            return
        idle = idle_of_fitted_store(use.idle, station.ac.split)
        assert idle is not None
        yield Finding(
            kind=kinds[0],
            value=idle.idle_w,
            budget=of_station(idle.idle_w, idle.budget, run),
            runs=(run.run.number,),
            method=run.run.method,
            seen=f"idle draw with nothing plugged in, by {idle.store.basis}",
        )

    def station_facts(self, station: StationRuns) -> list[Figure]:
        """The latest draw with the AC outlet on."""
        idle = station.ac.idle
        if idle is None:
            return []
        return [
            Figure(
                key="idle_w",
                title="Idle, AC on",
                value=idle.idle_w,
                unit="W",
                budget=idle.budget,
            )
        ]

    def evidence(self, run: RunAnalysis, station: StationRuns) -> dict[str, Evidence]:
        """Whether an outlet that was to stay on did, a night long and more."""
        if run.own_use is None or run.method.outlet is not Outlet.AC:
            return {}
        asked_to_stay = run.run.conditions.settings.get("auto_off", "").strip().lower() == "off"
        shut_off = next((m for m in run.records.marks if m.ends_run and m.seen), None)
        seconds = 3600.0 * run.own_use.idle.hours
        if shut_off is not None and run.records.readings_of(ReadingKind.SOC)[-1].value > _EMPTY:
            words = f"its outlet switched itself off in run {run.run.number}"
            return {"no_auto_off": trusted(0.0, words, run)}
        if not asked_to_stay or seconds < _A_NIGHT_S:
            return {}
        words = f"its outlet stayed on for {format_span(seconds)} in run {run.run.number}"
        return {"no_auto_off": trusted(1.0, words, run)}

    def curve(self, run: RunAnalysis) -> Curve | None:
        """No curve: nothing flows that a meter could show."""
        return None


KIND = Idle()
