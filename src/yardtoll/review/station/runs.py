"""All of a station's runs, and what those through its AC and its DC outlets say."""

from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.methods import Outlet
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.outlet_runs import OutletRuns, outlet_of, outlet_runs


@dataclass(frozen=True, kw_only=True)
class StationRuns:
    """A station's runs put together."""

    analyses: tuple[RunAnalysis, ...]
    ac: OutletRuns
    dc: OutletRuns

    def through(self, analysis: RunAnalysis) -> OutletRuns:
        """The runs through the same kind of outlet as this one; AC for what has none."""
        return self.dc if outlet_of(analysis) is Outlet.DC else self.ac


def station_runs(analyses: Sequence[RunAnalysis]) -> StationRuns:
    """Put a station's runs together."""
    return StationRuns(
        analyses=tuple(analyses),
        ac=outlet_runs(analyses, Outlet.AC),
        dc=outlet_runs(analyses, Outlet.DC),
    )
