"""Kinds of tests as data: one file each, found by being here."""

from yardtoll.core.discovery import found_in
from yardtoll.core.methods.method import Ending, Flow, Method, Outlet, Size

__all__ = [
    "CAPACITY",
    "METHODS",
    "SOLAR",
    "TABLES",
    "WITH_POWER",
    "Ending",
    "Flow",
    "Method",
    "Outlet",
    "Size",
    "method_testing",
]


METHODS: dict[str, Method] = {
    method.key: method
    for method in sorted(found_in(__name__, __path__, "METHOD"), key=lambda m: (m.order, m.key))
}
"""Every module of this folder that defines METHOD, in the order they state."""

WITH_POWER: dict[str, Method] = {key: m for key, m in METHODS.items() if not m.is_table}
"""Those whose runs are power over time: what can be planned, recorded, imported or noted."""
TABLES: dict[str, Method] = {key: m for key, m in METHODS.items() if m.is_table}
"""Those whose runs are kept as a table, under Outputs."""
SOLAR: Method = next(m for m in METHODS.values() if m.uses_panels)
"""What is planned from the sun's days to come."""
CAPACITY: Method = next(
    m for m in METHODS.values() if m.counts_for_capacity and m.outlet is Outlet.AC
)
"""What an imported discharge log is taken for."""
_TESTED_BY = {claim: method for method in METHODS.values() for claim in method.claims}


def method_testing(claim_kind: str) -> Method | None:
    """The method that speaks to a kind of claim; None where none here does."""
    return _TESTED_BY.get(claim_kind)
