"""Ranks that are sure: two figures are apart where their difference is more than its U.

What both owe to one meter's common gain moves them together and cancels as far as it is common
(JCGM 100:2008, 5.2.2); a gain that belongs to one level or range does not.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from yardtoll.core.uncertainty.budget import Budget, linear


@dataclass(frozen=True, kw_only=True)
class Contender:
    """One figure to be ranked; without a budget it can be neither better nor worse than another.

    Attributes:
        bench: whose meters: those of another bench share nothing with these.
    """

    name: str
    value: float
    budget: Budget | None
    bench: str = ""


@dataclass(frozen=True, kw_only=True)
class Ranked:
    """Where one stands.

    Attributes:
        rank: one more than those that are surely better; None without a budget.
        ties: names of those that are neither surely better nor surely worse.
    """

    name: str
    rank: int | None
    ties: tuple[str, ...]


def ranked(contenders: Sequence[Contender], *, higher_is_better: bool = True) -> list[Ranked]:
    """Everyone's rank, in the order given."""
    found = []
    for one in contenders:
        others = [other for other in contenders if other is not one]
        better = [o for o in others if _is_apart(o, one) and _is_better(o, one, higher_is_better)]
        ties = tuple(o.name for o in others if not _is_apart(o, one))
        rank = len(better) + 1 if one.budget is not None else None
        found.append(Ranked(name=one.name, rank=rank, ties=ties))
    return found


def difference_expanded(one: Contender, other: Contender) -> float | None:
    """U of one figure less the other, what is common to them cancelled; None where not known."""
    if one.budget is None or other.budget is None:
        return None
    parts = [(_with_bench(one), 1.0), (_with_bench(other), -1.0)]
    return linear(one.budget.unit, parts).expanded


def _with_bench(contender: Contender) -> Budget:
    """Causes named with their bench; a gain at one level belongs to that run alone."""
    assert contender.budget is not None
    lines = tuple(
        replace(
            line,
            shared=f"{contender.bench}/{line.shared}" if line.shared and not line.level else "",
        )
        for line in contender.budget.lines
    )
    return Budget(unit=contender.budget.unit, lines=lines)


def _is_apart(one: Contender, other: Contender) -> bool:
    expanded = difference_expanded(one, other)
    return expanded is not None and abs(one.value - other.value) > expanded


def _is_better(one: Contender, other: Contender, higher_is_better: bool) -> bool:
    return bool(one.value > other.value) is higher_is_better
