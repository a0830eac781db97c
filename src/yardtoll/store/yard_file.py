"""The yard file: records put and fetched, samples appended block by block, nothing ever edited."""

import dataclasses
import time
import uuid
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TypeVar

import sqlalchemy as sa

from yardtoll.core.conformance.scorecard import SHIPPED_POINTS
from yardtoll.core.conformance.yardsticks import SHIPPED_YARDSTICKS
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.formatting import quoted
from yardtoll.core.methods import METHODS
from yardtoll.store import recordings
from yardtoll.store.errors import YardError
from yardtoll.store.recordings import Columns, Kept
from yardtoll.store.records import (
    Appliance,
    Entry,
    Load,
    Mark,
    Meter,
    Observation,
    Photo,
    Reading,
    Receiving,
    Record,
    Recording,
    Review,
    Run,
    RunState,
    ScoreTemplate,
    Site,
    SizeClass,
    SolarArray,
    Station,
    StoredCircuit,
    StoredClaim,
    StoredCord,
    StoredOutage,
    StoredPrice,
    StoredScorePoint,
    StoredYardstick,
    YardInfo,
)
from yardtoll.store.schema import metadata, photo_data, standing
from yardtoll.store.yard_storage import YardStorage, nothing
from yardtoll.uptime import boot_id, boot_s

R = TypeVar("R", bound=Record)
OfRun = TypeVar("OfRun", bound=Mark | Reading | Entry | Recording)
OfStation = TypeVar(
    "OfStation",
    bound=StoredPrice | StoredOutage | StoredClaim | Receiving | Observation | Review | Photo,
)


