"""`yardtoll lineup`: stations of one or several yards, like with like."""

import re
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any

import typer

from yardtoll.core.formatting import quoted
from yardtoll.shell.options import AsJson, print_result

_QUANTITIES = (
    "usable_ratio", "delivered_wh", "round_trip", "idle_w", "zero_to_80_min", "solar_w", "held_w",
    "thd", "transfer_ms", "noise_db", "price_per_rated_wh", "price_per_usable_wh", "three_way",
    "kg_per_kwh", "score",
)  # fmt: skip
_LOAD = re.compile(r"\s*(\d+(?:\.\d+)?)\s*(C|k?W)\s*", re.IGNORECASE)


def lineup(
    yards: Annotated[list[Path], typer.Argument(metavar="FILE.yard...", help="One or more yards.")],
    quantity: Annotated[
        str, typer.Option("--quantity", help=f"{', '.join(_QUANTITIES)}.")
    ] = "usable_ratio",
    load: Annotated[
        str, typer.Option("--load", metavar="0.2C", help="At what load, within 10 %.")
    ] = "0.2C",
    as_json: AsJson = False,
) -> None:
    """Stations side by side in one quantity; what cannot be compared is left out, and why."""
    from yardtoll.review.lineup.entrants import Asked
    from yardtoll.review.lineup.lining import line_up

    if quantity not in _QUANTITIES:
        raise typer.BadParameter(f"{quoted(quantity)} is not one of {', '.join(_QUANTITIES)}")
    found = _LOAD.fullmatch(load)
    if found is None or not float(found[1]) > 0:
        raise typer.BadParameter(f"{quoted(load)} should look like 0.2C, or 400W")
    unit = found[2].lower()
    value = float(found[1]) * (1000.0 if unit == "kw" else 1.0)
    asked = Asked(c_rate=value) if unit == "c" else Asked(c_rate=None, load_w=value)
    made = line_up(_entrants(yards), quantity, asked)
    print_result(_as_json(made) if as_json else _as_table(made))


def _entrants(yards: list[Path]) -> list[Any]:
    """Every station of every yard; of a name that is there twice with its yard's."""
    from yardtoll.review.lineup.entrants import entrants_of, told_apart
    from yardtoll.store.looking import looking_into

    found: list[Any] = []
    for path in dict.fromkeys(p.resolve() for p in yards):
        with looking_into(path) as yard:
            found += entrants_of(yard, str(path))
    names = told_apart([(entrant.name, entrant.bench) for entrant in found])
    return [replace(entrant, name=name) for entrant, name in zip(found, names, strict=True)]


def _as_json(made: Any) -> dict[str, Any]:
    return {
        "quantity": made.quantity,
        "rows": [
            {
                "station": row.station,
                "value": row.value,
                "U": row.expanded,
                "load_w": row.load_w,
                "c_rate": row.c_rate,
                "run": row.run,
                "rank": row.rank,
                "ties": list(row.ties),
            }
            for row in made.rows
        ],
        **({"currency": made.currency} if made.currency else {}),
        "left_out": [{"station": left.station, "why": left.why} for left in made.left_out],
        "warnings": [],
    }


def _as_table(made: Any) -> str:
    from yardtoll.report.tables.rows import table
    from yardtoll.review.lineup.words import figure_of, place_of, ties_words

    rows = []
    for row in made.rows:
        figure = figure_of(row, made)
        load = f" at {row.load_w:.0f} W, {row.c_rate:.2f} C" if row.load_w is not None else ""
        run = f" in run {row.run}" if row.run is not None else ""
        ties = f"; {ties_words(row)}" if row.ties else ""
        if row.rank is None and len(made.rows) > 1:
            ties = f"; {place_of(row, made)}"
        place = f"{row.rank}. {row.station}" if row.rank is not None else row.station
        rows.append((place, f"{figure}{load}{run}{ties}"))
    rows += [(left.station, f"left out: {left.why}") for left in made.left_out]
    return table(rows, ())
