"""What a kind of run is: one object that knows how such runs are analysed, described and judged."""

from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.conformance.scorecard import Evidence
from yardtoll.core.conformance.verdict import Rule
from yardtoll.core.conformance.yardsticks import Yardstick
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.methods import Method
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.report.charts.curve import Curve
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.review.outcome import Outcome
from yardtoll.review.page import RunPage
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns, station_runs
from yardtoll.review.yardstick_rows import YardstickRow


def power_curve(run: RunAnalysis) -> Curve | None:
    """A run's power over time in the colour of its energy; None without samples of power."""
    if run.trace is None:
        return None
    time_s, power_w = run.trace.valid(Quantity.POWER)
    if time_s.size < 2:
        return None
    number = run.run.number
    return Curve(
        key=f"run-{number}",
        title=f"Run {number}, {run.method.title}",
        kind=run.method.energy,
        time_s=time_s,
        power_w=power_w,
    )


class RunKind(ABC):
    """A kind of run. A new one needs ``serves`` and ``analyse``; the rest has sensible defaults."""

    order = 100
    """Its place among the kinds, where several speak of one station."""

    @abstractmethod
    def serves(self, method: Method) -> bool:
        """Whether runs of a method are of this kind."""

    @abstractmethod
    def analyse(self, run: RunAnalysis) -> Outcome:
        """The results of a run.

        Args:
            run: its records and samples, with no outcome yet.

        Raises:
            UnusableDataError: it gives no result.
        """

    def caption(self, run: RunAnalysis) -> str:
        """The result in the fewest words, for lists and lanes."""
        figure = run.main_figure
        return figure.brief if figure is not None else ""

    def page(self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]) -> RunPage:
        """Its page under Ledger: headline, figures and sentences."""
        figure = run.main_figure
        assert figure is not None
        return RunPage(headline=f"{figure.title}: {figure.shown}", figures=run.outcome.figures)

    def findings(
        self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]
    ) -> Iterator[Finding]:
        """What it says of the kinds of claims its method speaks to."""
        yield from ()

    def station_findings(self, station: StationRuns) -> Iterator[Finding]:
        """What a station's runs of this kind say together."""
        yield from ()

    def station_facts(self, station: StationRuns) -> list[Figure]:
        """The few figures that a report shows large."""
        return []

    def station_results(self, station: StationRuns) -> list[Figure]:
        """Further figures for a report's table of results."""
        return []

    def yardstick_rows(
        self, station: StationRuns, yardstick: Yardstick, rule: Rule
    ) -> list[YardstickRow]:
        """Its runs against a yardstick that speaks to them."""
        return []

    def evidence(self, run: RunAnalysis, station: StationRuns) -> dict[str, Evidence]:
        """What it gives for the scorecard, by the scorecard's quantities."""
        return {}

    def station_evidence(self, station: StationRuns) -> dict[str, Evidence]:
        """What a station's runs of this kind give together for the scorecard."""
        return {}

    def remarks(self, run: RunAnalysis) -> Iterator[str]:
        """What else a reader of a report would want to know of it, in sentences."""
        yield from ()

    def curve(self, run: RunAnalysis) -> Curve | None:
        """Its power over time, as a report shows it; None where it is not worth showing."""
        return power_curve(run) if run.is_finished else None

    def scenes(self, run: RunAnalysis, size: tuple[float, float], palette: Palette) -> list[Scene]:
        """Its pictures under Outputs and on a report, the one that answers most first.

        Args:
            size: width and height of one in pixels; a picture of rows may be less high.
        """
        return []

    def output_headline(self, run: RunAnalysis) -> str:
        """What was found at the sockets, in one sentence without its full stop."""
        return self.page(run, station_runs([run]), run.records.claims).headline

    def output_words(self, run: RunAnalysis) -> Iterator[str]:
        """What it says of the sockets, in sentences: a report has a part for them."""
        yield from ()

    def beside_words(self, station: StationRuns) -> Iterator[str]:
        """What a station's other runs say of the same matter, in sentences, for Outputs."""
        yield from ()

    def latest_words(self, run: RunAnalysis) -> str:
        """A run that has just ended, in one sentence without its full stop."""
        return self.caption(run)
