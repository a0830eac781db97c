"""Standings kept in the yard, with what they were made of: worked out again when that changes."""

import json
import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict, replace
from typing import Any

from yardtoll import __version__
from yardtoll.core.uncertainty.budget import Budget, Contribution, Evaluation, Worked
from yardtoll.review.analysis import analyses_of
from yardtoll.review.lineup.entrants import Asked, Entrant, Standing, entrant_of
from yardtoll.review.lineup.quantities import QUANTITIES
from yardtoll.store.content import content_hashes
from yardtoll.store.records import Station
from yardtoll.store.yard_file import YardFile

METHOD_VERSION = 3
"""Raised when a figure is found in another way, so that what was kept is worked out again."""


def made_of(content: str) -> str:
    """What a standing rests on: the yard's content, the program, how figures are found."""
    return f"{content}-{__version__}-{METHOD_VERSION}"


def asked_key(asked: Asked) -> str:
    """Of what was asked, in the file."""
    return json.dumps(asdict(asked), sort_keys=True)


def ready_entrants(yard: YardFile, bench: str, asked: Asked) -> tuple[list[Entrant], list[Station]]:
    """(every station with what is kept of it, those of which nothing that holds is kept).

    The former have no runs: what they show stands ready.
    """
    hashes = content_hashes(yard)
    kept = yard.standings(asked_key(asked))
    ready, missing = [], []
    for station in yard.stations():
        stamp = made_of(hashes.get(station.id or 0, ""))
        found = kept.get(station.id or 0, {})
        entrant = entrant_of(yard, station, bench, [])
        if set(found) >= set(QUANTITIES) and all(made == stamp for made, _ in found.values()):
            standings = {key: _from_json(answer) for key, (_, answer) in found.items()}
            ready.append(replace(entrant, kept={(key, asked): s for key, s in standings.items()}))
        else:
            missing.append(station)
    return ready, missing


def work_out(yard: YardFile, station: Station, bench: str, asked: Asked) -> Entrant:
    """One station worked out and kept where the yard can be written; it comes without its runs."""
    before = content_hashes(yard, station.id).get(station.id or 0, "")
    full = entrant_of(yard, station, bench, analyses_of(yard, station))
    found = {key: about.find(full, asked) for key, about in QUANTITIES.items()}
    after = content_hashes(yard, station.id).get(station.id or 0, "")
    if before == after and not yard.read_only:
        answers = {key: _to_json(standing) for key, standing in found.items()}
        yard.keep_standings(station.id or 0, asked_key(asked), made_of(before), answers)
    bare = entrant_of(yard, station, bench, [])
    return replace(bare, kept={(key, asked): standing for key, standing in found.items()})


def _to_json(standing: Standing | str) -> dict[str, Any]:
    if isinstance(standing, str):
        return {"why": standing}
    made = asdict(standing)
    for line in made["budget"]["lines"] if made["budget"] is not None else ():
        # There is no infinity in JSON.
        if math.isinf(line["degrees_of_freedom"]):
            line["degrees_of_freedom"] = None
    return made


def _from_json(stored: Mapping[str, Any]) -> Standing | str:
    if "why" in stored:
        return str(stored["why"])
    budget = stored["budget"]
    made = None
    if budget is not None:
        lines, worked = _lines(budget["lines"]), _worked(budget["worked"])
        made = Budget(unit=budget["unit"], lines=lines, worked=worked)
    return Standing(**{**stored, "budget": made, "worked": _worked(stored["worked"])})


def _worked(stored: Mapping[str, str] | None) -> Worked | None:
    return None if stored is None else Worked(**stored)


def _lines(stored: Sequence[Mapping[str, Any]]) -> tuple[Contribution, ...]:
    return tuple(
        Contribution(
            **{
                **line,
                "evaluation": Evaluation(line["evaluation"]),
                "degrees_of_freedom": math.inf
                if line["degrees_of_freedom"] is None
                else line["degrees_of_freedom"],
            }
        )
        for line in stored
    )
