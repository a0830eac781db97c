"""Uncertainty budgets: what a figure may be off by, share by share, and what figures share.

A budget is a list of standard uncertainties in the figure's own unit (JCGM 100:2008, 5.1.2). What
one meter's gain does to a figure carries that meter's name: in a ratio or a sum of two figures
such contributions are added with their signs, all others in quadrature (JCGM 100:2008, 5.2.2 with
r = 1 and r = 0).
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property
from typing import Self

COVERAGE_FACTOR = 2.0
"""U = k·u with k = 2, about 95 % (JCGM 100:2008, 6.3.3)."""
_COVERAGE = 0.97725
"""One-sided probability that belongs to k = 2 of a normal distribution."""


def coverage_factor_of(degrees_of_freedom: float) -> float:
    """The factor k for 95.45 %: 2, or Student's t for few degrees of freedom (JCGM 100, G.4)."""
    if degrees_of_freedom == math.inf:
        return COVERAGE_FACTOR
    # Loading it takes longer than opening the window, and only repeats need it.
    from scipy.special import stdtrit

    return float(stdtrit(max(degrees_of_freedom, 1.0), _COVERAGE))


class Evaluation(StrEnum):
    """How a contribution was come by (JCGM 100:2008, 2.3.2 and 2.3.3)."""

    A = "A"
    """From repeated observations."""
    B = "B"
    """By other means, such as a maker's statement."""


@dataclass(frozen=True, kw_only=True)
class Contribution:
    """One line of a budget.

    Attributes:
        u: standard uncertainty in the budget's unit; its sign says which way a shared cause moves
            the figure.
        degrees_of_freedom: degrees of freedom; infinite for limits that are taken as certain.
        shared: names the cause where other figures share it, such as one meter's gain; "" for a
            cause of this figure's own.
        of_gain: whether a meter with a smaller share of reading would make it smaller.
        edge: whether it comes of when load-on and cut-off were.
        repeats_help: whether it is how runs differ from each other.
        longer_helps: whether a longer run makes it smaller.
        level: whether it is a meter's gain at one level, shared by runs at that level alone.
    """

    name: str
    why: str
    u: float
    evaluation: Evaluation = Evaluation.B
    degrees_of_freedom: float = math.inf
    shared: str = ""
    of_gain: bool = False
    edge: bool = False
    repeats_help: bool = False
    longer_helps: bool = False
    level: bool = False


_ONE_METER = "of one meter throughout, so its parts are added with their signs"


@dataclass(frozen=True, kw_only=True)
class Worked:
    """How a value was worked out.

    Attributes:
        formula: in symbols.
        put_in: the same with this run's numbers, and the result.
        source: where the formula comes from.
    """

    formula: str
    put_in: str
    source: str


@dataclass(frozen=True, kw_only=True)
class Budget:
    """The contributions to one figure, largest first.

    Attributes:
        worked: how the value itself was worked out; None where that is not told.
    """

    unit: str
    lines: tuple[Contribution, ...]
    worked: Worked | None = None

    @classmethod
    def of(cls, unit: str, lines: Iterable[Contribution]) -> Self:
        """A budget of these lines; those of nothing are left out."""
        kept = sorted((line for line in lines if line.u), key=lambda line: -abs(line.u))
        return cls(unit=unit, lines=tuple(kept))

    @cached_property
    def u(self) -> float:
        """Combined standard uncertainty (JCGM 100:2008, eq. 10)."""
        return math.hypot(*(line.u for line in self.lines))

    @cached_property
    def degrees_of_freedom(self) -> float:
        """Effective degrees of freedom (Welch–Satterthwaite; JCGM 100:2008, eq. G.2b)."""
        return _effective(self.u, ((line.u, line.degrees_of_freedom) for line in self.lines))

    @cached_property
    def coverage_factor(self) -> float:
        """k: 2, or Student's t for the same 95.45 % where repeats are few (JCGM 100:2008, G.4)."""
        return coverage_factor_of(self.degrees_of_freedom)

    @cached_property
    def expanded(self) -> float:
        """Expanded uncertainty U = k·u."""
        return self.coverage_factor * self.u

    def share(self, line: Contribution) -> float:
        """A line's share of the variance, 0–1."""
        return line.u**2 / self.u**2 if self.u else 0.0

    def scaled(self, factor: float, unit: str) -> "Budget":
        """The budget of factor × figure."""
        return Budget(
            unit=unit, lines=tuple(replace(line, u=line.u * factor) for line in self.lines)
        )

    def plus(self, *further: Contribution) -> "Budget":
        """With further lines."""
        return Budget.of(self.unit, [*self.lines, *further])

    def at_level(self, shared: str) -> "Budget":
        """With the meter's gain at this level named as shared with others at it."""
        lines = tuple(replace(x, shared=shared) if x.level and x.shared else x for x in self.lines)
        return Budget(unit=self.unit, lines=lines)

    def of_its_own(self) -> "Budget":
        """Without the causes that other figures share."""
        return Budget(unit=self.unit, lines=tuple(line for line in self.lines if not line.shared))


