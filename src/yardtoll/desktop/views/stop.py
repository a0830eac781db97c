"""A stop of the rail: what it is called, and how its view is built."""

from collections.abc import Callable
from dataclasses import dataclass

from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.loading import RESULTS
from yardtoll.desktop.workbench.workbench import Workbench

YARD, CLAIMS, PLAN, RUN = "yard", "claims", "plan", "run"
LEDGER, SUN, VERDICTS, SHEET = "ledger", "sun", "verdicts", "sheet"
OUTPUTS, ENDURANCE, LINEUP = "outputs", "endurance", "lineup"
"""Keys by which one stop leads to another."""

_KEYS = "1234567890-"


def stop_key(number: int) -> str:
    """The key of the stop at a place from 1 on, along the row of digits; "" beyond its end."""
    return f"Alt+{_KEYS[number - 1]}" if number <= len(_KEYS) else ""


@dataclass(frozen=True, kw_only=True)
class Stop:
    """One stop.

    Attributes:
        key: what others call it.
        title: as shown on the rail.
        order: its place on the rail, by the order of the work.
        build: makes its view, with what it asks for connected; called when it is first seen.
    """

    key: str
    title: str
    order: int
    build: Callable[[Host, Workbench], StopView]

    @property
    def modules(self) -> tuple[str, ...]:
        """What is loaded before its view is made: the view's own, and what its figures ask for."""
        own = f"{self.build.__module__.rpartition('.')[0]}.view"
        return (own,) if self.key == YARD else (*RESULTS, own)
