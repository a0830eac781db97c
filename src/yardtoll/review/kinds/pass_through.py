"""Loads with the wall connected as a kind of run: who carries them, and what is left to charge."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.conformance.scorecard import Evidence
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.output import worked
from yardtoll.core.output.pass_through import (
    CAME_BACK,
    FIELDS,
    PRIORITIES,
    Carried,
    PassResult,
    analyse_pass_through,
)
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.report.charts.outputs import balance_scene
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.review.budgets import EXACT, watts_budget
from yardtoll.review.evidence import trusted
from yardtoll.review.kinds.tables import TableKind, lines_of
from yardtoll.review.outcome import Outcome
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns


@dataclass(frozen=True, kw_only=True)
class PassOutcome(Outcome):
    """Every step."""

    result: PassResult


class PassThrough(TableKind):
    """Watts in and out, step by step."""

    order = 58
    fields = FIELDS

    def analyse(self, run: RunAnalysis) -> PassOutcome:
        """Steps by rising load."""
        result = analyse_pass_through(lines_of(run, "no step"))
        if not result.steps:
            raise UnusableDataError("no line has a load and the watts from the wall")
        figures = []
        if result.carried_w is not None:
            figures.append(
                Figure(
                    key="carried_w", title="Carried by the wall", value=result.carried_w, unit="W",
                    budget=watts_budget(result.carried_w, run), worked=worked.carried(result),
                )
            )  # fmt: skip
        if result.worst_open_w is not None:
            figures.append(
                Figure(
                    key="open_w",
                    title="Balance open by",
                    value=result.worst_open_w,
                    unit="W",
                    worked=worked.left_open(result),
                )
            )
        figures.append(Figure(key="steps", title="Steps", value=float(len(result.steps))))
        return PassOutcome(result=result, figures=tuple(figures))

    def headline(self, run: RunAnalysis) -> str:
        """Like "The wall carries 1000 W; at 1400 W the battery helps"."""
        result = _result(run)
        if not result.was_loaded:
            return "No load was on: what the wall carries is not known"
        if result.carried_w is None:
            return "The wall carried no load: no pass-through"
        said = f"The wall carries {result.carried_w:.0f} W"
        if result.gave_way_w is None:
            return f"{said}, the highest load tried"
        first = next(s for s in result.steps if s.output_w == result.gave_way_w)
        what = {
            Carried.BOTH: "the battery helps",
            Carried.BATTERY: "it lets go of the wall",
            Carried.OFF: "the outlet goes off",
        }.get(first.carried, "it does not")
        return f"{said}; at {result.gave_way_w:.0f} W {what}"

    def output_words(self, run: RunAnalysis) -> Iterator[str]:
        """The battery's share, how the wall came back, how the balance closes, priorities."""
        result = _result(run)
        for step in result.steps:
            if step.battery_share > 0.05 and step.output_w:
                share = 100 * step.battery_share
                yield (
                    f"At {step.output_w:.0f} W the wall gave {step.input_w:.0f} W and the battery "
                    f"{step.battery_w:.0f} W or more, {share:.0f} % of the load."
                )
            if step.came_back:
                back = dict(CAME_BACK).get(step.came_back, step.came_back)
                yield f"After {step.output_w:.0f} W the wall came back {back}."
        if result.worst_open_w is not None:
            closes = all(step.closes is not False for step in result.steps)
            what = "conversion and the display's error" if closes else "something is not counted"
            yield (
                "Input less load less what the display says the battery took is open by "
                f"{result.worst_open_w:.0f} W at the most: {what}."
            )
        priorities = dict.fromkeys(s.priority for s in result.steps)
        if len(priorities) > 1:
            for priority in priorities:
                mine = [s for s in result.steps if s.priority == priority]
                taken = max(s.input_w for s in mine)
                sun = max(s.sun_w for s in mine)
                named = dict(PRIORITIES).get(priority, priority)
                yield f"{named.capitalize()}: up to {taken:.0f} W from the wall" + (
                    f" and {sun:.0f} W from the sun." if sun else "."
                )

    def scenes(self, run: RunAnalysis, size: tuple[float, float], palette: Palette) -> list[Scene]:
        """Each load as a bar."""
        return [balance_scene(_result(run), *size, palette)]

    def findings(
        self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]
    ) -> Iterator[Finding]:
        """Whether a load runs from the wall."""
        result = _result(run)
        if not result.was_loaded:
            return
        yield Finding(
            kind="pass_through", value=float(result.passes_through), budget=EXACT,
            agrees=result.passes_through, runs=(run.run.number,), method=run.run.method,
            seen=f"in run {run.run.number}: {self.headline(run)}",
        )  # fmt: skip

    def evidence(self, run: RunAnalysis, station: StationRuns) -> dict[str, Evidence]:
        """Feeds a load while it charges."""
        outcome = run.outcome
        if not isinstance(outcome, PassOutcome) or not outcome.result.was_loaded:
            return {}
        words = f"{self.headline(run)} in run {run.run.number}"
        words = words[:1].lower() + words[1:]
        return {"pass_through": trusted(float(outcome.result.passes_through), words, run)}


def _result(run: RunAnalysis) -> PassResult:
    assert isinstance(run.outcome, PassOutcome)
    return run.outcome.result


KIND = PassThrough()