@dataclass(frozen=True, kw_only=True)
class Measured:
    """A figure with its budget."""

    value: float
    budget: Budget

    @property
    def expanded(self) -> float:
        """U of the figure."""
        return self.budget.expanded

    def scaled(self, factor: float, unit: str) -> "Measured":
        """Factor × figure, the factor taken as exact."""
        return Measured(value=self.value * factor, budget=self.budget.scaled(factor, unit))


def total(parts: Sequence[Measured], names: Sequence[str] = ()) -> Measured:
    """The sum of figures of one unit; shared causes add up, others in quadrature."""
    return Measured(
        value=sum(part.value for part in parts),
        budget=_combined(parts[0].budget.unit, [(p.budget, 1.0) for p in parts], names),
    )


def station_mean(
    runs: Sequence[Measured], prior_share: float, prior_degrees_of_freedom: float
) -> Measured:
    """What a station does rather than one run of it: the mean, with repeatability in it.

    The scatter of repeats (type A; JCGM 100:2008, 4.2.3) is combined with the named prior as a
    scaled inverse χ²: two runs may lie together by chance, and one says nothing. What a meter's
    gain does at their level is common to all of them.

    Args:
        runs: of one load, at least one.
        prior_share: relative standard deviation from run to run where it is not known.
        prior_degrees_of_freedom: degrees of freedom of that prior.
    """
    count, unit = len(runs), runs[0].budget.unit
    level = next((x.shared for r in runs for x in r.budget.lines if x.level and x.shared), "")
    summed = runs[0].budget
    if count > 1:
        summed = linear(unit, [(run.budget.at_level(level), 1 / count) for run in runs])
    value = sum(run.value for run in runs) / count
    squares = sum((run.value - value) ** 2 for run in runs)
    degrees_of_freedom = prior_degrees_of_freedom + count - 1
    stdev = math.sqrt(
        (prior_degrees_of_freedom * (prior_share * value) ** 2 + squares) / degrees_of_freedom
    )
    if count > 1:
        observed = math.sqrt(squares / (count - 1))
        spread = f"{observed:.3g} {unit}" if unit else f"{100 * observed:.3g} %"
        why = f"s = {spread} over {count} runs, with {100 * prior_share:g} % before them"
    else:
        shown = f"{value:.4g} {unit}" if unit else f"{100 * value:.4g} %"
        why = f"{100 * prior_share:g} % of {shown}, assumed: one run"
    scatter = Contribution(
        name="Run to run",
        why=why.replace("  ", " "),
        u=stdev / math.sqrt(count),
        evaluation=Evaluation.A if count > 1 else Evaluation.B,
        degrees_of_freedom=degrees_of_freedom,
        repeats_help=True,
    )
    return Measured(value=value, budget=summed.plus(scatter))


