"""Stations side by side in one quantity: like with like, or left out with the reason."""

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from yardtoll.core.compare.ranks import Contender, ranked
from yardtoll.core.electrical.doubts import doubt_reason
from yardtoll.core.electrical.trace import Code
from yardtoll.core.formatting import counted
from yardtoll.core.methods import Outlet
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.review.budgets import EXACT
from yardtoll.review.findings import weight_finding
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.cycle import cycles_of, station_round_trip
from yardtoll.review.station.outlet_runs import is_whole, outlet_of
from yardtoll.review.station.repeats import station_energy
from yardtoll.review.station.runs import StationRuns
from yardtoll.store.records import Receiving

LOAD_SLACK = 0.10
"""Loads within this share of one C-rate are alike (common practice, no source)."""
_WINDOW = (100.0, 0.0)


@dataclass(frozen=True, kw_only=True)
class Entrant:
    """A station with its runs.

    Attributes:
        bench: the yard it comes from: meters of another are others.
    """

    name: str
    bench: str
    rated_wh: float
    runs: StationRuns
    receiving: Receiving | None = None


@dataclass(frozen=True, kw_only=True)
class Asked:
    """At what load stations are compared: a C-rate, or W."""

    c_rate: float | None = 0.2
    load_w: float | None = None

    def off(self, mean_w: float, rated_wh: float) -> float:
        """How far a load is from it, as a share."""
        wanted_w = self.load_w if self.load_w is not None else (self.c_rate or 0.0) * rated_wh
        return abs(mean_w / wanted_w - 1)

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
    """

    value: float
    budget: Budget | None
    run: int | None = None
    load_w: float | None = None
    currency: str = ""


@dataclass(frozen=True, kw_only=True)
class LineupRow:
    """One station in the line-up."""

    station: str
    value: float
    expanded: float | None
    load_w: float | None
    c_rate: float | None
    run: int | None
    rank: int | None
    ties: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Lineup:
    """Everyone that can be compared, best first, and who cannot, with the reason."""

    quantity: str
    rows: tuple[LineupRow, ...]
    left_out: tuple[tuple[str, str], ...]
    currency: str = ""


@dataclass(frozen=True)
class _Quantity:
    """How a station comes to a figure, or a reason in a clause."""

    find: Callable[[Entrant, Asked], Standing | str]
    higher_is_better: bool


def line_up(entrants: Sequence[Entrant], quantity: str, asked: Asked) -> Lineup:
    """Put stations side by side.

    Raises:
        KeyError: the quantity is not one of :data:`QUANTITIES`.
    """
    about = QUANTITIES[quantity]
    there: list[tuple[Entrant, Standing]] = []
    left_out = []
    for entrant in entrants:
        found = about.find(entrant, asked)
        if isinstance(found, str):
            left_out.append((entrant.name, found))
        else:
            there.append((entrant, found))
    currency = _most_used(there)
    for entrant, standing in [*there]:
        if standing.currency != currency:
            there.remove((entrant, standing))
            left_out.append((entrant.name, _other_currency(standing.currency, currency)))
    places = ranked(
        [Contender(name=e.name, value=s.value, budget=s.budget, bench=e.bench) for e, s in there],
        higher_is_better=about.higher_is_better,
    )
    rows = [
        LineupRow(
            station=entrant.name,
            value=standing.value,
            expanded=standing.budget.expanded if standing.budget is not None else None,
            load_w=standing.load_w,
            c_rate=standing.load_w / entrant.rated_wh if standing.load_w is not None else None,
            run=standing.run,
            rank=place.rank,
            ties=place.ties,
        )
        for (entrant, standing), place in zip(there, places, strict=True)
    ]
    sign = -1.0 if about.higher_is_better else 1.0
    rows.sort(key=lambda row: (row.rank is None, row.rank or 0, sign * row.value))
    return Lineup(quantity=quantity, rows=tuple(rows), left_out=tuple(left_out), currency=currency)


def _most_used(there: Sequence[tuple[Entrant, Standing]]) -> str:
    """The currency of most; of as many the one met first."""
    used = Counter(standing.currency for _, standing in there)
    return used.most_common(1)[0][0] if used else ""


def _other_currency(own: str, others: str) -> str:
    if not own:
        return f"its price has no currency, the others are in {others}"
    return f"its price is in {own}, the others are {f'in {others}' if others else 'in none'}"


def _usable_ratio(entrant: Entrant, asked: Asked) -> Standing | str:
    return _delivered(entrant, asked, 1 / entrant.rated_wh, "")


def _delivered_wh(entrant: Entrant, asked: Asked) -> Standing | str:
    return _delivered(entrant, asked, 1.0, "Wh")


def _delivered(entrant: Entrant, asked: Asked, factor: float, unit: str) -> Standing | str:
    nearest = _like_the_others(entrant, asked)
    if isinstance(nearest, str):
        return nearest
    out = nearest.energy_out
    assert out is not None
    measured = station_energy(nearest, entrant.runs)
    return Standing(
        value=factor * (measured.value if measured else out.delivered_wh),
        budget=measured.budget.scaled(factor, unit) if measured else None,
        run=nearest.run.number,
        load_w=out.mean_w,
    )


def _like_the_others(entrant: Entrant, asked: Asked) -> RunAnalysis | str:
    """The run that is compared, or why there is none."""
    through_ac = [
        a
        for a in entrant.runs.analyses
        if a.is_valid_discharge and outlet_of(a) is Outlet.AC and a.method.counts_for_capacity
    ]
    if not through_ac:
        return "no finished discharge through the AC outlet"
    in_window = [a for a in through_ac if (a.run.soc_from, a.run.soc_to) == _WINDOW]
    if not in_window:
        first = through_ac[0].run
        return f"another window: {first.soc_from:g} → {first.soc_to:g} %"
    whole = [a for a in in_window if is_whole(a)]
    if not whole:
        return _not_whole(in_window[0])
    alike = [a for a in whole if _off(a, asked) <= LOAD_SLACK]
    if not alike:
        loads = ", ".join(f"{_c_rate(a):.2f} C" for a in whole)
        runs = "its run is" if len(whole) == 1 else "its runs are"
        return f"another load: {runs} at {loads}, not within 10 % of {asked.words}"
    sound = [a for a in alike if not a.doubts]
    if not sound:
        return f"in doubt: {doubt_reason(alike[0].doubts)}"
    return min(sound, key=lambda a: _off(a, asked))


def _not_whole(analysis: RunAnalysis) -> str:
    out = analysis.energy_out
    begins_loaded = out is not None and out.result.has(Code.STARTS_LOADED)
    said = "begins under load" if begins_loaded else "does not show the cut-off"
    return f"not from start to end: the log of run {analysis.run.number} {said}"


def _off(analysis: RunAnalysis, asked: Asked) -> float:
    out = analysis.energy_out
    return asked.off(out.mean_w, analysis.station.rated_wh) if out is not None else 1e9


def _c_rate(analysis: RunAnalysis) -> float:
    out = analysis.energy_out
    return out.mean_w / analysis.station.rated_wh if out is not None else 0.0


def _round_trip(entrant: Entrant, asked: Asked) -> Standing | str:
    """Of the discharges at the load that is asked for."""
    cycles = [c for c in cycles_of(entrant.runs) if c.discharge is not None]
    if not cycles:
        return "no discharge with a recharge after it"
    alike = [
        c for c in cycles if c.discharge is not None and _off(c.discharge, asked) <= LOAD_SLACK
    ]
    if not alike:
        return f"{counted(len(cycles), 'round trip')}, none within 10 % of {asked.words}"
    for cycle in reversed(alike):
        trip = station_round_trip(cycle)
        out = cycle.discharge.energy_out if cycle.discharge is not None else None
        if trip is not None and out is not None and cycle.discharge is not None:
            return Standing(
                value=trip.value, budget=trip.budget, run=cycle.discharge.run.number,
                load_w=out.mean_w,
            )  # fmt: skip
    return "the meter of its round trip is not stated"


def _idle_w(entrant: Entrant, asked: Asked) -> Standing | str:  # noqa: ARG001 - no load is on
    idle = entrant.runs.ac.idle
    runs = [a for a in entrant.runs.analyses if a.own_use and a.method.outlet is Outlet.AC]
    if idle is None or not runs:
        return "no idle test with the AC outlet on"
    return Standing(value=idle.idle_w, budget=idle.budget, run=runs[-1].run.number)


def _per_rated_wh(entrant: Entrant, asked: Asked) -> Standing | str:  # noqa: ARG001 - no load is on
    paid = _paid(entrant)
    if isinstance(paid, str):
        return paid
    price, currency = paid
    return Standing(value=price / entrant.rated_wh, budget=EXACT, currency=currency)


def _per_usable_wh(entrant: Entrant, asked: Asked) -> Standing | str:
    """Usable as delivered at the load that is asked for."""
    paid, usable = _paid(entrant), _delivered_wh(entrant, asked)
    if isinstance(paid, str):
        return paid
    if isinstance(usable, str):
        return usable
    price, currency = paid
    per_wh = price / usable.value
    # More Wh make each one cheaper.
    budget = usable.budget.scaled(-per_wh / usable.value, "") if usable.budget else None
    return replace(usable, value=per_wh, budget=budget, currency=currency)


def _paid(entrant: Entrant) -> tuple[float, str] | str:
    """What was paid, and in what."""
    noted = entrant.receiving
    if noted is None or not noted.price:
        return "no price paid is noted"
    return noted.price, noted.currency.strip().upper()


def _kg_per_kwh(entrant: Entrant, asked: Asked) -> Standing | str:  # noqa: ARG001 - no load is on
    """Of rated kWh, weighed by the reviewer."""
    weighed = weight_finding(entrant.receiving)
    if weighed is None:
        return "its weight is not noted"
    rated_kwh = entrant.rated_wh / 1000
    budget = weighed.budget.scaled(1 / rated_kwh, "kg/kWh") if weighed.budget else None
    return Standing(value=weighed.value / rated_kwh, budget=budget)


QUANTITIES: dict[str, _Quantity] = {
    "usable_ratio": _Quantity(_usable_ratio, higher_is_better=True),
    "delivered_wh": _Quantity(_delivered_wh, higher_is_better=True),
    "round_trip": _Quantity(_round_trip, higher_is_better=True),
    "idle_w": _Quantity(_idle_w, higher_is_better=False),
    "price_per_rated_wh": _Quantity(_per_rated_wh, higher_is_better=False),
    "price_per_usable_wh": _Quantity(_per_usable_wh, higher_is_better=False),
    "kg_per_kwh": _Quantity(_kg_per_kwh, higher_is_better=False),
}
