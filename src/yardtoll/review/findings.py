"""Every finding on one station, and the runs left out."""

from collections.abc import Iterator, Sequence

from yardtoll.core.claims.kinds import CLAIM_KINDS, Claim
from yardtoll.core.conformance.findings import ExcludedRun, Finding
from yardtoll.core.uncertainty.budget import Budget, rectangular
from yardtoll.review.budgets import EXACT
from yardtoll.review.kinds import KINDS, kind_of
from yardtoll.review.run_analysis import in_time
from yardtoll.review.station.runs import StationRuns
from yardtoll.store.records import Observation, Receiving


def findings(
    station: StationRuns,
    claims: Sequence[Claim] = (),
    receiving: Receiving | None = None,
    observations: Sequence[Observation] = (),
) -> tuple[list[Finding], list[ExcludedRun]]:
    """Every finding on a station, in the order of its runs, and the runs left out.

    Args:
        claims: give the DC port of a run, by its volts, and the charge that a time is
            asked for.
    """
    # A run says more than what was noted, and the latest of several is judged by.
    made = list(_noted(receiving, observations))
    excluded: list[ExcludedRun] = []
    for run in in_time(station.analyses):
        reason = ""
        if run.is_void:
            reason = f"is void: {run.run.void_reason or 'no reason given'}"
        elif not run.has_outcome:
            reason = f"no result: {run.problem}"
        if reason:
            excluded += [
                ExcludedRun(kind=kind, run=run.run.number, reason=reason)
                for kind in run.method.claims
            ]
            continue
        made += kind_of(run.run.method).findings(run, station, claims)
    for kind in KINDS:
        made += kind.station_findings(station)
    return made, excluded


def weight_finding(receiving: Receiving | None) -> Finding | None:
    """The weight as it came, within half of the last digit noted."""
    if receiving is None or not receiving.weight_kg:
        return None
    text = f"{receiving.weight_kg:g}"
    step = 10.0 ** -(len(text.split(".")[1]) if "." in text else 0)
    return Finding(
        kind="weight_kg",
        value=receiving.weight_kg,
        budget=Budget.of("kg", [rectangular("Last digit", step / 2, f"read to {step:g} kg")]),
        seen="on the scale",
    )


def _noted(receiving: Receiving | None, observations: Sequence[Observation]) -> Iterator[Finding]:
    weighed = weight_finding(receiving)
    if weighed is not None:
        yield weighed
    for observed in observations:
        if observed.subject not in CLAIM_KINDS:
            continue
        day, words = observed.observed_on, observed.words
        yield Finding(
            kind=observed.subject,
            value=1.0 if observed.agrees else 0.0,
            budget=EXACT,
            agrees=observed.agrees,
            seen=f"on {day}: {words}" if words else f"on {day}",
        )