def ratio(above: Measured, below: Measured, names: Sequence[str] = ()) -> Measured:
    """``above`` ÷ ``below``, a share: one meter's gain error in both cancels.

    Args:
        names: the prefix of the lines of each, such as ("Delivered", "Drawn").
    """
    value = above.value / below.value
    parts = [(above.budget, 1 / below.value), (below.budget, -value / below.value)]
    return Measured(value=value, budget=_combined("", parts, names))


def _combined(unit: str, parts: Sequence[tuple[Budget, float]], names: Sequence[str]) -> Budget:
    """Lines of several budgets with their sensitivities, those of a shared cause as one."""
    shared: dict[str, Contribution] = {}
    own = []
    for index, (budget, sensitivity) in enumerate(parts):
        prefix = f"{names[index]}: " if names else ""
        for line in budget.lines:
            moved = replace(line, u=line.u * sensitivity)
            if not line.shared:
                name = f"{prefix}{line.name[:1].lower()}{line.name[1:]}" if prefix else line.name
                own.append(replace(moved, name=name))
            elif line.shared in shared:
                before = shared[line.shared]
                shared[line.shared] = replace(before, u=before.u + moved.u, why=_ONE_METER)
            else:
                shared[line.shared] = moved
    return Budget.of(unit, [*shared.values(), *own])


def linear(
    unit: str, parts: Iterable[tuple[Budget, float]], further: Iterable[Contribution] = ()
) -> Budget:
    """Of a figure that moves by each part's sensitivity times what that part moves.

    Shared causes add up with their signs (JCGM 100:2008, 5.2.2, r = 1). Lines of one name that
    several parts have of their own are gathered into one: ten runs have ten meter floors.
    """
    shared: dict[str, tuple[Contribution, float, int]] = {}
    own: dict[str, list[tuple[Contribution, float]]] = {}
    # A line is made once in the end: a fit over many runs has hundreds that are only added up.
    for budget, sensitivity in parts:
        for line in budget.lines:
            u = line.u * sensitivity
            if line.shared:
                first, so_far, count = shared.get(line.shared, (line, 0.0, 0))
                shared[line.shared] = first, so_far + u, count + 1
            elif u:
                own.setdefault(line.name, []).append((line, u))
    lines = [
        replace(line, u=u, why=_ONE_METER if count > 1 else line.why)
        for line, u, count in shared.values()
    ]
    return Budget.of(unit, [*lines, *(_as_one(found) for found in own.values()), *further])


def _as_one(lines: Sequence[tuple[Contribution, float]]) -> Contribution:
    """Independent lines of one name, each with its u, in quadrature; named after the largest."""
    largest, u = max(lines, key=lambda pair: abs(pair[1]))
    if len(lines) == 1:
        return replace(largest, u=u)
    together = math.hypot(*(u for _, u in lines))
    return replace(
        largest,
        why=f"{largest.why}, and of {len(lines) - 1} more",
        u=together,
        degrees_of_freedom=_effective(together, ((u, x.degrees_of_freedom) for x, u in lines)),
    )


def _effective(u: float, parts: Iterable[tuple[float, float]]) -> float:
    """Degrees of freedom of u, from the u and degrees of freedom of its parts."""
    known = sum(part**4 / freedom for part, freedom in parts if freedom < math.inf)
    return u**4 / known if known else math.inf


def rectangular(
    name: str, limit: float, why: str, *, shared: str = "", of_gain: bool = False
) -> Contribution:
    """A contribution known only by its limits ±``limit``: u = limit ÷ √3 (JCGM 100, 4.3.7)."""
    return Contribution(name=name, why=why, u=limit / math.sqrt(3), shared=shared, of_gain=of_gain)


def display_step(name: str, limit: float, why: str) -> Contribution:
    """What a display's whole points leave open, rectangular: less of a longer run."""
    return replace(rectangular(name, limit, why), longer_helps=True)
