"""Discharges as a kind of run."""

from collections.abc import Iterator, Sequence

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.conformance.scorecard import Evidence
from yardtoll.core.conformance.verdict import Rule
from yardtoll.core.conformance.yardsticks import Yardstick
from yardtoll.core.formatting import format_span
from yardtoll.core.methods import Method
from yardtoll.core.output.resets import reset_words
from yardtoll.core.uncertainty.figure import Figure, Style
from yardtoll.report.charts.outputs import steps_scene
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.review.display_words import audit_words
from yardtoll.review.kinds.discharge.analysis import DischargeOutcome, analyse
from yardtoll.review.kinds.discharge.evidence import of_capacity, of_dc_port
from yardtoll.review.kinds.discharge.findings import (
    capacity_findings,
    power_findings,
    supply_findings,
)
from yardtoll.review.kinds.discharge.held import (
    heat_words,
    held_headline,
    held_words,
    lowered_headline,
    lowered_words,
    overload_words,
    volts_words,
)
from yardtoll.review.kinds.discharge.page import discharge_page
from yardtoll.review.kinds.discharge.yardsticks import discharge_rows
from yardtoll.review.kinds.kind import RunKind
from yardtoll.review.page import RunPage
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.outlet_runs import nearest_to_usual
from yardtoll.review.station.repeats import station_energy
from yardtoll.review.station.runs import StationRuns
from yardtoll.review.yardstick_rows import YardstickRow


class Discharge(RunKind):
    """The station gives energy to a load, to empty or for a set time."""

    order = 10

    def serves(self, method: Method) -> bool:
        """Methods in which energy flows out."""
        return method.delivers

    def analyse(self, run: RunAnalysis) -> DischargeOutcome:
        """Energy, span, volts and the display."""
        return analyse(run)

    def page(self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]) -> RunPage:
        """Its ledger."""
        assert isinstance(run.outcome, DischargeOutcome)
        return discharge_page(run, run.outcome, station)

    def findings(
        self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]
    ) -> Iterator[Finding]:
        """Power held, surge, volts, hertz and amps."""
        yield from power_findings(run, claims)
        yield from supply_findings(run, claims)

    def remarks(self, run: RunAnalysis) -> Iterator[str]:
        """Loads over the rating; the display against the meter."""
        outcome = run.outcome
        if isinstance(outcome, DischargeOutcome):
            yield from lowered_words(run, outcome.result)
            if outcome.held is not None:
                yield from overload_words(outcome.held)
        if isinstance(outcome, DischargeOutcome) and outcome.audit is not None:
            yield from audit_words(outcome.audit)

    def scenes(self, run: RunAnalysis, size: tuple[float, float], palette: Palette) -> list[Scene]:
        """Its load in steps, where it was about a power or went over the rating."""
        outcome = run.outcome
        held = outcome.held if isinstance(outcome, DischargeOutcome) else None
        return [steps_scene(held, *size, palette)] if held is not None and held.steps else []

    def output_headline(self, run: RunAnalysis) -> str:
        """What was held, or what tripped."""
        outcome = run.outcome
        held = outcome.held if isinstance(outcome, DischargeOutcome) else None
        if held is None or not isinstance(outcome, DischargeOutcome):
            return self.caption(run)
        return lowered_headline(run, outcome.result) or held_headline(held)

    def output_words(self, run: RunAnalysis) -> Iterator[str]:
        """What was carried how long, what ended it, and how it came back."""
        outcome = run.outcome
        if isinstance(outcome, DischargeOutcome) and outcome.held is not None:
            yield from lowered_words(run, outcome.result)
            yield from held_words(outcome.held)
            yield from volts_words(outcome.held)
            yield from heat_words(run)
            yield from reset_words([entry.fields for entry in run.records.entries])

    def station_findings(self, station: StationRuns) -> Iterator[Finding]:
        """The energy to empty, by load."""
        yield from capacity_findings(station)

    def station_facts(self, station: StationRuns) -> list[Figure]:
        """What the station delivers at about 0.2 C, and the share of the rating that is."""
        usual = nearest_to_usual(station.analyses)
        if usual is None or usual.energy_out is None:
            return []
        measured = station_energy(usual, station)
        rated_wh = usual.station.rated_wh
        value = measured.value if measured is not None else usual.energy_out.delivered_wh
        budget = measured.budget if measured is not None else None
        return [
            Figure(
                key="delivered_wh",
                title="Delivered",
                value=value,
                unit="Wh",
                budget=budget,
                note="" if budget is not None else ", ± unknown",
            ),
            Figure(
                key="usable_ratio",
                title="Of rated",
                value=value / rated_wh,
                budget=budget.scaled(1 / rated_wh, "") if budget is not None else None,
                style=Style.PERCENT,
            ),
        ]

    def yardstick_rows(
        self, station: StationRuns, yardstick: Yardstick, rule: Rule
    ) -> list[YardstickRow]:
        """Delivered ÷ rated of every capacity run."""
        return discharge_rows(station, yardstick, rule)

    def evidence(self, run: RunAnalysis, station: StationRuns) -> dict[str, Evidence]:
        """Whether a DC port is regulated."""
        return of_dc_port(run)

    def station_evidence(self, station: StationRuns) -> dict[str, Evidence]:
        """The share of the rating that is delivered."""
        return of_capacity(station)

    def latest_words(self, run: RunAnalysis) -> str:
        """Like "1865 Wh in 4 h 32 min, 91.1 % of rated"."""
        out = run.energy_out
        if out is None:
            return ""
        length = format_span(out.result.duration_s or 0)
        return (
            f"{out.delivered_wh:.0f} Wh in {length}, {100 * out.result.usable_ratio:.1f} % of rated"
        )


KIND = Discharge()
