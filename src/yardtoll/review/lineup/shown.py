"""A line-up as it is shown: rows on an axis, a table of everything, the words for one row."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from yardtoll.core.conformance.scorecard import Scored, summed
from yardtoll.report.charts.lineup import Contestant
from yardtoll.review.lineup.classes import class_words
from yardtoll.review.lineup.entrants import Asked, Entrant
from yardtoll.review.lineup.lining import LeftOut, Lineup, LineupRow, line_up
from yardtoll.review.lineup.quantities import QUANTITIES
from yardtoll.review.lineup.words import figure_of, place_of, ties_words
from yardtoll.review.scoring import scored
from yardtoll.store.records import Receiving, SizeClass, StoredScorePoint

_MOST_SUMS = 4
MOST = 12
"""Stations on one page."""
LOADS: tuple[tuple[str, Asked], ...] = (
    ("0.2 C", Asked(c_rate=0.2)),
    ("0.1 C", Asked(c_rate=0.1)),
    ("0.5 C", Asked(c_rate=0.5)),
    ("1 C", Asked(c_rate=1.0)),
    ("100 W", Asked(c_rate=None, load_w=100)),
    ("400 W", Asked(c_rate=None, load_w=400)),
    ("800 W", Asked(c_rate=None, load_w=800)),
    ("1200 W", Asked(c_rate=None, load_w=1200)),
)


@dataclass(frozen=True, kw_only=True, eq=False)
class LineupQuestion:
    """All that line-ups are worked out from.

    Attributes:
        runs_key: changes when any result does.
        archive: of all sizes, for the class of each.
    """

    entrants: tuple[Entrant, ...]
    archive: tuple[Entrant, ...]
    asked: Asked
    classes: tuple[SizeClass, ...]
    runs_key: object
    title: str = "Putting stations side by side"

    @property
    def key(self) -> object:
        """Questions of one key have one answer."""
        names = tuple((e.name, e.bench) for e in self.entrants)
        return (names, self.asked, self.classes, self.runs_key)

    def answer(self) -> "Answered":
        """Every quantity."""
        lineups = {key: line_up(self.entrants, key, self.asked) for key in QUANTITIES}
        return Answered(
            lineups=lineups, archive=self.archive, classes=self.classes, asked=self.asked
        )


@dataclass(frozen=True, kw_only=True, eq=False)
class Answered:
    """Line-ups by their quantity, and all that a place in a class is found among."""

    lineups: Mapping[str, Lineup]
    archive: tuple[Entrant, ...]
    classes: tuple[SizeClass, ...]
    asked: Asked


def first_of(entrants: Sequence[Entrant], near_wh: float) -> list[Entrant]:
    """At most :data:`MOST`, those nearest in size, in the order they came."""
    nearest = sorted(entrants, key=lambda e: abs(e.rated_wh / near_wh - 1))[:MOST]
    return [entrant for entrant in entrants if any(entrant is other for other in nearest)]


def contestants(lineup: Lineup) -> tuple[Contestant, ...]:
    """As rows on an axis, the best first; those that cannot be compared last."""
    scale = QUANTITIES[lineup.quantity].scale
    there = [
        Contestant(
            name=row.station,
            conditions=conditions_of(row),
            value=scale * row.value,
            whisker=scale * row.expanded if row.expanded is not None else None,
            figure=figure_of(row, lineup),
            place=", ".join(filter(None, (place_of(row, lineup), ties_words(row)))),
            is_sure=row.rank is not None and row.low_place == row.high_place,
        )
        for row in lineup.rows
    ]
    others = [
        Contestant(name=left.station, conditions=f"{left.entrant.rated_wh:g} Wh", why=left.why)
        for left in lineup.left_out
    ]
    return (*there, *others)


def conditions_of(row: LineupRow) -> str:
    """Like "245 W, 0.20 C · run 1"."""
    load = f"{row.load_w:.0f} W, {row.c_rate:.2f} C" if row.load_w and row.c_rate else ""
    run = f"run {row.run}" if row.run is not None else ""
    return " · ".join(filter(None, (load, run))) or row.note


def entry_at(lineup: Lineup, index: int) -> LineupRow | LeftOut | None:
    """What a row on the axis stands for."""
    every: list[LineupRow | LeftOut] = [*lineup.rows, *lineup.left_out]
    return every[index] if 0 <= index < len(every) else None


def words_of(entry: LineupRow | LeftOut, lineup: Lineup, answered: Answered) -> str:
    """The chosen row in a sentence or two."""
    title = QUANTITIES[lineup.quantity].title
    title = f"{title[:1].lower()}{title[1:]}"
    if isinstance(entry, LeftOut):
        return f"{entry.station}, {title}: not compared, {entry.why}."
    at = conditions_of(entry)
    note = f", {entry.note}" if entry.note and entry.note != at else ""
    place = f"; {place_of(entry, lineup)}" if place_of(entry, lineup) else ""
    ties = f", {ties_words(entry)}" if entry.ties else ""
    said = f"{entry.station}, {title}: {figure_of(entry, lineup)} ({at}{note}){place}{ties}."
    among = class_words(entry, lineup, answered.archive, answered.asked, answered.classes)
    return f"{said} {among}." if among else said


def table_of(answered: Answered, names: Sequence[str]) -> tuple[list[str], list[list[str]]]:
    """(titles, rows): a row a quantity, a column a station; why where none stands."""
    rows = []
    for key, lineup in answered.lineups.items():
        about = QUANTITIES[key]
        cells = {row.station: _cell(row, lineup) for row in lineup.rows}
        cells |= {left.station: f"– {left.why}" for left in lineup.left_out}
        at = f", {answered.asked.words}" if about.at_load else ""
        rows.append([f"{about.title}{at}", *(cells.get(name, "") for name in names)])
    return ["", *names], rows


def score_table(
    entrants: Sequence[Entrant], points: Sequence[StoredScorePoint]
) -> tuple[list[str], list[list[str]]]:
    """(titles, rows): a row a point, a column a station, and their sums; what has no evidence is
    told and not counted.
    """
    got = [
        scored(points, e.runs, e.receiving or Receiving(station_id=0), e.observations)
        for e in entrants
    ]
    rows = [
        [stored.title, *(_score_cell(each[place]) for each in got)]
        for place, stored in enumerate(points)
    ]
    return ["", *(e.name for e in entrants)], [*rows, ["Sum", *map(_sum_cell, got)]]


def score_words(titles: Sequence[str], rows: Sequence[Sequence[str]]) -> str:
    """Sums beside each other, and that they are of different points where they are."""
    names, sums = titles[1:], [cell.split(";")[0] for cell in rows[-1][1:]]
    if not names:
        return "Nobody takes part"
    if len(names) > _MOST_SUMS:
        return f"{len(names)} stations by one scorecard"
    said = ", ".join(f"{name} {got}" for name, got in zip(names, sums, strict=True))
    alike = len({tuple(c.startswith("–") for c in col[1:-1]) for col in _columns(rows)}) == 1
    return said if alike else f"{said}: not all scored on the same points"


def _columns(rows: Sequence[Sequence[str]]) -> list[tuple[str, ...]]:
    """Each station's cells below a head."""
    return [("", *cells) for cells in list(zip(*rows, strict=True))[1:]]


def _score_cell(found: Scored) -> str:
    points = "–" if found.points is None else f"{found.points:g}"
    return f"{points}  {found.evidence}"


def _sum_cell(found: Sequence[Scored]) -> str:
    reached, possible = summed(found)
    open_points = sum(1 for each in found if each.points is None)
    left = f"; {open_points} not scored" if open_points else ""
    return f"{reached:g} of {possible:g}{left}"


def _cell(row: LineupRow, lineup: Lineup) -> str:
    place = f"  {place_of(row, lineup)}" if row.rank is not None and len(lineup.rows) > 1 else ""
    return f"{figure_of(row, lineup)}{place}"
