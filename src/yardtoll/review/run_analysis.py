"""A run as it was read from the yard, and with what came of it."""

import functools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, TypeVar, cast

from yardtoll.core.electrical.doubts import doubts_of, unexplained
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import Code, Notice, Trace
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.methods import Method
from yardtoll.core.notes.trace import trace_of
from yardtoll.core.uncertainty.energy_budget import AC, DC
from yardtoll.core.uncertainty.figure import Figure, by_key
from yardtoll.review.outcome import EnergyIn, EnergyOut, Outcome, OwnUse
from yardtoll.review.run_records import RunRecords
from yardtoll.store.records import (
    Meter,
    Recording,
    Run,
    RunState,
    Station,
)

T = TypeVar("T")


@dataclass(frozen=True, kw_only=True)
class Recorded:
    """A recording, and its samples when they are asked for.

    Attributes:
        read: reads its samples; results are kept for long, and samples are too many for that.
    """

    record: Recording
    read: Callable[[], Trace | None]

    @property
    def trace(self) -> Trace:
        """Its samples.

        Raises:
            UnusableDataError: they are no longer there.
        """
        found = self.read()
        if found is None:
            raise UnusableDataError("its samples can no longer be read")
        return found


@dataclass(frozen=True, kw_only=True, eq=False)
class RunAnalysis:
    """A run with what came of it.

    Attributes:
        recorded: what its instruments recorded; the run's own meter first.
    """

    records: RunRecords
    recorded: tuple[Recorded, ...] = ()
    outcome: Outcome = field(default_factory=Outcome)
    _known: dict[object, Any] = field(init=False, default_factory=dict, repr=False)

    def known(self, key: object, work: Callable[[], T]) -> T:
        """What was worked out under a key, once; it must be small, for it stays."""
        if key not in self._known:
            self._known[key] = work()
        return cast(T, self._known[key])

    @property
    def run(self) -> Run:
        """The run."""
        return self.records.run

    @property
    def station(self) -> Station:
        """The station under test."""
        return self.records.station

    @property
    def meter(self) -> Meter | None:
        """The run's own meter; None where none is stated."""
        return self.records.meter

    @property
    def method(self) -> Method:
        """How the test was done."""
        return self.records.method

    @property
    def repeatability(self) -> float:
        """The yard's relative standard deviation from run to run."""
        return self.records.repeatability

    @property
    def trace(self) -> Trace | None:
        """The samples of the run's own meter, noted ones of a run read by eye; None without."""
        if self.records.typed and not self.recorded:
            notes = self.records.notes
            return trace_of(notes) if len({note.s for note in notes.notes}) > 1 else None
        return next((r.trace for r in self.recorded if Role(r.record.role).is_energy), None)

    @property
    def has_trace(self) -> bool:
        """Whether it has samples of power, or notes that stand for them; none are read."""
        if self.records.typed and not self.recorded:
            return self.trace is not None
        return any(Role(r.record.role).is_energy for r in self.recorded)

    @property
    def range_(self) -> str:
        """Which of its meter's ranges the run uses."""
        return DC if self.method.role.is_dc else AC

    @property
    def figures(self) -> dict[str, Figure]:
        """Its figures, by key."""
        return by_key(self.outcome.figures)

    @property
    def main_figure(self) -> Figure | None:
        """Its main figure; None where there is no result."""
        return next(iter(self.outcome.figures), None)

    @property
    def problem(self) -> str:
        """Why it gives no result; "" where it gives one."""
        return self.outcome.problem

    @property
    def notices(self) -> tuple[Notice, ...]:
        """What must be known of how its figures came about."""
        return self.outcome.notices

    @property
    def doubts(self) -> tuple[Code, ...]:
        """What it cannot be trusted for, and nobody has explained."""
        return unexplained(doubts_of(self.notices), self.run.explained)

    @property
    def has_outcome(self) -> bool:
        """Whether anything came of it."""
        return bool(self.outcome.figures)

    @property
    def is_finished(self) -> bool:
        """Whether it is finished, and not void."""
        return self.run.state == RunState.FINISHED.value

    @property
    def is_void(self) -> bool:
        """Whether it is kept but not used."""
        return self.run.state == RunState.VOID.value

    @property
    def energy_out(self) -> EnergyOut | None:
        """What it delivered; None where it gives none."""
        return self.outcome.energy_out

    @property
    def energy_in(self) -> EnergyIn | None:
        """What it drew; None where it gives none."""
        return self.outcome.energy_in

    @property
    def own_use(self) -> OwnUse | None:
        """What the station used by itself; None where it gives none."""
        return self.outcome.own_use

    @property
    def is_valid_discharge(self) -> bool:
        """Whether it may be judged: finished, not void, and with something delivered."""
        return self.is_finished and self.outcome.energy_out is not None


def once_a_run(work: Callable[[RunAnalysis], T]) -> Callable[[RunAnalysis], T]:
    """Work out once what is asked of a run's samples again and again; the answer must be small."""

    @functools.wraps(work)
    def answer(analysis: RunAnalysis) -> T:
        return analysis.known(work, lambda: work(analysis))

    return answer


def in_time(analyses: Sequence[RunAnalysis]) -> list[RunAnalysis]:
    """By their start."""
    return sorted(analyses, key=lambda a: a.run.started_at)
