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
        ties: names of those whose difference from it is within its U.
        unsure: names of those of which nothing can be said, since one of the two has no budget.
    """

    name: str
    rank: int | None
    ties: tuple[str, ...]
    unsure: tuple[str, ...] = ()


def ranked(contenders: Sequence[Contender], *, higher_is_better: bool = True) -> list[Ranked]:
    """Everyone's rank, in the order given."""
    own = [_expanded(contender) for contender in contenders]
    count = len(contenders)
    apart = [[False] * count for _ in range(count)]
    for i in range(count):
        for j in range(i):
            apart[i][j] = apart[j][i] = _is_apart(contenders[i], own[i], contenders[j], own[j])
    found = []
    for i, one in enumerate(contenders):
        better = [
            j
            for j in range(count)
            if apart[i][j] and _is_better(contenders[j], one, higher_is_better)
        ]
        close = [j for j in range(count) if j != i and not apart[i][j]]
        known = [j for j in close if own[i] is not None and own[j] is not None]
        found.append(
            Ranked(
                name=one.name,
                rank=len(better) + 1 if one.budget is not None else None,
                ties=tuple(contenders[j].name for j in known),
                unsure=tuple(contenders[j].name for j in close if j not in known),
            )
        )
    return found


def place_among(
    one: Contender, others: Sequence[Contender], *, higher_is_better: bool = True
) -> tuple[int, int] | None:
    """(best, worst) place of one among others, itself counted; None without its budget.

    Those without a budget of their own may be better as well as worse.
    """
    own = _expanded(one)
    if own is None:
        return None
    apart = [other for other in others if _is_apart(one, own, other, _expanded(other))]
    better = sum(_is_better(other, one, higher_is_better) for other in apart)
    return better + 1, better + 1 + len(others) - len(apart)


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


def _expanded(contender: Contender) -> float | None:
    return contender.budget.expanded if contender.budget is not None else None


def _is_apart(one: Contender, own: float | None, other: Contender, its: float | None) -> bool:
    """Whether two differ by more than the U of their difference.

    Args:
        own, its: U of each.
    """
    if own is None or its is None:
        return False
    difference = abs(one.value - other.value)
    # No common cause makes the U of a difference larger than both together.
    if difference > own + its:
        return True
    expanded = difference_expanded(one, other)
    return expanded is not None and difference > expanded


def _is_better(one: Contender, other: Contender, higher_is_better: bool) -> bool:
    return bool(one.value > other.value) is higher_is_better
