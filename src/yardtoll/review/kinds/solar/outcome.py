"""Results of a charge by panels; apart from its analysis, which loads the sun's models."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from yardtoll.review.kinds.charge.analysis import ChargeOutcome
from yardtoll.review.outcome import Outcome
from yardtoll.review.run_analysis import RunAnalysis

if TYPE_CHECKING:
    from yardtoll.review.kinds.solar.sunlight import Sunlight


@dataclass(frozen=True, kw_only=True)
class SolarOutcome(Outcome):
    """The results of a charge by panels.

    Attributes:
        charge: None where it has no result.
        light: what the sun allowed; None where the log has no watts.
    """

    charge: ChargeOutcome | None
    light: "Sunlight | None"


def sunlight_in(run: RunAnalysis) -> "Sunlight | None":
    """What the sun allowed a run; None for every run without panels."""
    return run.outcome.light if isinstance(run.outcome, SolarOutcome) else None
