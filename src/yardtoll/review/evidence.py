"""Evidence of a run for the scorecard."""

from yardtoll.core.conformance.scorecard import Evidence
from yardtoll.core.electrical.doubts import doubt_reason
from yardtoll.review.run_analysis import RunAnalysis


def trusted(value: float, words: str, run: RunAnalysis) -> Evidence:
    """Evidence of a run; one with a doubt that nobody has explained scores nothing."""
    return Evidence(value=value, words=words, doubt=doubt_reason(run.doubts) if run.doubts else "")
