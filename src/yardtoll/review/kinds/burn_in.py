"""Burn-ins as a kind of run: delivered per cycle, its drift, temperature, what failed."""

from collections.abc import Iterator
from dataclasses import dataclass

from yardtoll.core.endurance import worked
from yardtoll.core.endurance.burn_in import FIELDS, BurnIn, Drift, burn_in_of
from yardtoll.core.formatting import counted, format_with_uncertainty
from yardtoll.core.uncertainty.budget import Budget, Contribution, Evaluation
from yardtoll.core.uncertainty.figure import Figure, Style
from yardtoll.report.charts.burn_in import burn_in_scene
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.review.kinds.tables import TableKind, lines_of
from yardtoll.review.outcome import Outcome
from yardtoll.review.run_analysis import RunAnalysis

_MOST_NAMED = 4


@dataclass(frozen=True, kw_only=True)
class BurnInOutcome(Outcome):
    """Every cycle."""

    burn_in: BurnIn


class BurnInKind(TableKind):
    """A table of cycles."""

    order = 64
    fields = FIELDS

    def analyse(self, run: RunAnalysis) -> BurnInOutcome:
        """Cycles in their order, and the line through them."""
        found = burn_in_of(lines_of(run, "no cycle"))
        figures = [
            Figure(
                key="through_kwh", title="Through it", value=found.delivered_kwh, unit="kWh",
                note=f" in {counted(len(found.cycles), 'cycle')}",
            )
        ]  # fmt: skip
        if found.drift is not None:
            figures.append(
                Figure(
                    key="drift", title="Drift", value=found.drift.share,
                    budget=_budget(found.drift), style=Style.PERCENT,
                    note=f" over {found.drift.over_kwh:.0f} kWh", worked=worked.drift(found.drift),
                )
            )  # fmt: skip
        return BurnInOutcome(burn_in=found, figures=tuple(figures))

    def headline(self, run: RunAnalysis) -> str:
        """Like "103 kWh in 55 cycles; delivers 1.8 ± 0.5 % less than at first"."""
        found = _found(run)
        said = f"{found.delivered_kwh:.0f} kWh in {counted(len(found.cycles), 'cycle')}"
        if found.drift is not None:
            said += f"; {_drift_words(found.drift)}"
        if found.failures:
            said += f"; {counted(len(found.failures), 'failure')}"
        return said

    def output_words(self, run: RunAnalysis) -> Iterator[str]:
        """The drift and what it is not, scatter, temperatures, failures."""
        found = _found(run)
        if found.drift is not None and found.scatter is not None:
            yield (
                f"From cycle to cycle it scatters by {100 * found.scatter:.2f} % (standard "
                f"deviation about the line through {found.drift.cycles} cycles)."
            )
        else:
            yield "With fewer than four whole cycles nothing is said of a drift."
        yield (
            "A claimed cycle life is not tested by this: a drift over so few cycles cannot be "
            "carried on to thousands."
        )
        if found.round_trip is not None:
            yield f"Delivered of drawn over its cycles: {100 * found.round_trip:.1f} %."
        yield from _heat(found)
        for cycle in found.failures[:_MOST_NAMED]:
            yield f"Cycle {cycle.cycle:g}: {cycle.failed} ({cycle.delivered_wh:.0f} Wh)."
        if len(found.failures) > _MOST_NAMED:
            yield f"And {len(found.failures) - _MOST_NAMED} more failures, in the table."

    def scenes(self, run: RunAnalysis, size: tuple[float, float], palette: Palette) -> list[Scene]:
        """Each cycle as a dot over what went through before it."""
        return [burn_in_scene(_found(run), *size, palette)]


def _found(run: RunAnalysis) -> BurnIn:
    assert isinstance(run.outcome, BurnInOutcome)
    return run.outcome.burn_in


def _budget(drift: Drift) -> Budget:
    return Budget.of(
        "",
        [
            Contribution(
                name="Scatter of the cycles",
                why=f"about the line through {drift.cycles} of them; the meter's gain cancels",
                u=drift.expanded / 2,
                evaluation=Evaluation.A,
            )
        ],
    )


def _drift_words(drift: Drift) -> str:
    shown = format_with_uncertainty(100 * abs(drift.share), 100 * drift.expanded)
    if not drift.is_seen:
        return f"no drift is seen, {_signed(drift)}"
    return f"delivers {shown} % {'less' if drift.share < 0 else 'more'} than at first"


def _signed(drift: Drift) -> str:
    return f"{format_with_uncertainty(100 * drift.share, 100 * drift.expanded)} %".replace("-", "−")


def _heat(found: BurnIn) -> Iterator[str]:
    for title, values in (
        ("The room", [c.temperature_c for c in found.cycles if c.temperature_c is not None]),
        ("The station", [c.case_c for c in found.cycles if c.case_c is not None]),
    ):
        if values:
            yield f"{title} was between {min(values):.0f} °C and {max(values):.0f} °C."


KIND = BurnInKind()
