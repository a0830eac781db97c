"""What the Ledger view shows of one run, whatever its kind."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from yardtoll.core.ledger import Ledger
from yardtoll.core.uncertainty.budget import Budget


@dataclass(frozen=True, kw_only=True)
class LedgerPage:
    """One run's ledger in words and figures.

    Attributes:
        words: what else the runs and readings say, in sentences.
        budgets: by a figure's name, where its ± can be opened.
    """

    headline: str
    subtitle: str
    ledger: Ledger | None
    expanded_wh: float | None
    figures: tuple[tuple[str, str], ...]
    budget: tuple[tuple[str, str], ...]
    notices: tuple[str, ...]
    words: tuple[str, ...] = ()
    budgets: Mapping[str, Budget] = field(default_factory=dict)
