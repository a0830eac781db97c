"""What a run's page shows, whatever its kind: plain content that a window or a shell can set."""

from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.electrical.trace import Code
from yardtoll.core.ledger.ledger import Ledger
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.figure import Figure, Sentence


@dataclass(frozen=True, kw_only=True)
class RunPage:
    """One run in words and figures.

    Attributes:
        words: what else the runs and readings say, in sentences.
        places: of the ledger's stages and tolls; None where one has no ±.
        budget: (line, its share of U) of the main figure; what to do where there is none.
        doubts: everything found that the run cannot be trusted for, explained or not.
        doubtful: the same in sentences.
        explained: what the reviewer says of some of them, in sentences.
    """

    headline: str
    subtitle: str = ""
    ledger: Ledger | None = None
    figures: tuple[Figure, ...] = ()
    budget: tuple[tuple[str, str], ...] = ()
    notices: tuple[str, ...] = ()
    words: tuple[Sentence, ...] = ()
    places: Sequence[Budget | None] = ()
    doubts: Sequence[Code] = ()
    doubtful: Sequence[str] = ()
    explained: Sequence[str] = ()
