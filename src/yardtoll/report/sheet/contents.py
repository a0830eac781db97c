"""What a sheet says, ready to be set: words and figures, no yard behind them."""

from dataclasses import dataclass

from yardtoll.core.ledger.ledger import Ledger
from yardtoll.core.region import INTERNATIONAL, Region
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.report.charts.curve import Curve
from yardtoll.report.charts.scene import Scene


@dataclass(frozen=True, kw_only=True)
class Claimed:
    """One claim with its verdict.

    Attributes:
        standing: "meets", "falls_short", "too_close_to_call", "not_tested", "cannot_be_judged".
        measured: the figure with its ±; "" where there is none.
        budget: of the figure, in its unit; None where it is not known.
    """

    title: str
    claimed: str
    source: str
    measured: str
    standing: str
    word: str
    sentence: str
    budget: Budget | None = None


@dataclass(frozen=True, kw_only=True)
class RunLine:
    """One run in the table of results; ``void`` holds the reason of a void one."""

    number: int
    date: str
    method: str
    load: str
    result_text: str
    duration: str
    meter: str
    void: str


@dataclass(frozen=True, kw_only=True)
class Picture:
    """A photo, embedded."""

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
class OutputPart:
    """What one test at the outlets found.

    Attributes:
        finding: in one sentence without its full stop.
        scenes: its pictures, by their names among the charts.
    """

    title: str
    finding: str
    words: str
    scenes: tuple[tuple[str, Scene], ...] = ()


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """Everything on one station's sheet.

    Attributes:
        finding: the headline as one sentence.
        facts: figures shown large.
        untested, stated: the claims without a run, and those nothing here could test, each
            in a sentence; "" for none.
        results: figures with how they were found.
        ledger, ledger_title: of the usual run; None where no run gives one.
        tolls: the Wh of the ledger's gates, with their evidence.
        outputs: what comes out of the sockets, a part for each test.
        method: (name, words) of how it was measured.
        score_words: points got of those that have evidence.
        region: whose units and signs it is written in.
    """

    station: str
    subtitle: str
    finding: str
    summary: str
    facts: tuple[Figure, ...]
    claims: tuple[Claimed, ...]
    untested: str
    stated: str
    results: tuple[Figure, ...]
    runs: tuple[RunLine, ...]
    ledger: Ledger | None
    ledger_title: str
    tolls: tuple[Figure, ...]
    curves: tuple[Curve, ...]
    scoring: tuple[Scoring, ...]
    score_words: str
    pros: tuple[str, ...]
    cons: tuple[str, ...]
    method: tuple[tuple[str, str], ...]
    pictures: tuple[Picture, ...]
    cautions: tuple[str, ...]
    outputs: tuple[OutputPart, ...] = ()
    region: Region = INTERNATIONAL

    @property
    def as_written(self) -> tuple[str, ...]:
        """Names, and words of the reviewer: nothing in them is converted."""
        captions = (picture.caption for picture in self.pictures)
        loads = (line.load for line in self.runs)
        return (self.station, self.summary, *self.pros, *self.cons, *captions, *loads)

    def behind(self, key: str) -> tuple[str, Budget] | None:
        """A figure in words and its budget, by its place such as "fact:0" or "claim:2".

        None where there is none, or where its ± is not known.
        """
        place, _, number = key.partition(":")
        index = int(number)
        if place == "claim":
            if index >= len(self.claims):
                return None
            claim = self.claims[index]
            words, budget = f"{claim.title}: {claim.measured}", claim.budget
        else:
            figures = {"fact": self.facts, "result": self.results, "toll": self.tolls}[place]
            if index >= len(figures):
                return None
            figure = figures[index]
            words, budget = f"{figure.title}: {figure.brief}", figure.shown_budget
        return (words, budget) if budget is not None and budget.lines else None
