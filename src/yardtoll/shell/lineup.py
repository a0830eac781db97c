"""`yardtoll lineup`: stations of one or several yards, like with like."""

import re
from pathlib import Path
from typing import Annotated, Any

import typer

from yardtoll.core.formatting import quoted
from yardtoll.shell.options import AsJson, print_result

_QUANTITIES = (
    "usable_ratio", "delivered_wh", "round_trip", "idle_w", "price_per_rated_wh",
    "price_per_usable_wh", "kg_per_kwh",
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
    from yardtoll.review.lineup import Asked, line_up

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
    from yardtoll.review.analysis import analyses_of
    from yardtoll.review.lineup import Entrant
    from yardtoll.review.station.runs import station_runs
    from yardtoll.store.looking import looking_into

    found: list[tuple[str, dict[str, Any]]] = []
    for path in dict.fromkeys(p.resolve() for p in yards):
        with looking_into(path) as yard:
            for station in yard.stations():
                assert station.id is not None
                about = {
                    "bench": str(path),
                    "rated_wh": station.rated_wh,
                    "runs": station_runs(analyses_of(yard, station)),
                    "receiving": yard.receiving(station.id),
                }
                found.append((station.name, about))
    names = _told_apart([(name, Path(about["bench"])) for name, about in found])
    return [Entrant(name=name, **about) for name, (_, about) in zip(names, found, strict=True)]


def _told_apart(stations: list[tuple[str, Path]]) -> list[str]:
    """Names; those that are there twice with their yard's, or with its path if need be."""
    names = [name for name, _ in stations]
    for said in (lambda path: path.stem, str):
        twice = {name for name in names if names.count(name) > 1}
        made = [f"{name} ({said(path)})" if name in twice else name for name, path in stations]
        if len(set(made)) == len(made):
            break
    return made


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
        "left_out": [{"station": name, "why": why} for name, why in made.left_out],
        "warnings": [],
    }


def _as_table(made: Any) -> str:
    from yardtoll.core.formatting import format_with_uncertainty
    from yardtoll.report.tables.rows import table

    scale, unit = _shown_as(made)
    rows = []
    for row in made.rows:
        shown = format_with_uncertainty(scale * row.value, scale * (row.expanded or 0.0))
        if made.quantity.startswith("price") and not row.expanded:
            shown = f"{row.value:.3f}"
        load = f" at {row.load_w:.0f} W, {row.c_rate:.2f} C" if row.load_w is not None else ""
        run = f" in run {row.run}" if row.run is not None else ""
        ties = f"; a tie with {', '.join(row.ties)}" if row.ties else ""
        place = f"{row.rank}. {row.station}" if row.rank is not None else row.station
        rows.append((place, f"{shown} {unit}{load}{run}{ties}"))
    rows += [(name, f"left out: {why}") for name, why in made.left_out]
    return table(rows, ())


def _shown_as(made: Any) -> tuple[float, str]:
    """What a figure is multiplied by to be read, and its unit."""
    if made.quantity in ("usable_ratio", "round_trip"):
        return 100.0, "%"
    if made.quantity.startswith("price"):
        return 1.0, f"{made.currency}/Wh" if made.currency else "per Wh"
    return 1.0, {"delivered_wh": "Wh", "idle_w": "W", "kg_per_kwh": "kg/kWh"}[made.quantity]
