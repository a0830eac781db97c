"""The part of a sheet on what comes out of the sockets."""

from collections.abc import Iterator

from yardtoll.report.charts.palette import ON_PAPER
from yardtoll.report.charts.scene import Scene
from yardtoll.report.sheet.contents import OutputPart
from yardtoll.review.kinds import kind_of
from yardtoll.review.run_analysis import RunAnalysis, in_time
from yardtoll.review.station.runs import StationRuns

_SIZE = (520.0, 290.0)
_MOST_HELD = 3


def output_parts(found: StationRuns) -> Iterator[OutputPart]:
    """The latest run of each test that is kept as a table, and the latest about a power."""
    done = [a for a in in_time(found.analyses) if a.is_finished and a.has_outcome]
    tables = {a.run.method: a for a in done if a.method.is_table}
    held = [a for a in done if not a.method.is_table and _scenes(a)]
    order = list(tables.values())
    order.sort(key=lambda a: a.method.order)
    for analysis in (*order, *held[-_MOST_HELD:]):
        yield _part(analysis)


def _part(analysis: RunAnalysis) -> OutputPart:
    kind, number = kind_of(analysis.run.method), analysis.run.number
    return OutputPart(
        title=f"{analysis.method.title}, run {number}",
        finding=kind.output_headline(analysis),
        words=" ".join(kind.output_words(analysis)),
        scenes=tuple((f"outputs-{number}", scene) for scene in _scenes(analysis)[:1]),
    )


def _scenes(analysis: RunAnalysis) -> list[Scene]:
    return kind_of(analysis.run.method).scenes(analysis, _SIZE, ON_PAPER)
