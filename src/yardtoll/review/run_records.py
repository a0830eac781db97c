"""What a run's results are made of, but for its samples, as it was read from the yard."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.ledger.loss_fit import REPEATABILITY
from yardtoll.core.methods import METHODS, Method
from yardtoll.store.further_meters import meter_in
from yardtoll.store.records import (
    TYPED,
    Entry,
    Mark,
    Meter,
    Reading,
    ReadingKind,
    Recording,
    Run,
    Site,
    SolarArray,
    Station,
)
from yardtoll.store.yard_file import YardFile

if TYPE_CHECKING:
    from yardtoll.core.notes.read import Notes


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
        from yardtoll.store.noted import notes_of

        name = f"run {self.run.number}" if self.run.number else "the notes"
        own = [r for r in self.readings if meter_in(r.subject) is None]
        return notes_of(name, own, self.marks, charges=self.method.charges)

    @property
    def notes_of_further(self) -> dict[int, Notes]:
        """Notes of further meters on the same load, by the meter's id; the marks are of all."""
        from yardtoll.store.noted import notes_of

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


def read_records(yard: YardFile, run: Run) -> RunRecords:
    """Everything a run's results are made of, but for its samples."""
    assert run.id is not None
    method = METHODS[run.method]
    by_panels = method.uses_panels
    looks_at_claims = by_panels or method.is_table
    recordings = yard.recordings(run.id)
    readings = yard.readings(run.id)
    ids = {r.meter_id for r in recordings if r.meter_id is not None}
    ids |= {further for r in readings if (further := meter_in(r.subject)) is not None}
    return RunRecords(
        run=run,
        station=yard.get(Station, run.station_id),
        meter=yard.get(Meter, run.meter_id) if run.meter_id is not None else None,
        meters={id_: yard.get(Meter, id_) for id_ in sorted(ids)},
        recordings=tuple(recordings),
        readings=tuple(readings),
        marks=tuple(yard.marks(run.id)),
        repeatability=yard.info().repeatability,
        site=yard.site() if by_panels else None,
        arrays=tuple(yard.arrays()) if by_panels else (),
        claims=tuple(c.claim for c in yard.claims(run.station_id)) if looks_at_claims else (),
        entries=tuple(yard.entries(run.id)),
    )
