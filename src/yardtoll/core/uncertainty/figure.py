"""A figure: made once, and shown by every page, table, sheet and file alike."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import Enum

from yardtoll.core.formatting import decimals_for, format_clock, format_with_uncertainty
from yardtoll.core.uncertainty.budget import Budget, Measured, Worked


class Style(Enum):
    """How a figure is written."""

    PLAIN = "plain"
    PERCENT = "percent"
    """A share, written in percent."""
    CLOCK = "clock"
    """Seconds, written as h:mm:ss."""
    MINUTES = "minutes"
    """Seconds, written as h:mm:ss with its ± in minutes."""
    HOURS = "hours"
    """Seconds, written as h:mm h, its ± left to the budget."""


@dataclass(frozen=True, kw_only=True)
class Figure:
    """A value with its unit, its uncertainty, and how it was found.

    Attributes:
        key: its name in files and on the command line, with its unit.
        title: as shown.
        value: in ``unit``; a share for PERCENT, s for CLOCK and MINUTES.
        budget: of the value, in its unit; None where its ± is not known.
        how: how it was found, or what it rests on, in words.
        note: words right behind it, such as " · 0.20 C" or ", lowest 117.9 V".
        at_most: a bound: nothing is judged by it.
        worked: how it was worked out, with its numbers.
    """

    key: str
    title: str
    value: float
    unit: str = ""
    budget: Budget | None = None
    style: Style = Style.PLAIN
    how: str = ""
    note: str = ""
    at_most: bool = False
    worked: Worked | None = None

    @property
    def expanded(self) -> float:
        """U in the value's unit; 0 where it is not known."""
        return self.budget.expanded if self.budget is not None else 0.0

    @property
    def measured(self) -> Measured | None:
        """The value with its budget; None where its ± is not known."""
        return None if self.budget is None else Measured(value=self.value, budget=self.budget)

    @property
    def shown_budget(self) -> Budget | None:
        """The budget in the unit that is shown, with how the value was worked out."""
        if self.budget is None:
            return None
        is_share = self.style is Style.PERCENT
        shown = self.budget.scaled(100.0, "%") if is_share else self.budget
        return replace(shown, worked=self.worked) if self.worked is not None else shown

    @property
    def number(self) -> str:
        """Like "1865 ± 24" or "1:16:20 ± 10 s", without unit and note."""
        if self.style is Style.CLOCK:
            # The clock has whole seconds; a finer ± would say nothing.
            within = f" ± {max(round(self.expanded), 1)} s" if self.expanded else ""
            return f"{format_clock(self.value)}{within}"
        if self.style is Style.MINUTES:
            u_min = self.expanded / 60
            within = f" ± {u_min:.{decimals_for(u_min)}f} min" if u_min else ""
            return f"{format_clock(self.value)}{within}"
        if self.style is Style.HOURS:
            return f"{format_clock(self.value)[:-3]} h"
        scale = 100.0 if self.style is Style.PERCENT else 1.0
        return format_with_uncertainty(scale * self.value, scale * self.expanded)

    @property
    def figure(self) -> str:
        """The number with its unit: "at most 94.2 ± 0.6 %"."""
        unit = "%" if self.style is Style.PERCENT else self.unit
        bare = self.style in (Style.CLOCK, Style.MINUTES, Style.HOURS)
        bound = "at most " if self.at_most else ""
        return f"{bound}{self.number}" + (f" {unit}" if unit and not bare else "")

    @property
    def shown(self) -> str:
        """With its note: "411.0 ± 2.4 W · 0.20 C"."""
        return f"{self.figure}{self.note}"

    @property
    def brief(self) -> str:
        """With its unit; whole units where the ± is not known."""
        if self.budget is None and self.style is Style.PLAIN:
            # Nothing has no minus.
            return f"{round(self.value) + 0:d} {self.unit}".rstrip()
        return self.figure


Sentence = Sequence[str | Figure]
"""Words with figures between them; a figure's ± can be opened in the text."""


def plain(sentence: Sentence) -> str:
    """A sentence as text alone."""
    return "".join(part if isinstance(part, str) else part.figure for part in sentence)


def by_key(figures: Iterable[Figure]) -> dict[str, Figure]:
    """Figures by their keys."""
    return {figure.key: figure for figure in figures}
