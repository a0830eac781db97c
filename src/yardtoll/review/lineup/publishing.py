"""A comparison as it is published: HTML, Markdown, CSV, and words for a video's description."""

import csv
import io
from collections.abc import Iterator
from html import escape

from yardtoll.report.charts.lineup import LineupScene
from yardtoll.report.charts.palette import ON_PAPER
from yardtoll.report.charts.svg import to_svg
from yardtoll.review.lineup.lining import Lineup, LineupRow
from yardtoll.review.lineup.quantities import QUANTITIES
from yardtoll.review.lineup.shown import Answered, conditions_of, contestants
from yardtoll.review.lineup.words import figure_of, headline, place_of, ties_words, unit_of

CHART_W = 860.0
TITLE = "Stations side by side"
_RUNNABLE = ("=", "+", "-", "@", "\t", "\r", "'")
TIES = (
    "U is the expanded uncertainty, k = 2. Two figures are told apart where they differ by more "
    "than the U of their difference; what one meter does to both alike cancels. All others tie."
)
_COLUMNS = ("quantity", "unit", "station", "value", "U", "place", "ties", "conditions", "run",
            "yard", "why not")  # fmt: skip


def chart_of(lineup: Lineup, answered: Answered, width: float = CHART_W) -> LineupScene:
    """One quantity as a picture on paper."""
    return LineupScene(
        title=headline(lineup, answered.asked),
        unit=unit_of(lineup),
        rows=contestants(lineup),
        width=width,
        palette=ON_PAPER,
        left_is_better=not QUANTITIES[lineup.quantity].higher_is_better,
    )


def with_figures(answered: Answered) -> list[Lineup]:
    """Those in which at least one station has a figure."""
    return [lineup for lineup in answered.lineups.values() if lineup.rows]


def as_csv(answered: Answered) -> str:
    """A line for each station in each quantity; no cell can run in a spreadsheet."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(_COLUMNS)
    for lineup in answered.lineups.values():
        for cells in _lines(lineup):
            writer.writerow([_harmless(cell) for cell in cells])
    return out.getvalue()


def _lines(lineup: Lineup) -> Iterator[list[str]]:
    about = QUANTITIES[lineup.quantity]
    head = [about.title, unit_of(lineup)]
    for row in lineup.rows:
        scaled = [repr(about.scale * row.value), ""]
        if row.expanded is not None:
            scaled[1] = repr(about.scale * row.expanded)
        run = str(row.run) if row.run is not None else ""
        yield [
            *head, row.station, *scaled, place_of(row, lineup), "; ".join(row.ties),
            conditions_of(row), run, row.entrant.bench, "",
        ]  # fmt: skip
    for left in lineup.left_out:
        yield [*head, left.station, "", "", "", "", "", "", left.entrant.bench, left.why]


def _harmless(cell: str) -> str:
    is_number = cell[1:2].isdigit() and cell.startswith("-")
    return f"'{cell}" if cell.startswith(_RUNNABLE) and not is_number else cell


def as_markdown(answered: Answered) -> str:
    """A heading and a table for each quantity."""
    parts = [f"# {TITLE}", "", TIES, ""]
    for lineup in with_figures(answered):
        parts += [f"## {_plain(headline(lineup, answered.asked))}", "", condition_of(lineup), ""]
        parts += ["| station | figure | place | conditions |", "|---|---|---|---|"]
        parts += [f"| {' | '.join(map(_plain, cells))} |" for cells in rows_shown(lineup)]
        parts.append("")
    return "\n".join(parts)


def as_description(answered: Answered) -> str:
    """Plain words for a video's description: a finding a line, and how they were found."""
    lines = [f"{headline(lineup, answered.asked)}." for lineup in with_figures(answered)]
    out = [f"Not compared: {words}" for words in _left_out(answered)]
    return "\n".join([*lines, "", TIES, *(["", *out] if out else [])])


def _left_out(answered: Answered) -> list[str]:
    return [
        f"{QUANTITIES[lineup.quantity].title.lower()}, {left.station}: {left.why}."
        for lineup in with_figures(answered)
        for left in lineup.left_out
    ]


def as_html(answered: Answered) -> str:
    """One page that needs no other file: charts, tables, conditions."""
    parts = [
        f"<!doctype html><html lang=en><meta charset=utf-8><title>{TITLE}</title>",
        f"<style>{_STYLE}</style><main><h1>{TITLE}</h1><p>{escape(TIES)}</p>",
    ]
    for lineup in with_figures(answered):
        parts.append(f"<section><h2>{escape(headline(lineup, answered.asked))}</h2>")
        parts.append(f"<p class=quiet>{escape(condition_of(lineup))}</p>")
        parts.append(to_svg(chart_of(lineup, answered).scene()))
        parts.append("<table><tr><th>Station<th>Figure<th>Place<th>Conditions")
        rows = (map(escape, cells) for cells in rows_shown(lineup))
        parts += [f"<tr><td>{'<td>'.join(cells)}" for cells in rows]
        parts.append("</table></section>")
    return "".join([*parts, "</main></html>"])


def rows_shown(lineup: Lineup) -> list[tuple[str, str, str, str]]:
    """Station, figure, place and conditions, those that were left out last."""
    rows = [
        (row.station, figure_of(row, lineup), _place(row, lineup), _evidence(row))
        for row in lineup.rows
    ]
    return [*rows, *((left.station, "not compared", "–", left.why) for left in lineup.left_out)]


_STYLE = (
    "body{background:#F7F4EC;color:#1C2321;font:16px/1.5 Barlow,sans-serif;margin:0}"
    "main{max-width:60rem;margin:auto;padding:2rem 1rem}h1{font-size:1.9rem}h2{font-size:1.2rem;"
    "margin:2rem 0 .2rem}.quiet{color:#5B635F;margin:0 0 .6rem}svg{max-width:100%;height:auto}"
    "table{border-collapse:collapse;width:100%;font-variant-numeric:tabular-nums}"
    "th,td{text-align:left;padding:.3rem .8rem .3rem 0;border-bottom:1px solid #D8D1C0;"
    "vertical-align:top}section{break-inside:avoid}"
)


def condition_of(lineup: Lineup) -> str:
    """What all in it were tested under, as a sentence; "" where nothing is asked."""
    about = QUANTITIES[lineup.quantity]
    said = about.conditions[:1].upper() + about.conditions[1:]
    return f"{said}." if said else ""


def _place(row: LineupRow, lineup: Lineup) -> str:
    return ", ".join(filter(None, (place_of(row, lineup), ties_words(row))))


def _evidence(row: LineupRow) -> str:
    """Under what conditions, and the run it came from."""
    at = conditions_of(row)
    return at if not row.note or row.note == at else f"{at} · {row.note}".strip(" ·")


def _plain(text: str) -> str:
    """In a table of Markdown a bar would end the cell."""
    return text.replace("\\", "\\\\").replace("|", "\\|").replace("\n", " ")
