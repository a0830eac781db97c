"""Evidence for the scorecard, from runs, from what was seen, and from what was paid."""

from collections.abc import Sequence

from yardtoll.core.conformance.scorecard import Evidence, Scored, score
from yardtoll.review.kinds import KINDS, kind_of
from yardtoll.review.run_analysis import in_time
from yardtoll.review.station.runs import StationRuns
from yardtoll.store.records import Observation, Receiving, StoredScorePoint


def scored(
    points: Sequence[StoredScorePoint],
    station: StationRuns,
    receiving: Receiving,
    observations: Sequence[Observation],
) -> list[Scored]:
    """Every point of the yard's scorecard with what a station got, and why."""
    return score([stored.point for stored in points], evidence(station, receiving, observations))


def evidence(
    station: StationRuns, receiving: Receiving, observations: Sequence[Observation]
) -> dict[str, Evidence]:
    """The evidence on each quantity of the scorecard; a run goes before what was seen."""
    made: dict[str, Evidence] = {}
    for seen in observations:
        day = f" on {seen.observed_on}" if seen.observed_on else ""
        how = f": {seen.words}" if seen.words else ""
        made[seen.subject] = Evidence(
            value=float(seen.agrees),
            words=f"seen{day}{how}" if seen.agrees else f"not so{day}{how}",
        )
    for run in in_time(station.analyses):
        if run.is_finished:
            made |= kind_of(run.run.method).evidence(run, station)
    for kind in KINDS:
        made |= kind.station_evidence(station)
    if receiving.price and station.analyses:
        rated_wh = station.analyses[0].station.rated_wh
        price = receiving.price / rated_wh
        words = f"{price:.2f} {receiving.currency} per rated Wh".replace("  ", " ")
        made["price_per_wh"] = Evidence(value=price, words=words)
    return made