def utc_now() -> str:
    """Now as ISO 8601 in UTC, to the millisecond."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def shipped_yardsticks() -> list[StoredYardstick]:
    """The yardsticks that come with the program, as a yard keeps them."""
    return [
        StoredYardstick(name=shipped.name, limit_ratio=shipped.limit, basis=shipped.basis.value)
        for shipped in SHIPPED_YARDSTICKS
    ]


class YardFile(YardStorage):
    """An open yard. Every change is kept as it is made.

    Safe to use from several threads: each statement takes a connection of its own, and writers
    wait for each other.
    """

    @classmethod
    def create(cls, path: Path, name: str, time_zone: str = "") -> "YardFile":
        """Make a new yard with the shipped yardsticks.

        Args:
            time_zone: of its site, by name; "" for the computer's, whichever opens it.

        Raises:
            YardError: something is there already, or the place cannot be written.
        """

        def fill(yard: YardFile) -> None:
            yard.put(YardInfo(name=name, created_at=utc_now(), uid=uuid.uuid4().hex))
            yard.put(dataclasses.replace(yard.site(), time_zone=time_zone))
            yard.put_shipped_yardsticks()

        return cls._fresh(path, fill)

    @classmethod
    def create_empty(cls, path: Path) -> "YardFile":
        """Make a new yard without a single row, to be filled from elsewhere.

        Raises:
            YardError: the place cannot be written.
        """

        def clear(yard: YardFile) -> None:
            with yard.changing() as connection:
                for table in reversed(metadata.sorted_tables):
                    connection.execute(sa.delete(table))

        return cls._fresh(path, clear)

    # records

    def put(self, record: R) -> R:
        """Insert a record without id, or replace the one with its id; returned with its id.

        Raises:
            ReadOnlyYardError: the yard is open elsewhere.
        """
        with self._changing() as connection:
            return self._put(connection, record)

    def put_all(self, records: Sequence[Record]) -> list[Record]:
        """Put several, all or none; returned with their ids."""
        with self._changing() as connection:
            return [self._put(connection, record) for record in records]

    def get(self, kind: type[R], id_: int) -> R:
        """The record of a kind with an id.

        Raises:
            YardError: there is none.
        """
        found = self._records.get(kind, id_)
        if found is None:
            raise YardError(f"{self.path.name} holds no {kind.__name__.lower()} number {id_}")
        return found

    def info(self) -> YardInfo:
        """The yard's own record."""
        return self.get(YardInfo, 1)

    def stations(self) -> list[Station]:
        """Stations that are not removed, in the order they came."""
        return self._present(Station)

    def station_named(self, name: str) -> Station:
        """A station by its name, upper and lower case alike.

        Raises:
            YardError: there is none; the message lists those there are.
        """
        stations = self.stations()
        for station in stations:
            if station.name.casefold() == name.strip().casefold():
                return station
        known = ", ".join(station.name for station in stations) or "none yet"
        raise YardError(f"{self.path.name} holds no station {quoted(name)}; there are: {known}")

    def meters(self) -> list[Meter]:
        """Meters that are not removed."""
        return self._present(Meter)

    def meters_by_use(self) -> list[Meter]:
        """Meters as they are offered: the one used last first, simulated ones after all others.

        Those that only tables were read with, such as one for USB ports, come at the very end.
        """
        used = [run for run in self.runs() if run.meter_id is not None]
        last = {run.meter_id: run.started_at for run in used if not METHODS[run.method].is_table}
        for_tables = {run.meter_id for run in used} - set(last)
        meters = sorted(self.meters(), key=lambda meter: last.get(meter.id or 0, ""), reverse=True)
        return sorted(meters, key=lambda meter: (meter.id in for_tables, meter.is_simulated))

    def loads(self) -> list[Load]:
        """Loads that are not removed."""
        return self._present(Load)

    def prices(self, station_id: int) -> list[StoredPrice]:
        """A station's prices that are not removed, in the order they were noted."""
        return self._of_station(StoredPrice, station_id)

    def size_classes(self) -> list[SizeClass]:
        """Size classes that are not removed, by their Wh; none where the usual ones hold."""
        return sorted(self._present(SizeClass), key=lambda found: (found.low_wh, found.id or 0))

    def score_templates(self) -> list[ScoreTemplate]:
        """Scorecards that are kept under a name, by name and version."""
        return sorted(self._present(ScoreTemplate), key=lambda t: (t.name.casefold(), t.version))

    def appliances(self) -> list[Appliance]:
        """The reviewer's own appliances that are not removed."""
        return self._present(Appliance)

    def outages(self, station_id: int) -> list[StoredOutage]:
        """A station's outages that are not removed, in the order they came."""
        return self._of_station(StoredOutage, station_id)

    def circuits(self) -> list[StoredCircuit]:
        """House circuits that are not removed."""
        return self._present(StoredCircuit)

    def cords(self) -> list[StoredCord]:
        """Cords that are not removed."""
        return self._present(StoredCord)

    def arrays(self) -> list[SolarArray]:
        """Arrays that are not removed."""
        return self._present(SolarArray)

    def site(self) -> Site:
        """The site of the bench."""
        return self.get(Site, 1)

    def claims(self, station_id: int) -> list[StoredClaim]:
        """A station's claims that are not removed, in the order they came."""
        return self._of_station(StoredClaim, station_id)

    def receiving(self, station_id: int) -> Receiving:
        """How a station came; an empty record without id where nothing was noted."""
        found = self._of_station(Receiving, station_id)
        return found[0] if found else Receiving(station_id=station_id)

    def observations(self, station_id: int) -> list[Observation]:
        """What was seen of a station by eye, not taken back, in the order it was noted."""
        return self._of_station(Observation, station_id)

    def review(self, station_id: int) -> Review:
        """What the reviewer wrote of a station; an empty record without id where nothing was."""
        found = self._of_station(Review, station_id)
        return found[0] if found else Review(station_id=station_id)

    def put_shipped_yardsticks(self) -> None:
        """The yardsticks that every new yard begins with."""
        for yardstick in shipped_yardsticks():
            self.put(yardstick)

    def put_shipped_score_points(self) -> None:
        """The scorecard that every new yard begins with."""
        for position, point in enumerate(SHIPPED_POINTS):
            self.put(StoredScorePoint(position=position, **dataclasses.asdict(point)))

    def score_points(self) -> list[StoredScorePoint]:
        """The scorecard's points that are not removed, in their order."""
        return sorted(self._present(StoredScorePoint), key=lambda p: (p.position, p.id or 0))

    def photos(self, station_id: int) -> list[Photo]:
        """A station's photos that are not removed, without their bytes."""
        return self._of_station(Photo, station_id)

    def photo_bytes(self, photo_id: int) -> bytes:
        """The picture itself, as it was taken in; empty where there is none."""
        query = sa.select(photo_data.c.data).where(photo_data.c.photo_id == photo_id)
        with self._database.reading() as connection:
            return bytes(connection.execute(query).scalar() or b"")

    def keep_photo(self, photo: Photo, data: bytes) -> Photo:
        """Keep a new photo and its bytes, both or neither; returned with its id."""
        with self._changing() as connection:
            kept = self._put(connection, photo)
            connection.execute(sa.insert(photo_data).values(photo_id=kept.id, data=data))
            return kept

    def yardsticks(self) -> list[StoredYardstick]:
        """Yardsticks that are not removed."""
        return self._present(StoredYardstick)

    def runs(self, station_id: int | None = None) -> list[Run]:
        """Runs of one station or of all, planned ones too, by their start; no dropped plans."""
        records = self._records
        found = (
            records.all(Run) if station_id is None else records.of(Run, "station_id", station_id)
        )
        standing = (run for run in found if run.state != RunState.DROPPED.value)
        return sorted(standing, key=lambda run: (run.started_at, run.id or 0))

    def unfinished_runs(self) -> list[Run]:
        """Runs still marked as running: live now, or left behind by a program that died."""
        return self._records.of(Run, "state", RunState.RUNNING.value)

    def next_number(self, station_id: int) -> int:
        """The number of a station's next run, from 1."""
        return max((run.number for run in self.runs(station_id)), default=0) + 1

    def marks(self, run_id: int) -> list[Mark]:
        """A run's marks in order of time, withdrawn ones left out."""
        return self._of_run(Mark, run_id)

    def readings(self, run_id: int) -> list[Reading]:
        """A run's typed readings in order of time, withdrawn ones left out."""
        return self._of_run(Reading, run_id)

    def entries(self, run_id: int) -> list[Entry]:
        """The lines of a run that is kept as a table, in their order; no withdrawn ones."""
        return self._of_run(Entry, run_id, "position")

    # figures kept ready

    def standings(self, asked: str) -> dict[int, dict[str, tuple[str, Any]]]:
        """(what it was made of, answer) by station and quantity, of what was asked."""
        query = sa.select(standing).where(standing.c.asked == asked)
        found: dict[int, dict[str, tuple[str, Any]]] = {}
        with self._database.reading() as connection:
            for row in connection.execute(query):
                found.setdefault(row.station_id, {})[row.quantity] = (row.made_of, row.answer)
        return found

    def keep_standings(
        self, station_id: int, asked: str, made_of: str, answers: Mapping[str, Any]
    ) -> None:
        """Keep answers in place of those that were kept; nobody has to read anything again."""
        rows = [
            {"station_id": station_id, "asked": asked, "quantity": quantity, "made_of": made_of,
             "answer": answer}
            for quantity, answer in answers.items()
        ]  # fmt: skip
        same = (standing.c.station_id == station_id) & (standing.c.asked == asked)
        with self._changing(nothing) as connection:
            connection.execute(sa.delete(standing).where(same))
            if rows:
                connection.execute(sa.insert(standing), rows)

    # recordings and their samples

    def recordings(self, run_id: int) -> list[Recording]:
        """What a run's instruments recorded, in the order they began; withdrawn ones left out."""
        return self._of_run(Recording, run_id, "id")

    def main_recording(self, run_id: int) -> Recording | None:
        """The first that measured the run's energy; None for a run without one."""
        return next((r for r in self.recordings(run_id) if Role(r.role).is_energy), None)

    def append_samples(self, recording_id: int, time_s: Any, columns: Columns) -> None:
        """Keep a block of samples; on disk when this returns."""
        kept = Kept(at_s=time.time(), boot_s=boot_s(), boot_id=boot_id())
        with self._changing(nothing) as connection:
            recordings.append_block(connection, recording_id, time_s, columns, kept)
        self._samples.forget(recording_id)

    def merge_samples(self, run_id: int) -> None:
        """Join the blocks of a run's recordings into few large ones, when it has ended."""
        with self._changing() as connection:
            for recording in self.recordings(run_id):
                recordings.merge_blocks(connection, recording.id or 0)
        self._samples.forget()

    def keep_run(self, run: Run, parts: Sequence[tuple[Recording, Trace]]) -> Run:
        """Keep a new run with all it recorded, or nothing; returned with its id.

        The recordings' run, quantities, clock and notices are filled in from the run and traces.
        """
        with self._changing() as connection:
            kept = self._put(connection, run)
            assert kept.id is not None
            for recording, trace in parts:
                self._keep(connection, dataclasses.replace(recording, run_id=kept.id), trace)
            return kept

    def keep_recording(self, recording: Recording, trace: Trace) -> Recording:
        """Keep a further recording of a run with its samples, or nothing; returned with its id."""
        with self._changing() as connection:
            return self._keep(connection, recording, trace)

    def _keep(self, connection: sa.Connection, recording: Recording, trace: Trace) -> Recording:
        kept = self._put(connection, recordings.described(recording, trace))
        assert kept.id is not None
        now = Kept(at_s=time.time())
        for start in range(0, trace.time_s.size, recordings.ROWS_A_BLOCK):
            rows = slice(start, start + recordings.ROWS_A_BLOCK)
            columns = {q: values[rows] for q, values in trace.columns.items()}
            recordings.append_block(connection, kept.id, trace.time_s[rows], columns, now)
        return kept

    def samples(self, recording: Recording) -> Trace | None:
        """What one instrument recorded, from 0 s on; None when it has no samples."""

        def read() -> Trace | None:
            with self._database.reading() as connection:
                return recordings.load(connection, recording)

        self._look_again()
        return self._samples.get(recording, read)

    def trace(self, run_id: int) -> Trace | None:
        """The samples of a run's main recording; None when it has none."""
        main = self.main_recording(run_id)
        return self.samples(main) if main is not None else None

    def first_and_last_sample_s(self, recording_id: int) -> tuple[float, float] | None:
        """The first and last sample on the instrument's own time; None without samples."""
        with self._database.reading() as connection:
            return recordings.first_and_last(connection, recording_id)

    def last_kept(self, recording_id: int) -> Kept | None:
        """When a recording's newest samples were kept; None without samples."""
        with self._database.reading() as connection:
            return recordings.last_kept(connection, recording_id)

    def away_s(self, recording_id: int) -> float | None:
        """S since a recording's newest samples were kept; None where that is not known.

        By the computer's uptime while it was not restarted, else by its clock.
        """
        kept = self.last_kept(recording_id)
        if kept is None:
            return None
        if kept.boot_s is not None and kept.boot_id and kept.boot_id == boot_id():
            return max(boot_s() - kept.boot_s, 0.0)
        by_clock_s = time.time() - kept.at_s
        return by_clock_s if by_clock_s >= 0 else None

    # inner

    def _present(self, kind: type[R]) -> list[R]:
        return self._records.of(kind, "removed", False)

    def _of_station(self, kind: type[OfStation], station_id: int) -> list[OfStation]:
        found = self._records.of(kind, "station_id", station_id)
        return [record for record in found if not record.removed]

    def _of_run(self, kind: type[OfRun], run_id: int, order: str = "time_s") -> list[OfRun]:
        found = self._records.of(kind, "run_id", run_id)
        standing = [record for record in found if not record.withdrawn]
        return sorted(standing, key=lambda record: getattr(record, order))
