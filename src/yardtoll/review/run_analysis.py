"""A run as it was read from the yard, and with what came of it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.electrical.doubts import doubts_of, unexplained
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import Code, Notice, Trace
from yardtoll.core.ledger.loss_fit import REPEATABILITY
from yardtoll.core.methods import METHODS, Method
from yardtoll.core.notes.read import Notes
from yardtoll.core.notes.trace import trace_of
from yardtoll.core.uncertainty.energy_budget import AC, DC
from yardtoll.core.uncertainty.figure import Figure, by_key
from yardtoll.review.outcome import EnergyIn, EnergyOut, Outcome, OwnUse
from yardtoll.store.noted import meter_in, notes_of
from yardtoll.store.records import (
    TYPED,
    Entry,
    Mark,
    Meter,
    Reading,
    ReadingKind,
    Recording,
    Run,
    RunState,
    Site,
    SolarArray,
    Station,
)


@dataclass(frozen=True, kw_only=True)
class RunRecords:
    """Everything a run's results are made of, but for its samples.

    Attributes:
        meter: the run's own; None where none is stated.
        meters: of its recordings, by id.
        entries: lines of a run that is kept as a table.
        site, arrays: of a run that panels fed; None and empty for others.
        claims: of the station, for a run whose analysis looks at them; empty for others.
        repeatability: the yard's relative standard deviation from run to run.
    """

    run: Run
    station: Station
    meter: Meter | None = None
    meters: Mapping[int, Meter] = field(default_factory=dict)
    recordings: tuple[Recording, ...] = ()
    readings: tuple[Reading, ...] = ()
    marks: tuple[Mark, ...] = ()
    entries: tuple[Entry, ...] = ()
    repeatability: float = REPEATABILITY
    site: Site | None = None
    arrays: tuple[SolarArray, ...] = ()
    claims: tuple[Claim, ...] = ()

    @property
    def method(self) -> Method:
        """How the test was done."""
        return METHODS[self.run.method]

    @property
    def typed(self) -> bool:
        """Whether its meter was read by eye."""
        return self.run.origin == TYPED

    @property
    def notes(self) -> Notes:
        """Its readings and marks as notes, s from its start."""
        name = f"run {self.run.number}" if self.run.number else "the notes"
        own = [r for r in self.readings if meter_in(r.subject) is None]
        return notes_of(name, own, self.marks, charges=self.method.charges)

    @property
    def notes_of_further(self) -> dict[int, Notes]:
        """Notes of further meters on the same load, by the meter's id; the marks are of all."""
        ids = {meter_in(r.subject): None for r in self.readings}
        return {
            id_: notes_of(
                f"run {self.run.number}, meter {n}",
                [r for r in self.readings if meter_in(r.subject) == id_],
                [mark for mark in self.marks if mark.starts_run or mark.ends_run],
                charges=self.method.charges,
            )
            for n, id_ in enumerate((i for i in ids if i is not None), start=2)
        }

    def readings_of(self, kind: ReadingKind) -> list[Reading]:
        """The typed readings of one kind, in order of time."""
        return [reading for reading in self.readings if reading.kind == kind.value]

    def meter_of(self, recording: Recording) -> Meter | None:
        """The meter whose accuracy holds for a recording."""
        if recording.meter_id is None:
            return self.meter
        return self.meters.get(recording.meter_id)


@dataclass(frozen=True, kw_only=True)
class Recorded:
    """A recording with its samples."""

    record: Recording
    trace: Trace


@dataclass(frozen=True, kw_only=True, eq=False)
class RunAnalysis:
    """A run with what came of it.

    Attributes:
        recorded: what its instruments recorded; the run's own meter first.
    """

    records: RunRecords
    recorded: tuple[Recorded, ...] = ()
    outcome: Outcome = field(default_factory=Outcome)

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


def in_time(analyses: Sequence[RunAnalysis]) -> list[RunAnalysis]:
    """By their start."""
    return sorted(analyses, key=lambda a: a.run.started_at)
