"""A finding: one measured figure that speaks to a kind of claim, and under what conditions."""

from dataclasses import dataclass

from yardtoll.core.uncertainty.budget import Budget


@dataclass(frozen=True, kw_only=True)
class Finding:
    """What runs say of one kind of claim.

    Attributes:
        kind: key into the table of claim kinds.
        value: in the kind's unit.
        budget: of the value; None where the uncertainty is not known: ``unknown`` says why.
        runs: numbers of the runs behind it; empty for what was noted without a run.
        method: key of the method that found it.
        load_w: mean W of a discharge, None else.
        soc: state of charge in % at start and end, in the order of the run; None where it does not
            matter.
        held_s: how long a power was held; None where that is not asked.
        stopped: the station itself ended a run that should have gone on.
        lower_bound: the station may do more than this: it can be met, not missed.
        why_bound: what a lower bound that misses the limit leaves open, in a sentence.
        seen: what was measured, in words, such as "delivered at 412 W, mean of 2 runs".
    """

    kind: str
    value: float
    budget: Budget | None
    unknown: str = ""
    runs: tuple[int, ...] = ()
    method: str = ""
    load_w: float | None = None
    soc: tuple[float, float] | None = None
    held_s: float | None = None
    stopped: bool = False
    lower_bound: bool = False
    why_bound: str = ""
    seen: str = ""


@dataclass(frozen=True, kw_only=True)
class Left:
    """A run that was left out for a kind, and why: void, other window, nothing to tell."""

    kind: str
    run: int
    reason: str
