"""A finding: one measured figure that speaks to a kind of claim, and under what conditions."""

from dataclasses import dataclass

from yardtoll.core.electrical.trace import Code
from yardtoll.core.uncertainty.budget import Budget


@dataclass(frozen=True, kw_only=True)
class Finding:
    """What runs say of one kind of claim; its budget speaks of the station, not of one run.

    Attributes:
        kind: key into the table of claim kinds.
        value: in the kind's unit.
        budget: of the value; None where the uncertainty is not known: ``unknown`` says why.
        ends: lowest and highest, where both are judged; ``value`` is between them.
        agrees: whether a claim was seen to be so; None for what was measured.
        runs: numbers of the runs behind it; empty for what was noted without a run.
        method: key of the method that found it.
        load_w: mean W of a discharge, None else.
        soc: state of charge in % at start and end, in the order of the run; None where it does not
            matter.
        held_s: how long a power was held; None where that is not asked.
        ended_by: "trip", "hand", "battery" or "" where it is not known; None where it is not asked.
        for_value: the claimed value that it was worked out for; None where it speaks to any.
        lower_bound: the station may do more than this: it can be met, not missed.
        why_bound: what a lower bound that misses the limit leaves open, in a sentence.
        unfit: why it does not speak to the claim at all, in a clause after the run's number.
        doubts: what the runs behind it cannot be trusted for, and nobody has explained.
        seen: what was measured, in words, such as "delivered at 412 W, mean of 2 runs".
    """

    kind: str
    value: float
    budget: Budget | None
    unknown: str = ""
    ends: tuple[float, float] | None = None
    agrees: bool | None = None
    runs: tuple[int, ...] = ()
    method: str = ""
    load_w: float | None = None
    soc: tuple[float, float] | None = None
    held_s: float | None = None
    ended_by: str | None = None
    for_value: float | None = None
    lower_bound: bool = False
    why_bound: str = ""
    unfit: str = ""
    doubts: tuple[Code, ...] = ()
    seen: str = ""


@dataclass(frozen=True, kw_only=True)
class ExcludedRun:
    """A run that was left out for a kind, and why: void, other window, no result."""

    kind: str
    run: int
    reason: str
