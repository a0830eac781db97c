"""Packs through a run as a kind of run: the charge of each, and how far they were apart."""

from collections.abc import Iterator
from dataclasses import dataclass

from yardtoll.core.formatting import counted, format_span
from yardtoll.core.output.packs import FIELDS, PacksResult, packs_of
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.report.charts.packs import packs_scene
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.review.kinds.tables import TableKind, lines_of
from yardtoll.review.outcome import Outcome
from yardtoll.review.run_analysis import RunAnalysis

_MINUTE_S = 60.0


@dataclass(frozen=True, kw_only=True)
class PacksOutcome(Outcome):
    """Every pack."""

    packs: PacksResult


class Packs(TableKind):
    """A table of the packs' displays."""

    order = 63
    fields = FIELDS

    def analyse(self, run: RunAnalysis) -> PacksOutcome:
        """Readings by time and pack."""
        found = packs_of(lines_of(run, "no reading of a pack"))
        figures = [Figure(key="packs", title="Packs", value=float(len(found.packs)))]
        if found.apart is not None:
            figures.insert(
                0,
                Figure(key="apart_points", title="Furthest apart", value=found.apart[1],
                       unit="points", note=f" after {_after(found.apart[0])}"),
            )  # fmt: skip
        return PacksOutcome(packs=found, figures=tuple(figures))

    def headline(self, run: RunAnalysis) -> str:
        """Like "3 packs, 7 points apart at the most, after 2 h 10 min"."""
        found = _found(run)
        said = counted(len(found.packs), "pack")
        if found.apart is None:
            return f"{said}, never read together"
        minute, points = found.apart
        return f"{said}, {points:.0f} points apart at the most, after {_after(minute)}"

    def output_words(self, run: RunAnalysis) -> Iterator[str]:
        """What each had last, and how far whole points can be trusted."""
        found = _found(run)
        ends = ", ".join(
            f"{pack} {point.soc_percent:g} % after {_after(point.minute)}"
            for pack, point in found.last.items()
        )
        yield f"Read last: {ends}."
        if found.apart is None:
            yield "Packs are compared where two of them were read within two minutes."
        elif found.apart[1] <= 1:
            yield "Displays of whole points cannot tell one point from none."

    def scenes(self, run: RunAnalysis, size: tuple[float, float], palette: Palette) -> list[Scene]:
        """The charge of each over time."""
        return [packs_scene(_found(run), *size, palette)]


def _found(run: RunAnalysis) -> PacksResult:
    assert isinstance(run.outcome, PacksOutcome)
    return run.outcome.packs


def _after(minutes: float) -> str:
    return format_span(minutes * _MINUTE_S)


KIND = Packs()
