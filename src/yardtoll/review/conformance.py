"""A station's claims and yardsticks judged, from its runs and from what was noted."""

from collections.abc import Sequence
from dataclasses import replace

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.judging import JudgedClaim, judge_claim
from yardtoll.core.conformance.verdict import Rule
from yardtoll.core.conformance.yardsticks import Basis, Yardstick
from yardtoll.core.uncertainty.budget import Measured
from yardtoll.review.budgets import EXACT
from yardtoll.review.findings import findings
from yardtoll.review.kinds import KINDS
from yardtoll.review.station.cycle import CycleRuns, cycles_of, station_round_trip
from yardtoll.review.station.fitted import EXACT_FIT, Fitted, fitted_euro, fitted_terms
from yardtoll.review.station.runs import StationRuns
from yardtoll.review.yardstick_rows import YardstickRow, judged_row
from yardtoll.store.records import Observation, Receiving
from yardtoll.store.shown_region import day
from yardtoll.store.site_time import local


def judged_claims(
    station: StationRuns,
    claims: Sequence[Claim],
    receiving: Receiving | None = None,
    observations: Sequence[Observation] = (),
    rule: Rule = Rule.GUARDED,
) -> list[JudgedClaim]:
    """Every claim with its verdict, in the order of the claims."""
    made, excluded = findings(station, claims, receiving, observations)
    return [judge_claim(claim, made, excluded, rule, claims) for claim in claims]


def yardstick_rows(
    station: StationRuns, yardstick: Yardstick, rule: Rule, receiving: Receiving | None = None
) -> list[YardstickRow]:
    """Everything of a station that a yardstick speaks to."""
    rows = [row for kind in KINDS for row in kind.yardstick_rows(station, yardstick, rule)]
    if yardstick.basis is Basis.ROUND_TRIP:
        rows += [_round_trip(cycle, yardstick, rule) for cycle in cycles_of(station)]
    if yardstick.basis is Basis.CONVERSION:
        rows += _conversion(station, yardstick, rule)
    if yardstick.basis is Basis.PRICE_PER_WH:
        rows += _price(station, yardstick, rule, receiving)
    return rows


def _round_trip(cycle: CycleRuns, yardstick: Yardstick, rule: Rule) -> YardstickRow:
    discharge, delivered_wh = cycle.discharge, cycle.delivered_wh
    assert discharge is not None
    assert discharge.energy_out is not None
    assert delivered_wh is not None
    runs = "+".join(str(a.run.number) for a in cycle.charges)
    load = f" at {discharge.energy_out.mean_w:.0f} W" if discharge.energy_out.mean_w else ""
    title = f"Run {discharge.run.number}{load}, recharged in run {runs}"
    subtitle = f"delivered ÷ drawn from {cycle.source} · {day(local(discharge.run.started_at))}"
    value = delivered_wh / cycle.drawn_wh if cycle.drawn_wh else None
    trip = station_round_trip(cycle)
    doubts = cycle.doubts
    if value is not None and value > 1:
        reason = "More came out than went in: another window, a second input, or a wrong meter."
        return YardstickRow(
            title=title, subtitle=subtitle, analysis=discharge, value=None, budget=None,
            verdict=None, word="cannot be judged", reasons=(reason,),
        )  # fmt: skip
    return judged_row(title, subtitle, discharge, value, trip, yardstick, rule, doubts)


def _conversion(station: StationRuns, yardstick: Yardstick, rule: Rule) -> list[YardstickRow]:
    split = station.ac.split
    if split is None:
        return []
    title = f"Fitted from {len(station.ac.points)} AC runs"
    subtitle = "output ÷ battery power, Euro weights"
    valid = [a for a in station.analyses if a.is_valid_discharge]
    latest = valid[-1] if valid else None
    if split.euro_at_most is not None:
        bound = fitted_terms(station.ac)[Fitted.EURO]
        reason = (
            f"Conversion is {bound.figure}: without an idle test sharp enough its proportional "
            "part is not known, so nothing is judged by it."
        )
        return [
            YardstickRow(
                title=title, subtitle=subtitle, analysis=latest, value=split.euro_at_most,
                budget=None, verdict=None, word="cannot be judged", reasons=(reason,),
                at_most=True,
            )
        ]  # fmt: skip
    if split.euro_efficiency is None:
        return []
    row = judged_row(
        title, subtitle, latest, split.euro_efficiency, fitted_euro(station.ac), yardstick, rule
    )
    return [row if split.degrees_of_freedom else replace(row, reasons=(*row.reasons, EXACT_FIT))]


def _price(
    station: StationRuns, yardstick: Yardstick, rule: Rule, receiving: Receiving | None
) -> list[YardstickRow]:
    if receiving is None or not receiving.price or not station.analyses:
        return []
    rated_wh = station.analyses[0].station.rated_wh
    value = receiving.price / rated_wh
    measured = Measured(value=value, budget=EXACT)
    money = f"{receiving.price:g} {receiving.currency}".rstrip()
    title = f"{money} for {rated_wh:g} Wh"
    return [judged_row(title, "price ÷ rated energy", None, value, measured, yardstick, rule)]
