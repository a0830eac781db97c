"""How a station comes to a figure that others can be compared with, or why it has none."""

import math
from collections.abc import Callable
from dataclasses import replace

from yardtoll.core.conformance.findings import Finding
from yardtoll.core.conformance.scorecard import summed
from yardtoll.core.cost.price import three_way_index
from yardtoll.core.cost.prices import PRICE_KINDS, Price, latest_price
from yardtoll.core.electrical.doubts import doubt_reason
from yardtoll.core.electrical.trace import Code
from yardtoll.core.formatting import counted
from yardtoll.core.methods import Outlet
from yardtoll.core.planning.inputs import claimed
from yardtoll.review.budgets import EXACT
from yardtoll.review.findings import weight_finding
from yardtoll.review.lineup import worked
from yardtoll.review.lineup.entrants import Asked, Entrant, Standing
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.scoring import scored
from yardtoll.review.station.cycle import cycles_of, station_round_trip
from yardtoll.review.station.outlet_runs import is_whole, outlet_of
from yardtoll.review.station.repeats import repeats_of, station_energy
from yardtoll.store.records import Receiving

Find = Callable[[Entrant, Asked], Standing | str]
"""Finds a figure, or a reason for none in a clause."""
LOAD_SLACK = 0.10
"""Loads within this share of one C-rate are alike (common practice, no source)."""
_WINDOW = (100.0, 0.0)
_HELD_S = 1800.0
"""A power that was held for less is no continuous one (common practice, no source)."""
_NEAR_RATING = 0.95
"""A load from this share of the rating on tells what is held (common practice, no source)."""
_WALL_FROM = 1.0
"""A charge from at most so many percent is one from empty."""


def usable_ratio(entrant: Entrant, asked: Asked) -> Standing | str:
    """Delivered ÷ rated Wh, of a whole discharge at the load that is asked for."""
    found = _delivered(entrant, asked, 1 / entrant.rated_wh, "")
    if isinstance(found, str):
        return found
    wh = found.value * entrant.rated_wh
    return replace(found, worked=worked.of_rated(wh, entrant.rated_wh, found.run or 0))


def delivered_wh(entrant: Entrant, asked: Asked) -> Standing | str:
    """Wh of a whole discharge at the load that is asked for."""
    return _delivered(entrant, asked, 1.0, "Wh")


def _delivered(entrant: Entrant, asked: Asked, factor: float, unit: str) -> Standing | str:
    nearest = _like_the_others(entrant, asked)
    if isinstance(nearest, str):
        return nearest
    out = nearest.energy_out
    assert out is not None
    measured, repeats = station_energy(nearest, entrant.runs), repeats_of(nearest, entrant.runs)
    value = measured.value if measured else out.delivered_wh
    return Standing(
        value=factor * value,
        worked=worked.delivered(value, repeats.count if repeats is not None else 1),
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


def round_trip(entrant: Entrant, asked: Asked) -> Standing | str:
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
                worked=worked.round_trip(out.delivered_wh, trip.value, cycle.discharge.run.number),
            )  # fmt: skip
    return "the meter of its round trip is not stated"


def idle_w(entrant: Entrant, asked: Asked) -> Standing | str:  # noqa: ARG001 - no load is on
    """W of its own with the AC outlet on."""
    idle = entrant.runs.ac.idle
    runs = [a for a in entrant.runs.analyses if a.own_use and a.method.outlet is Outlet.AC]
    if idle is None or not runs:
        return "no idle test with the AC outlet on"
    return Standing(value=idle.idle_w, budget=idle.budget, run=runs[-1].run.number)


def per_rated_wh(entrant: Entrant, asked: Asked) -> Standing | str:
    """Money for each rated Wh."""
    price = _price(entrant, asked)
    if isinstance(price, str):
        return price
    return Standing(
        value=price.each / entrant.rated_wh, budget=EXACT, currency=_currency(price),
        note=_price_words(price),
        worked=worked.per_wh(price.each, _currency(price), entrant.rated_wh, "rated"),
    )  # fmt: skip


