"""Charges from the wall, a car or a USB-C charger as a kind of run."""

from collections.abc import Iterator, Sequence

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.conformance.scorecard import Evidence
from yardtoll.core.formatting import format_span
from yardtoll.core.methods import Method
from yardtoll.core.uncertainty.figure import Figure, Style
from yardtoll.core.uncertainty.run_budgets import run_time_budget
from yardtoll.review.display_words import audit_words
from yardtoll.review.evidence import trusted
from yardtoll.review.kinds.charge.analysis import ChargeOutcome, analyse
from yardtoll.review.kinds.charge.findings import charge_findings
from yardtoll.review.kinds.charge.other_sources import set_against_drawn
from yardtoll.review.kinds.charge.page import charge_page
from yardtoll.review.kinds.kind import RunKind
from yardtoll.review.outcome import Outcome
from yardtoll.review.page import RunPage
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.beside import inputs_beside
from yardtoll.review.station.outlet_runs import WHOLE_CHARGE
from yardtoll.review.station.runs import StationRuns


class Charge(RunKind):
    """The station takes energy in."""

    order = 20

    def serves(self, method: Method) -> bool:
        """Methods that charge without panels."""
        return method.charges and not method.uses_panels

    def analyse(self, run: RunAnalysis) -> Outcome:
        """Energy, phases, times and the display."""
        return analyse(run)

    def caption(self, run: RunAnalysis) -> str:
        """Like "1946 ± 10 Wh drawn"."""
        return f"{super().caption(run)} drawn" if run.has_outcome else ""

    def page(self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]) -> RunPage:
        """What was drawn, and the cycle it closes."""
        assert isinstance(run.outcome, ChargeOutcome)
        return charge_page(run, run.outcome, station, claims)

    def findings(
        self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]
    ) -> Iterator[Finding]:
        """Watts, times and amps."""
        yield from charge_findings(run, station, claims)

    def remarks(self, run: RunAnalysis) -> Iterator[str]:
        """Watts set against drawn, and the display against the meter."""
        if run.energy_in is not None and (said := set_against_drawn(run)):
            yield said
        outcome = run.outcome
        if isinstance(outcome, ChargeOutcome) and outcome.audit is not None:
            yield from audit_words(outcome.audit)

    def station_facts(self, station: StationRuns) -> list[Figure]:
        """The hours of the last charge that one source did alone: the wall's, where there is one.

        A day of sun does not show the charger's hours, and hours shared by two inputs do not
        belong to either.
        """
        charges = [
            a
            for a in station.analyses
            if a.energy_in is not None and a.is_finished and not inputs_beside(a, station)
        ]
        charges.sort(key=lambda a: a.energy_in is None or not a.energy_in.by_sun)
        charged = charges[-1].energy_in if charges else None
        if charged is None or not charged.result.duration_s:
            return []
        title = f"Charged in, from the {charged.source.name}"
        low, high = charged.result.soc
        if high - low < WHOLE_CHARGE:
            title += f", {low:g} → {high:g} %"
        return [
            Figure(
                key="charged_in_s",
                title=title,
                value=charged.result.duration_s,
                unit="s",
                budget=run_time_budget(charged.result),
                style=Style.HOURS,
            )
        ]

    def evidence(self, run: RunAnalysis, station: StationRuns) -> dict[str, Evidence]:
        """The hours from empty to full: to the display's 100 %, else by the power."""
        charged = run.energy_in
        if charged is None or not charged.source.full_point or not charged.result.duration_s:
            return {}
        result = charged.result
        if result.soc[1] - result.soc[0] < WHOLE_CHARGE:
            return {}
        took_s = charged.result.duration_s
        full = [r.s for r in result.readings if r.soc >= 100.0]
        if full:
            took_s = min(took_s, *full)
        until = "until the display said 100 % " if full else ""
        words = f"{format_span(took_s)} {until}in run {run.run.number}"
        return {charged.source.full_point: trusted(took_s / 3600, words, run)}

    def latest_words(self, run: RunAnalysis) -> str:
        """Like "1946 Wh drawn in 1 h 44 min"."""
        charged = run.energy_in
        if charged is None:
            return ""
        took = charged.result.duration_s
        return f"{charged.drawn_wh:.0f} Wh drawn" + (f" in {format_span(took)}" if took else "")


KIND = Charge()
