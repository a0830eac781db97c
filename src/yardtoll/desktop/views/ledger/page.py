"""What the Ledger view shows of one run, whatever its kind."""

from dataclasses import dataclass

from yardtoll.core.ledger import Ledger


@dataclass(frozen=True, kw_only=True)
class LedgerPage:
    """One run's ledger in words and figures.

    Attributes:
        words: what else the runs and readings say, in sentences.
    """

    headline: str
    subtitle: str
    ledger: Ledger | None
    expanded_wh: float | None
    figures: tuple[tuple[str, str], ...]
    budget: tuple[tuple[str, str], ...]
    notices: tuple[str, ...]
    words: tuple[str, ...] = ()