def per_usable_wh(entrant: Entrant, asked: Asked) -> Standing | str:
    """Usable as delivered at the load that is asked for."""
    price, usable = _price(entrant, asked), delivered_wh(entrant, asked)
    if isinstance(price, str):
        return price
    if isinstance(usable, str):
        return usable
    per_wh = price.each / usable.value
    # More Wh make each one cheaper.
    budget = usable.budget.scaled(-per_wh / usable.value, "") if usable.budget else None
    return replace(
        usable, value=per_wh, budget=budget, currency=_currency(price), note=_price_words(price),
        worked=worked.per_wh(price.each, _currency(price), usable.value, "usable"),
    )  # fmt: skip


def three_way(entrant: Entrant, asked: Asked) -> Standing | str:
    """By what is rated and claimed."""
    price = _price(entrant, asked)
    if isinstance(price, str):
        return price
    solar_w = claimed(entrant.claims, "solar_w")
    if not solar_w:
        return "no solar input is claimed"
    if not entrant.rated_w:
        return "its rated power is not known"
    value = three_way_index(price.each, entrant.rated_wh, entrant.rated_w, solar_w)
    rated = (entrant.rated_wh, entrant.rated_w, solar_w)
    return Standing(
        value=value, budget=EXACT, currency=_currency(price), note=_price_words(price),
        worked=worked.three_way(price.each, _currency(price), rated, value),
    )  # fmt: skip


def prices_of(entrant: Entrant) -> list[Price]:
    """Those that were noted, and those of how it came."""
    noted, found = entrant.receiving, [stored.price for stored in entrant.prices]
    if noted is None:
        return found
    for kind, amount in (("paid", noted.price), ("list", noted.list_price)):
        if amount:
            came = Price(kind=kind, amount=amount, currency=noted.currency, day=noted.received_on)
            found.insert(0, came)
    return found


def _price(entrant: Entrant, asked: Asked) -> Price | str:
    found = latest_price(prices_of(entrant), asked.price, asked.units)
    if found is None or not found.amount:
        if asked.price == "paid":
            return "no price paid is noted"
        return f"no price {PRICE_KINDS[asked.price]} is noted"
    return found


def _currency(price: Price) -> str:
    return price.currency.strip().upper()


def _price_words(price: Price) -> str:
    """Like "640 USD paid, 2026-10-20"."""
    money = f"{price.amount:g} {_currency(price)}".rstrip()
    many = f" for {price.units}" if price.units > 1 else ""
    day = f", {price.day}" if price.day else ""
    return f"{money}{many} {PRICE_KINDS[price.kind]}{day}"


def kg_per_kwh(entrant: Entrant, asked: Asked) -> Standing | str:  # noqa: ARG001 - no load is on
    """Of rated kWh, weighed by the reviewer."""
    weighed = weight_finding(entrant.receiving)
    if weighed is None:
        return "its weight is not noted"
    rated_kwh = entrant.rated_wh / 1000
    budget = weighed.budget.scaled(1 / rated_kwh, "kg/kWh") if weighed.budget else None
    how = worked.weight_per_kwh(weighed.value, entrant.rated_wh)
    return Standing(value=weighed.value / rated_kwh, budget=budget, worked=how)


def zero_to_80(entrant: Entrant, asked: Asked) -> Standing | str:  # noqa: ARG001 - no load is on
    """Minutes from empty to 80 % by the display, from the wall."""
    charges = [
        a
        for a in entrant.runs.analyses
        if a.energy_in is not None and a.is_finished and not a.energy_in.by_sun
    ]
    if not charges:
        return "no recharge from the wall"
    whole = [a for a in charges if a.energy_in and a.energy_in.result.soc[0] <= _WALL_FROM]
    if not whole:
        return "no recharge from empty"
    timed = [a for a in whole if "to_soc_80_s" in a.figures]
    if not timed:
        return "the display was not read near 80 %"
    sound = [a for a in timed if not a.doubts]
    if not sound:
        return f"in doubt: {doubt_reason(timed[-1].doubts)}"
    figure = sound[-1].figures["to_soc_80_s"]
    budget = figure.budget.scaled(1 / 60, "min") if figure.budget is not None else None
    run = sound[-1].run.number
    how = worked.minutes_to_80(figure.value, run)
    return Standing(value=figure.value / 60, budget=budget, run=run, worked=how)


