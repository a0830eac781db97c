"""What the Ledger view shows of one run, whatever its kind."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from yardtoll.core.electrical.trace import Code
from yardtoll.core.formatting import format_clock, format_with_uncertainty
from yardtoll.core.ledger.ledger import Ledger
from yardtoll.core.uncertainty.budget import Budget


@dataclass(frozen=True, kw_only=True)
class LedgerPage:
    """One run's ledger in words and figures.

    Attributes:
        words: what else the runs and readings say, in sentences.
        places: of the ledger's stages and tolls; None where one has no ±.
        budgets: by a figure's name, where its ± can be opened.
        in_words: by the figure itself, of those that stand in the words.
        doubts: everything found that the run cannot be trusted for, explained or not.
        doubtful: the same in sentences.
        explained: what the reviewer says of some of them, in sentences.
    """

    headline: str
    subtitle: str
    ledger: Ledger | None
    figures: tuple[tuple[str, str], ...]
    budget: tuple[tuple[str, str], ...]
    notices: tuple[str, ...]
    words: tuple[str, ...] = ()
    places: Sequence[Budget | None] = ()
    budgets: Mapping[str, Budget] = field(default_factory=dict)
    in_words: Mapping[str, Budget] = field(default_factory=dict)
    doubts: Sequence[Code] = ()
    doubtful: Sequence[str] = ()
    explained: Sequence[str] = ()


def duration_row(seconds: float, budget: Budget | None) -> tuple[str, str]:
    """Like ("Duration", "3:05:12 ± 2 s")."""
    shown = format_clock(seconds)
    if budget is not None:
        # The clock has whole seconds; a ± finer than that would say nothing.
        shown += f" ± {max(round(budget.expanded), 1)} s"
    return ("Duration", shown)


def power_shown(watts: float, budget: Budget | None) -> str:
    """Like "411.0 ± 2.4 W"."""
    return f"{format_with_uncertainty(watts, budget.expanded if budget else 0.0)} W"
