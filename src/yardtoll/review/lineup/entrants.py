"""Who takes part in a line-up, at what load, and what each has to show."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.uncertainty.budget import Budget, Worked
from yardtoll.review.analysis import analyses_of
from yardtoll.review.findings import findings
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns, station_runs
from yardtoll.store.records import Observation, Receiving, Station, StoredPrice, StoredScorePoint
from yardtoll.store.yard_file import YardFile


@dataclass(frozen=True, kw_only=True, eq=False)
class Entrant:
    """A station with its runs.

    Attributes:
        bench: the yard it comes from: meters of another are others.
        station_id: in that yard; None where it is not one of the yard that is open.
        station: as it is there.
        prices: what it costs, and cost, at each time.
        points: of the scorecard that it is scored by.
        kept: standings that are ready, by quantity and what was asked.
    """

    name: str
    bench: str
    rated_wh: float
    runs: StationRuns
    rated_w: float = 0.0
    station_id: int | None = None
    station: Station | None = None
    receiving: Receiving | None = None
    claims: tuple[Claim, ...] = ()
    observations: tuple[Observation, ...] = ()
    prices: tuple[StoredPrice, ...] = ()
    points: tuple[StoredScorePoint, ...] = field(default_factory=tuple)
    kept: Mapping[tuple[str, "Asked"], "Standing | str"] = field(default_factory=dict)

    def standing(
        self, find: Callable[["Entrant", "Asked"], "Standing | str"], key: str, asked: "Asked"
    ) -> "Standing | str":
        """As kept ready, else as found now."""
        ready = self.kept.get((key, asked))
        return ready if ready is not None else find(self, asked)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """All that its runs say of claims."""
        made, _ = findings(self.runs, self.claims, self.receiving, self.observations)
        return tuple(made)


@dataclass(frozen=True, kw_only=True)
class Asked:
    """At what load stations are compared, and at what price.

    Attributes:
        c_rate, load_w: a C-rate, or W.
        price: a kind of price; see ``core/cost/prices.py``.
        units: so many bought together.
    """

    c_rate: float | None = 0.2
    load_w: float | None = None
    price: str = "paid"
    units: int = 1

    def watts(self, rated_wh: float) -> float:
        """The load for a station."""
        return self.load_w if self.load_w is not None else (self.c_rate or 0.0) * rated_wh

    def off(self, mean_w: float, rated_wh: float) -> float:
        """How far a load is from it, as a share."""
        return abs(mean_w / self.watts(rated_wh) - 1)

    @property
    def words(self) -> str:
        """Like "0.2 C", "400 W"."""
        return f"{self.load_w:g} W" if self.load_w is not None else f"{self.c_rate:g} C"


@dataclass(frozen=True, kw_only=True)
class Standing:
    """What a station has to show for a quantity.

    Attributes:
        run: None for what was noted without one.
        currency: of a price; "" where nothing is said of it, or the figure is none.
        note: under what conditions, such as "by scope, 6 tries".
        worked: how it was worked out; None where its own run tells that.
    """

    value: float
    budget: Budget | None
    run: int | None = None
    load_w: float | None = None
    currency: str = ""
    note: str = ""
    worked: Worked | None = None


def entrants_of(
    yard: YardFile, bench: str, analyses: Sequence[RunAnalysis] | None = None
) -> list[Entrant]:
    """Every station of a yard.

    Args:
        bench: names the yard: those of one bench share their meters.
        analyses: of its runs, where they are worked out already.
    """
    return [
        entrant_of(
            yard,
            station,
            bench,
            analyses_of(yard, station)
            if analyses is None
            else [a for a in analyses if a.run.station_id == station.id],
        )
        for station in yard.stations()
    ]


def entrant_of(
    yard: YardFile, station: Station, bench: str, analyses: Sequence[RunAnalysis]
) -> Entrant:
    """One station of a yard with what came of its runs."""
    assert station.id is not None
    return Entrant(
        name=station.name,
        bench=bench,
        rated_wh=station.rated_wh,
        rated_w=station.rated_w,
        station_id=station.id,
        station=station,
        runs=station_runs(analyses),
        receiving=yard.receiving(station.id),
        claims=tuple(stored.claim for stored in yard.claims(station.id)),
        observations=tuple(yard.observations(station.id)),
        prices=tuple(yard.prices(station.id)),
        points=tuple(yard.score_points()),
    )


def told_apart(stations: Sequence[tuple[str, str]]) -> list[str]:
    """Names of (name, bench); those that are there twice with their yard's, or with its path."""
    names = [name for name, _ in stations]
    made = names
    for said in (lambda bench: Path(bench).stem, str):
        twice = {name for name in names if names.count(name) > 1}
        made = [f"{name} ({said(bench)})" if name in twice else name for name, bench in stations]
        if len(set(made)) == len(made):
            break
    return made
