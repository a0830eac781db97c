"""What the Outputs view shows: a page for each test at the outlets, for one run of it."""

from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.methods import METHODS
from yardtoll.core.output.entries import CAPTURE, EntryField, Fields, number_in
from yardtoll.core.uncertainty.figure import Figure, Style
from yardtoll.report.charts.palette import ON_PAPER
from yardtoll.review.kinds import kind_of
from yardtoll.review.output_tests import POWERS, OutputTest
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.store.records import Entry, Run
from yardtoll.store.shown_region import day
from yardtoll.store.site_time import local


def held_runs(analyses: Sequence[RunAnalysis]) -> list[RunAnalysis]:
    """Runs about a power, and any other whose load went over the rating."""
    size = (400.0, 200.0)
    return [
        a
        for a in analyses
        if METHODS[a.run.method] in POWERS
        or (not a.method.is_table and kind_of(a.run.method).scenes(a, size, ON_PAPER))
    ]


@dataclass(frozen=True, kw_only=True)
class Page:
    """What one run of a test says.

    Attributes:
        pictures: titles of the pictures, in order.
        figures: with their ±; of powers held the sentences say them.
        steps: what to do, where there is nothing yet.
        cautions: what to take care of.
    """

    headline: str
    words: tuple[str, ...]
    pictures: tuple[str, ...]
    figures: tuple[Figure, ...] = ()
    steps: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()

    @property
    def lines(self) -> list[tuple[str, str]]:
        """Every sentence with the sign in front of it."""
        return [
            *(("·", said) for said in self.words),
            *((f"{number}", step) for number, step in enumerate(self.steps, 1)),
            *(("!", caution) for caution in self.cautions),
        ]


def page_of(
    test: OutputTest,
    run: Run | None,
    analysis: RunAnalysis | None,
    beside: tuple[str, ...] = (),
    *,
    are_all_there: bool = True,
) -> Page:
    """Headline, sentences and pictures; what to do first where there is no run yet.

    Args:
        beside: what other runs of the station say of the same matter.
        are_all_there: no run of the station is still being worked out; one of them may be of this.
    """
    if run is None and are_all_there:
        steps, cautions = _steps(test)
        return Page(
            headline=_first_words(test),
            words=(*_aim(test), *beside),
            pictures=(),
            steps=steps,
            cautions=cautions,
        )
    if run is None or analysis is None:
        return Page(headline="Working it out…", words=(), pictures=())
    if not analysis.has_outcome:
        said, (steps, cautions) = analysis.problem, _steps(test)
        return Page(
            headline=_first_words(test) if not analysis.records.entries else "Nothing to show yet",
            words=(f"{said[:1].upper()}{said[1:]}.", *beside),
            pictures=(),
            steps=steps,
            cautions=cautions,
        )
    kind = kind_of(run.method)
    scenes = kind.scenes(analysis, (600.0, 300.0), ON_PAPER)
    words = [*kind.output_words(analysis), *beside]
    if analysis.method.is_table:
        words += [f"{n.message[:1].upper()}{n.message[1:]}." for n in analysis.notices]
    if analysis.is_void:
        words.insert(0, f"This run is void: {run.void_reason or 'no reason given'}.")
    return Page(
        headline=kind.output_headline(analysis),
        words=tuple(words),
        pictures=tuple(scene.title for scene in scenes),
        figures=_shown_figures(analysis) if analysis.method.is_table else (),
        cautions=_steps(test)[1],
    )


def _shown_figures(analysis: RunAnalysis) -> tuple[Figure, ...]:
    """Those that measure something, and not the count of lines."""
    return tuple(f for f in analysis.outcome.figures if f.unit or f.style is Style.PERCENT)


def run_words(run: Run) -> str:
    """A run in the chooser."""
    method = "" if METHODS[run.method].is_table else f", {METHODS[run.method].title.lower()}"
    return f"Run {run.number}, {day(local(run.started_at))}{method}"


def table_of(
    test: OutputTest, entries: Sequence[Entry], analysis: RunAnalysis | None = None
) -> tuple[list[str], list[list[str]]]:
    """(column titles, rows of cells); columns that no line fills are left out.

    What a capture tells goes before what was typed.
    """
    told = analysis.outcome.told if analysis is not None else {}
    lines = [{**entry.fields, **told.get(entry.id or 0, {})} for entry in entries]
    fields = [
        field
        for field in test.fields
        if field.in_list
        and (field.needed or any(line.get(field.key) not in (None, "") for line in lines))
    ]
    has_capture = any(CAPTURE in entry.fields for entry in entries)
    titles = [field.title for field in fields] + (["From"] if has_capture else [])
    rows = []
    for entry, line in zip(entries, lines, strict=True):
        cells = [_cell(field, line) for field in fields]
        if has_capture:
            cells.append("a capture" if number_in(entry.fields, CAPTURE) is not None else "typed")
        rows.append(cells)
    return titles, rows


def _cell(field: EntryField, values: Fields) -> str:
    value = values.get(field.key)
    return field.shown(value) if value is not None and value != "" else ""


def _first_words(test: OutputTest) -> str:
    return f"{test.title}: not tried yet" if test.method is not None else "No power was held yet"


def _aim(test: OutputTest) -> tuple[str, ...]:
    return (test.method.aim,) if test.method is not None else ()


def _steps(test: OutputTest) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """What to do, and what to take care of."""
    if test.method is None:
        powers = " or ".join(f"“{m.title}”" for m in POWERS)
        steps = (
            f"Plan {powers}, or import a log of one: each step's seconds, what ended it and how "
            "the station came back are shown here.",
            "Loads that went over the rating in any other run are found and listed too.",
        )
        return steps, POWERS[-1].cautions
    return test.method.steps, test.method.cautions
