"""What a sheet says, ready to be set: words and figures, no yard behind them."""

from collections.abc import Mapping
from dataclasses import dataclass

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.ledger.ledger import Kind, Ledger
from yardtoll.core.sun.solar_run import SolarRun
from yardtoll.core.uncertainty.budget import Budget


@dataclass(frozen=True, kw_only=True)
class Claimed:
    """One claim with its verdict.

    Attributes:
        standing: "meets", "falls_short", "too_close_to_call", "not_tested", "cannot_be_judged".
        measured: the figure with its ±; "" where there is none.
    """

    title: str
    claimed: str
    source: str
    measured: str
    standing: str
    word: str
    sentence: str


@dataclass(frozen=True, kw_only=True)
class RunLine:
    """One run in the table of results; ``void`` holds the reason of a void one."""

    number: int
    date: str
    method: str
    load: str
    came_to: str
    duration: str
    meter: str
    void: str


@dataclass(frozen=True, kw_only=True)
class Curve:
    """A power trace as a chart: (n,) s and W, in the colour of its energy.

    Attributes:
        solar: of a solar run: what the sun allowed, and what limited it when.
    """

    key: str
    title: str
    kind: Kind
    time_s: FloatArray
    power_w: FloatArray
    solar: SolarRun | None = None


@dataclass(frozen=True, kw_only=True)
class Picture:
    """A photo, embedded as it was taken in."""

    caption: str
    media_type: str
    data: bytes


@dataclass(frozen=True, kw_only=True)
class Scoring:
    """One point of the scorecard as shown; ``got`` is "" where it is not scored."""

    title: str
    got: str
    evidence: str


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """Everything on one station's sheet.

    Attributes:
        finding: the headline as one sentence.
        facts: (name, figure) shown large.
        untested, stated: the claims that no run speaks to, and those nothing here could test, each
            in a sentence; "" for none.
        results: (name, figure, how it was found).
        ledger, ledger_title: of the run told; None where no run gives one.
        tolls: (name, Wh with its ±, evidence) of the ledger's gates.
        method: (name, words) of how it was measured.
        score_words: points got of those that have evidence.
        budgets: of the figures, by "fact:0", "claim:2", "result:1", "toll:0"; to be opened.
    """

    station: str
    subtitle: str
    finding: str
    summary: str
    facts: tuple[tuple[str, str], ...]
    claims: tuple[Claimed, ...]
    untested: str
    stated: str
    results: tuple[tuple[str, str, str], ...]
    runs: tuple[RunLine, ...]
    ledger: Ledger | None
    ledger_title: str
    tolls: tuple[tuple[str, str, str], ...]
    curves: tuple[Curve, ...]
    scoring: tuple[Scoring, ...]
    score_words: str
    pros: tuple[str, ...]
    cons: tuple[str, ...]
    method: tuple[tuple[str, str], ...]
    pictures: tuple[Picture, ...]
    cautions: tuple[str, ...]
    budgets: Mapping[str, Budget]