def by_finding(kind: str, missing: str) -> Find:
    """By the latest finding of a kind that is no bound and in no doubt."""

    def find(entrant: Entrant, asked: Asked) -> Standing | str:  # noqa: ARG001 - no load is on
        every = [f for f in entrant.findings if f.kind == kind]
        found = [f for f in every if not f.lower_bound]
        if not found:
            return _bound_reason(every[-1]) if every else missing
        sound = _sound(found)
        return sound if isinstance(sound, str) else _standing(sound[-1])

    return find


def _bound_reason(bound: Finding) -> str:
    """Why a figure that the station may better is none to compare."""
    why = bound.why_bound.rstrip(".")
    return f"run {_number(bound)} gives a bound only: {why[:1].lower()}{why[1:]}"


def _sound(found: list[Finding]) -> list[Finding] | str:
    """Those that speak to the matter and are in no doubt; or why none does."""
    fit = [f for f in found if not f.unfit]
    if not fit:
        return f"run {_number(found[-1])} {found[-1].unfit}"
    sound = [f for f in fit if not f.doubts]
    return sound or f"in doubt: {doubt_reason(fit[-1].doubts)}"


def _standing(finding: Finding) -> Standing:
    return Standing(
        value=finding.value,
        budget=finding.budget,
        run=finding.runs[0] if finding.runs else None,
        load_w=finding.load_w,
        note=finding.seen,
    )


def held_w(entrant: Entrant, asked: Asked) -> Standing | str:  # noqa: ARG001 - up to its rating
    """A load far below the rating says nothing of what is held."""
    found = [f for f in entrant.findings if f.kind == "continuous_w" and not f.lower_bound]
    near = [f for f in found if f.value >= _NEAR_RATING * entrant.rated_w]
    if not near:
        highest = max((f.value for f in found), default=0.0)
        tried = f", {highest:.0f} W at the most" if highest else ""
        return f"no load near its {entrant.rated_w:g} W was held{tried}"
    long_enough = [f for f in near if (f.held_s or math.inf) >= _HELD_S]
    if not long_enough and all(not f.unfit for f in near):
        return f"held near its rating for less than {_HELD_S / 60:.0f} min"
    sound = _sound(long_enough or near)
    return sound if isinstance(sound, str) else _standing(max(sound, key=lambda f: f.value))


def _number(finding: Finding) -> str:
    return ", ".join(str(n) for n in finding.runs) or "–"


def thd(entrant: Entrant, asked: Asked) -> Standing | str:  # noqa: ARG001 - at every load
    """Total harmonic distortion, the highest of the loads tried."""
    waves = [a for a in entrant.runs.analyses if "thd" in a.figures and a.is_finished]
    if not waves:
        return "no waveform was captured"
    figure = waves[-1].figures["thd"]
    return Standing(
        value=figure.value, budget=figure.budget, run=waves[-1].run.number, worked=figure.worked,
        note="the highest of its loads",
    )  # fmt: skip


def score(entrant: Entrant, asked: Asked) -> Standing | str:  # noqa: ARG001 - no load is on
    """Points got of those with evidence; exact only where all of them have some."""
    if not entrant.points:
        return "the yard has no scorecard"
    receiving = entrant.receiving or Receiving(station_id=0)
    found = scored(entrant.points, entrant.runs, receiving, entrant.observations)
    got, possible = summed(found)
    open_points = sum(1 for each in found if each.points is None)
    if not possible:
        return "no point of the scorecard has evidence"
    if open_points:
        return f"{got:g} of {possible:g}, {counted(open_points, 'point')} not scored"
    how = worked.by_points(got, possible)
    return Standing(value=got, budget=EXACT, note=f"of {possible:g}, all scored", worked=how)
