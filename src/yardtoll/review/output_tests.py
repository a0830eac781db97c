"""The tests at the outlets, as the stop Outputs and what it asks for know them."""

from collections.abc import Iterable
from dataclasses import dataclass

from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods import METHODS, TABLES, Method
from yardtoll.core.output.entries import EntryField
from yardtoll.core.output.resets import FIELDS as RESET_FIELDS
from yardtoll.store.records import Run

HELD = "held"
POWERS = [m for m in METHODS.values() if m.entry_fields is RESET_FIELDS]
"""Methods that ask how long a power is carried."""


@dataclass(frozen=True, kw_only=True)
class OutputTest:
    """One tab.

    Attributes:
        method: how its runs are done; None for powers held, which are recorded runs.
        line: what one line of it is called.
    """

    key: str
    title: str
    method: Method | None
    fields: tuple[EntryField, ...]
    line: str = "line"

    @property
    def captures(self) -> Role | None:
        """What an instrument's file gives a line of."""
        return self.method.captures if self.method is not None else None

    @property
    def by_port(self) -> bool:
        """Whether lines are entered at the drawn ports."""
        return self.method is not None and self.method.by_port

    def shows(self, run: Run) -> bool:
        """Whether a run is one of its own, by its method alone."""
        if self.method is None:
            return METHODS[run.method] in POWERS
        return run.method == self.method.key


def output_tests() -> dict[str, OutputTest]:
    """Every tab by its key: recorded powers after what is captured, then the other tables."""
    tables = [
        OutputTest(key=m.key, title=m.title, method=m, fields=m.entry_fields, line=m.entry_noun)
        for m in TABLES.values()
    ]
    captured = [test for test in tables if test.captures is Role.WAVEFORM]
    held = OutputTest(key=HELD, title="Power held", method=None, fields=RESET_FIELDS, line="trip")
    others = [test for test in tables if test not in captured]
    return {test.key: test for test in (*captured, held, *others)}


def tab_of(run: Run, tests: Iterable[OutputTest]) -> str | None:
    """The tab that shows a run; None for other runs."""
    return next((test.key for test in tests if test.shows(run)), None)
