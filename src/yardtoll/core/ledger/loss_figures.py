"""The figures of a loss split: its fitted terms and the weighted efficiencies they give."""

from collections.abc import Iterator

from yardtoll.core.ledger.losses import LossSplit, Term
from yardtoll.core.ledger.worked import fitted
from yardtoll.core.uncertainty.budget import Budget, Contribution
from yardtoll.core.uncertainty.figure import Figure, Style


def loss_figures(split: LossSplit) -> tuple[Figure, ...]:
    """Store, overhead, proportional and ohmic tolls, then efficiencies; those that are known.

    A fitted term's budget is its standard uncertainty in the fit: the runs' own budgets are only
    known to who has the runs.
    """
    return (*_terms(split), *_efficiencies(split))


def _terms(split: LossSplit) -> Iterator[Figure]:
    terms = (
        ("e0_wh", "Usable store", "Wh", Style.PLAIN, split.e0_wh),
        ("p0_w", "Overhead", "W", Style.PLAIN, split.p0_w),
        ("p1", "Proportional", "", Style.PERCENT, split.p1),
        ("p2_per_w", "Ohmic", "1/W", Style.PLAIN, split.p2_per_w),
    )
    for key, title, unit, style, term in terms:
        if term.value is not None:
            budget = _budget(term, unit)
            yield Figure(
                key=key, title=title, value=term.value, unit=unit, budget=budget, style=style,
                worked=fitted(split),
            )  # fmt: skip


def _budget(term: Term, unit: str) -> Budget | None:
    if not term.u:
        return None
    return Budget.of(
        unit, [Contribution(name="Fit", u=term.u, why="scatter and the terms' shares")]
    )


def _efficiencies(split: LossSplit) -> Iterator[Figure]:
    for key, title, value, bound in (
        ("euro_efficiency", "Euro efficiency", split.euro_efficiency, split.euro_at_most),
        ("cec_efficiency", "CEC efficiency", split.cec_efficiency, split.cec_at_most),
    ):
        known = value if value is not None else bound
        if known is not None:
            yield Figure(
                key=key, title=title, value=known, style=Style.PERCENT, at_most=value is None
            )
