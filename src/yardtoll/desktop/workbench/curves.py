"""A run's power as a curve, read and made ready to be drawn on a worker."""

from dataclasses import dataclass

from yardtoll.report.charts.curve import Curve
from yardtoll.review.kinds.kind import power_curve
from yardtoll.review.run_analysis import RunAnalysis


@dataclass(frozen=True)
class CurveQuestion:
    """Asks for the curve of a run."""

    analysis: RunAnalysis

    @property
    def title(self) -> str:
        """Of the work."""
        return f"The samples of run {self.analysis.run.number}"

    @property
    def key(self) -> object:
        """One analysis has one curve."""
        return (self.analysis.run.id, id(self.analysis))

    def answer(self) -> Curve | None:
        """The curve with its levels; None where the run has none."""
        curve = power_curve(self.analysis)
        if curve is not None:
            _ = curve.pyramid
        return curve
