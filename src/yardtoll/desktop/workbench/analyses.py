"""Results of runs, worked out off the GUI thread and kept for as long as their inputs stand."""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from yardtoll.core.methods import METHODS
from yardtoll.desktop.turns import Turns
from yardtoll.desktop.workbench.courtesy import courtesy
from yardtoll.desktop.workbench.jobs import JobHandle, Jobs
from yardtoll.desktop.workbench.loading import RESULTS, load
from yardtoll.store.records import Run
from yardtoll.store.yard_file import YardFile

if TYPE_CHECKING:
    from yardtoll.review.run_analysis import RunAnalysis
    from yardtoll.review.run_records import RunRecords

_TOGETHER_MS = 100
"""How long a second arrival waits for others: pages are filled once, not once a run."""
_AFTER_PAINT_MS = 30
"""The first work waits so long: the window is painted before."""
_REST = 8
"""A page that takes long to fill is filled again only after so many times as long."""


class Analyses(QObject):
    """Keeps the analysis of every run asked for.

    Attributes:
        version: rises with every result that arrives.
        is_announcing: whether it is results that changed.

    Signals:
        ready: analyses that were asked for have arrived; those that arrive together are
            announced together.
    """

    ready = Signal()

    def __init__(self, yard: YardFile, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._yard = yard
        self._jobs = jobs
        self._kept: dict[int, tuple[RunRecords, RunAnalysis]] = {}
        self._asked: dict[int, RunRecords] = {}
        self._waiting: dict[int, tuple[RunRecords, Run]] = {}
        self._numbers: dict[int, int] = {}
        self._inputs: dict[int, RunRecords] = {}
        self._changes = -1
        self.version = 0
        self._quiet = QTimer(self, singleShot=True, interval=_TOGETHER_MS)
        self._quiet.timeout.connect(self._announce)
        self._unannounced = self.is_announcing = False
        self._turns = Turns(self)
        # The timer is the object's own: it ends with it, where one without an owner fires after it.
        self._begins = QTimer(self, singleShot=True, interval=_AFTER_PAINT_MS)
        self._begins.timeout.connect(self._begin)

    def leave(self) -> None:
        """Begin and announce nothing more: the yard is about to be closed."""
        self._waiting.clear()
        self._begins.stop()
        self._quiet.stop()
        self._turns.drop()

    @property
    def settled(self) -> bool:
        """Whether everything asked for has arrived and was announced."""
        return not self._asked and not self._unannounced

    def of(self, run: Run) -> RunAnalysis | None:
        """The analysis of a finished or void run; None while it is being worked out."""
        assert run.id is not None
        key = self._inputs_of(run)
        kept = self._kept.get(run.id)
        if kept and kept[0] == key:
            return kept[1]
        if self._asked.get(run.id) != key or self._was_cancelled(run.id):
            self._asked[run.id] = key
            self._waiting[run.id] = (key, run)
            if not self._begins.isActive():
                self._begins.start()
        return None

    def _was_cancelled(self, run_id: int) -> bool:
        number = self._numbers.get(run_id)
        return number is not None and not self._jobs.is_waiting(number)

    def _begin(self) -> None:
        """Runs that load slowly come last: all else is quick."""
        slow = {id_: w for id_, w in self._waiting.items() if METHODS[w[1].method].loads_slowly}
        quick = {id_: w for id_, w in self._waiting.items() if id_ not in slow}
        only_slow = len(self._asked) <= len(slow)
        for key, run in (slow if only_slow else quick).values():
            self._start(key, run)
        self._waiting = {} if only_slow else slow
        self._begins.setInterval(0)

    def _start(self, key: RunRecords, run: Run) -> None:
        assert run.id is not None
        self._numbers[run.id] = self._jobs.start(
            f"Working out run {run.number}",
            _Analyse(self._yard, run),
            lambda found: self._arrived(key, found),
            lambda error: self._failed(key, error),
            unhurried=True,
        )

    def all_of(self, runs: list[Run]) -> list[RunAnalysis]:
        """The analyses that are there; the others are asked for."""
        ended = [run for run in runs if run.has_ended]
        return [found for run in ended if (found := self.of(run)) is not None]

    def complete_of(self, runs: list[Run]) -> list[RunAnalysis] | None:
        """As `all_of`, but None until every one is there.

        What is said of a station rests on all its runs: of some of them it would be another thing.
        """
        found = self.all_of(runs)
        return found if len(found) == sum(run.has_ended for run in runs) else None

    def _inputs_of(self, run: Run) -> RunRecords:
        """What a result was made of; it is worked out again when any of it changes.

        Read once for every change of the yard: a view asks for all runs each time one arrives. A
        yard that is only shown may be changed by the window that has it open.
        """
        from yardtoll.review.run_records import read_records

        assert run.id is not None
        if self._changes != self._yard.changes:
            self._inputs.clear()
            self._changes = self._yard.changes
        if run.id not in self._inputs:
            self._inputs[run.id] = read_records(self._yard, run)
        return self._inputs[run.id]

    def _arrived(self, key: RunRecords, found: RunAnalysis) -> None:
        assert found.run.id is not None
        if self._asked.get(found.run.id) == key:
            del self._asked[found.run.id]
            self._numbers.pop(found.run.id, None)
        self._kept[found.run.id] = (key, found)
        self.version += 1
        if self._waiting and len(self._asked) <= len(self._waiting):
            self._begins.start()
        self._unannounced = True
        if not self._quiet.isActive():
            self._announce()

    def _announce(self) -> None:
        if self._unannounced and not self._turns.is_under_way:
            self._turns.begin(courtesy.first(self._announced()))

    def _announced(self) -> Iterator[None]:
        self._unannounced, self.is_announcing = False, True
        begun = time.monotonic()
        try:
            self.ready.emit()
        finally:
            self.is_announcing = False
        took_ms = 1000 * (time.monotonic() - begun)
        self._quiet.start(round(max(_TOGETHER_MS, _REST * took_ms)))
        yield  # what changed is painted before other work begins

    def _failed(self, key: RunRecords, error: Exception) -> None:
        from yardtoll.review.outcome import Outcome
        from yardtoll.review.run_analysis import RunAnalysis

        self._arrived(key, RunAnalysis(records=key, outcome=Outcome(problem=str(error))))


@dataclass(frozen=True)
class _Analyse:
    """A job's frozen input."""

    yard: YardFile
    run: Run

    def __call__(self, handle: JobHandle) -> RunAnalysis:
        from yardtoll.review.analysis import analyse_run, look_ahead

        handle.progress(f"Run {self.run.number}")
        for name in RESULTS:  # pages fit runs together on the window's thread
            load([name])
            courtesy.pause()
        found = analyse_run(self.yard, self.run)
        courtesy.pause()
        look_ahead(found, [c.claim for c in self.yard.claims(self.run.station_id)])
        return found
