"""Charges that panels feed, alone or beside the wall, as a kind of run."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import partial

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.methods import Method
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.report.charts.curve import Curve
from yardtoll.review.kinds.charge.findings import charge_findings
from yardtoll.review.kinds.charge.kind import Charge
from yardtoll.review.kinds.charge.page import charge_page
from yardtoll.review.kinds.solar.noted import noted_sun_words
from yardtoll.review.kinds.solar.outcome import SolarOutcome, sunlight_in
from yardtoll.review.outcome import Outcome
from yardtoll.review.page import RunPage
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns


class Solar(Charge):
    """A charge whose hours are the sun's as much as the station's."""

    order = 30

    def serves(self, method: Method) -> bool:
        """Methods that charge with panels."""
        return method.charges and method.uses_panels

    def analyse(self, run: RunAnalysis) -> Outcome:
        """The charge, and what the sun allowed."""
        # The sun's models take a second to load, and only solar runs need them.
        from yardtoll.review.kinds.solar.analysis import analyse  # noqa: PLC0415

        return analyse(run)

    def page(self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]) -> RunPage:
        """What was drawn; what the sun allowed has a page of its own under Sun."""
        assert isinstance(run.outcome, SolarOutcome)
        assert run.outcome.charge is not None
        page = charge_page(run, run.outcome.charge, station, claims)
        return replace(page, words=(*page.words, *((said,) for said in noted_sun_words(run))))

    def remarks(self, run: RunAnalysis) -> Iterator[str]:
        """As of any charge, and what was noted of panels and shade."""
        yield from super().remarks(run)
        yield from noted_sun_words(run)

    def findings(
        self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]
    ) -> Iterator[Finding]:
        """Sustained watts in place of full power, the voltage window, hours to full."""
        from yardtoll.review.kinds.solar.findings import solar_findings  # noqa: PLC0415

        light = sunlight_in(run)
        watts = partial(solar_findings, run, light, station, claims) if light is not None else None
        yield from charge_findings(run, station, claims, watts)

    def station_facts(self, station: StationRuns) -> list[Figure]:
        """None of its own: the charger's hours are shown with the other charges."""
        return []

    def station_results(self, station: StationRuns) -> list[Figure]:
        """The share that each run took of what the sun allowed."""
        from yardtoll.review.kinds.solar.figures import performance_figure  # noqa: PLC0415

        found = []
        for run in station.analyses:
            light = sunlight_in(run)
            if light is None or not run.is_finished:
                continue
            figure = performance_figure(run, light)
            if figure is not None:
                found.append(figure)
        return found

    def curve(self, run: RunAnalysis) -> Curve | None:
        """Its power beside what the sun allowed."""
        curve, light = super().curve(run), sunlight_in(run)
        if curve is None or light is None:
            return curve
        return replace(curve, solar=light.run)


KIND = Solar()
