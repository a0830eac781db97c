"""Results of runs, worked out off the GUI thread and kept for as long as their inputs stand."""

from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from yardtoll.core.discharge import DischargeResult, Rating, analyse_discharge
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.trace import Trace
from yardtoll.core.uncertainty import Budget, discharge_budget
from yardtoll.desktop.jobs import JobHandle, Jobs
from yardtoll.store.records import Meter, Run, RunState, Station
from yardtoll.store.yard_file import YardFile


@dataclass(frozen=True, kw_only=True)
class RunAnalysis:
    """What a run came to.

    Attributes:
        result: None when nothing can be told; ``problem`` says why.
        budget: None when no meter is stated.
    """

    run: Run
    station: Station
    meter: Meter | None
    trace: Trace | None
    result: DischargeResult | None
    budget: Budget | None
    problem: str = ""

    @property
    def counts(self) -> bool:
        """Whether the run may be judged: finished, not void, and with a result."""
        return self.run.state == RunState.FINISHED.value and self.result is not None


def analyse_run(yard: YardFile, run: Run) -> RunAnalysis:
    """Everything there is to say about one run, from the yard alone."""
    assert run.id is not None
    station = yard.get(Station, run.station_id)
    meter = yard.get(Meter, run.meter_id) if run.meter_id is not None else None
    trace = yard.trace(run.id)
    try:
        samples = _samples(trace)
        rating = Rating(rated_wh=station.rated_wh, soc_from=run.soc_from, soc_to=run.soc_to)
        own = [run.own_draw_w] if run.own_draw_w else []
        result = analyse_discharge([samples], rating, own_draw_w=own)
    except UnusableDataError as error:
        return RunAnalysis(
            run=run,
            station=station,
            meter=meter,
            trace=trace,
            result=None,
            budget=None,
            problem=str(error),
        )
    budget = discharge_budget(result, [meter.accuracy]) if meter else None
    return RunAnalysis(
        run=run, station=station, meter=meter, trace=trace, result=result, budget=budget
    )


def _samples(trace: Trace | None) -> Trace:
    if trace is None:
        raise UnusableDataError("no samples were recorded")
    return trace


class Analyses(QObject):
    """Keeps the analysis of every run asked for.

    Signals:
        ready: an analysis that was asked for has arrived.
    """

    ready = Signal()

    def __init__(self, yard: YardFile, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._yard = yard
        self._jobs = jobs
        self._kept: dict[int, tuple[tuple[object, ...], RunAnalysis]] = {}
        self._asked: dict[int, tuple[object, ...]] = {}

    def of(self, run: Run) -> RunAnalysis | None:
        """The analysis of a finished or void run; None while it is being worked out."""
        assert run.id is not None
        key = self._inputs(run)
        kept = self._kept.get(run.id)
        if kept and kept[0] == key:
            return kept[1]
        if self._asked.get(run.id) != key:
            self._asked[run.id] = key
            self._jobs.start(
                f"Working out run {run.number}",
                _Analyse(self._yard, run),
                lambda found: self._arrived(key, found),
                lambda error: self._failed(key, run, error),
            )
        return None

    def all_of(self, runs: list[Run]) -> list[RunAnalysis]:
        """The analyses that are there; the others are asked for."""
        ended = [run for run in runs if run.has_ended]
        return [found for run in ended if (found := self.of(run)) is not None]

    def _inputs(self, run: Run) -> tuple[object, ...]:
        """What a result was made of; it is worked out again when any of it changes."""
        station = self._yard.get(Station, run.station_id)
        meter = self._yard.get(Meter, run.meter_id) if run.meter_id is not None else None
        return (repr(run), station, meter)

    def _arrived(self, key: tuple[object, ...], found: RunAnalysis) -> None:
        assert found.run.id is not None
        self._asked.pop(found.run.id, None)
        self._kept[found.run.id] = (key, found)
        self.ready.emit()

    def _failed(self, key: tuple[object, ...], run: Run, error: Exception) -> None:
        station = self._yard.get(Station, run.station_id)
        self._arrived(
            key,
            RunAnalysis(
                run=run,
                station=station,
                meter=None,
                trace=None,
                result=None,
                budget=None,
                problem=str(error),
            ),
        )


@dataclass(frozen=True)
class _Analyse:
    """A job's frozen input."""

    yard: YardFile
    run: Run

    def __call__(self, handle: JobHandle) -> RunAnalysis:
        handle.progress(f"Run {self.run.number}")
        return analyse_run(self.yard, self.run)
