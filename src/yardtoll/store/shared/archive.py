"""A shared archive on a database server: each yard in a schema of its own, with the file's tables.

A yard is recorded in its file first. It is sent a station at a time, all or nothing: rows that are
there are put again under their keys, so that what is sent twice is there once, and what broke off
is sent anew. Nothing is ever taken away here.
"""

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert

from yardtoll.store import schema
from yardtoll.store.content import content_hashes
from yardtoll.store.package.bulk import put_rows, rows_of
from yardtoll.store.shared.address import ArchiveError, archive_url, shown
from yardtoll.store.yard_file import YardFile

_CONNECT_S = 5
_ROWS_AT_ONCE = 2000
_BLOCKS_AT_ONCE = 2
_BASE = (
    schema.yard, schema.site, schema.station, schema.meter, schema.load, schema.circuit,
    schema.cord, schema.solar_array, schema.yardstick, schema.score_point, schema.score_template,
    schema.size_class,
)  # fmt: skip
_OF_STATION = (
    schema.claim, schema.receiving, schema.observation, schema.review, schema.photo, schema.price,
    schema.run,
)  # fmt: skip
_OF_RUN = (schema.mark, schema.reading, schema.entry, schema.recording)
_AFTER_RUNS = (schema.appliance, schema.outage)
_NO_FIGURE = (schema.review, schema.photo, schema.outage)
SENT_TABLES = (
    *_BASE, *_OF_STATION, *_OF_RUN, schema.photo_data, schema.recording_block, *_AFTER_RUNS,
)  # fmt: skip
"""Every table but what is only kept ready; what others refer to comes first."""
_UID = re.compile(r"[0-9a-f]{32}")

_about = sa.MetaData()
_yards = sa.Table(
    "yardtoll_yard",
    _about,
    sa.Column("uid", sa.Text, primary_key=True),
    sa.Column("name", sa.Text, nullable=False),
    sa.Column("schema_version", sa.Integer, nullable=False),
    sa.Column("sent_at", sa.Text, nullable=False),
    schema="public",
)
_sent = sa.Table(
    "yardtoll_sent",
    _about,
    sa.Column("uid", sa.Text, primary_key=True),
    sa.Column("station_id", sa.Integer, primary_key=True),
    sa.Column("made_of", sa.Text, nullable=False),
    schema="public",
)
"""What each station was when it was sent last."""

Progress = Callable[[str, float | None], None]


@dataclass(frozen=True, kw_only=True)
class ArchivedYard:
    """One yard in an archive."""

    uid: str
    name: str
    schema_version: int
    sent_at: str


@dataclass(frozen=True, kw_only=True)
class Sent:
    """What a sending brought there."""

    stations: int
    rows: int


class SharedArchive:
    """A server's database.

    Args:
        address: like postgresql://user@host/name.

    Raises:
        ArchiveError: the address is none.
    """

    def __init__(self, address: str) -> None:
        self._url = archive_url(address)
        try:
            self._engine = sa.create_engine(
                self._url, pool_pre_ping=True, connect_args={"connect_timeout": _CONNECT_S}
            )
        except ImportError:
            raise ArchiveError("a shared archive needs the parts of yardtoll[archive]") from None

    @property
    def name(self) -> str:
        """Host and database."""
        return shown(self._url)

    def close(self) -> None:
        """Let its connections go."""
        self._engine.dispose()

    def yards(self) -> list[ArchivedYard]:
        """The yards that are there, by name."""
        with self._begun() as connection:
            self._prepare(connection)
            rows = connection.execute(sa.select(_yards).order_by(_yards.c.name, _yards.c.uid))
            return [ArchivedYard(**row) for row in rows.mappings()]

    def send(self, yard: YardFile, progress: Progress = lambda *_: None) -> Sent:
        """Send what changed since it was sent last, a station at a time.

        Raises:
            ArchiveError: the server is not there, or refuses; what was sent whole stays there.
        """
        info = yard.info()
        if not _UID.fullmatch(info.uid):
            raise ArchiveError(f"{yard.path.name} has no mark of its own to be sent under")
        words = content_hashes(yard, further=_NO_FIGURE)
        with self._begun(info.uid) as connection:
            self._prepare(connection)
            self._make_tables(connection, info.uid)
            rows = sum(_put(connection, t, rows_of(yard, t)) for t in _BASE)
            there = _sent_before(connection, info.uid)
        changed = [id_ for id_, word in words.items() if there.get(id_) != word]
        for number, id_ in enumerate(changed):
            progress(f"Station {number + 1} of {len(changed)}", number / len(changed))
            with self._begun(info.uid) as connection:
                rows += _send_station(connection, yard, id_)
                row = {"uid": info.uid, "station_id": id_, "made_of": words[id_]}
                _upsert(connection, _sent, [row])
        with self._begun(info.uid) as connection:
            rows += sum(_put(connection, t, rows_of(yard, t)) for t in _AFTER_RUNS)
            now = datetime.now(UTC).isoformat(timespec="seconds")
            about = {"uid": info.uid, "name": info.name, "sent_at": now,
                     "schema_version": schema.SCHEMA_VERSION}  # fmt: skip
            _upsert(connection, _yards, [about])
        return Sent(stations=len(changed), rows=rows)

    def fetch(self, uid: str, path: Path, progress: Progress = lambda *_: None) -> None:
        """Write one of its yards into a new file.

        Raises:
            ArchiveError: there is none of that mark, it is of another version, or the server is
                not there.
            YardError: the file cannot be written.
        """
        found = next((yard for yard in self.yards() if yard.uid == uid), None)
        if found is None:
            raise ArchiveError(f"{self.name} holds no such yard")
        if found.schema_version != schema.SCHEMA_VERSION:
            raise ArchiveError(f"{found.name} was sent by another version of Yard Toll")
        try:
            with YardFile.create_empty(path) as yard, self._begun(uid) as connection:
                for number, table in enumerate(SENT_TABLES):
                    progress(table.name, number / len(SENT_TABLES))
                    _fill(yard, connection, table)
        except ArchiveError:
            # Half a yard is none.
            path.unlink(missing_ok=True)
            raise

    # inner

    @contextmanager
    def _begun(self, uid: str = "") -> Iterator[sa.Connection]:
        """A transaction whose tables are those of one yard."""
        try:
            with self._engine.begin() as connection:
                if uid:
                    connection.execution_options(schema_translate_map={None: f"yard_{uid}"})
                yield connection
        except sa.exc.OperationalError as error:
            raise ArchiveError(f"the archive {self.name} is not there: {_why(error)}") from None
        except sa.exc.DBAPIError as error:
            raise ArchiveError(f"the archive {self.name} refused: {_why(error)}") from None

    @staticmethod
    def _prepare(connection: sa.Connection) -> None:
        """The two tables about all yards; one bench at a time makes them."""
        connection.execute(sa.text("SELECT pg_advisory_xact_lock(hashtext('yardtoll'))"))
        _about.create_all(connection)

    @staticmethod
    def _make_tables(connection: sa.Connection, uid: str) -> None:
        connection.execute(sa.schema.CreateSchema(f"yard_{uid}", if_not_exists=True))
        schema.metadata.create_all(connection, tables=list(SENT_TABLES))


def _fill(yard: YardFile, connection: sa.Connection, table: sa.Table) -> None:
    """One table of an archived yard into a file, few rows at a time where they are large."""
    few = table in (schema.recording_block, schema.photo_data)
    options = {"yield_per": _BLOCKS_AT_ONCE if few else _ROWS_AT_ONCE}
    query = sa.select(table).order_by(*table.primary_key.columns)
    for part in connection.execute(query, execution_options=options).mappings().partitions():
        put_rows(yard, table, [dict(row) for row in part])


def _sent_before(connection: sa.Connection, uid: str) -> dict[int, str]:
    query = sa.select(_sent.c.station_id, _sent.c.made_of).where(_sent.c.uid == uid)
    return {row.station_id: row.made_of for row in connection.execute(query)}


def _send_station(connection: sa.Connection, yard: YardFile, station_id: int) -> int:
    """All rows of a station; how many."""
    runs = sa.select(schema.run.c.id).where(schema.run.c.station_id == station_id)
    recordings = sa.select(schema.recording.c.id).where(schema.recording.c.run_id.in_(runs))
    photos = sa.select(schema.photo.c.id).where(schema.photo.c.station_id == station_id)
    sent = 0
    with yard.reading() as local:
        for table in _OF_STATION:
            sent += _copy(local, connection, table, table.c.station_id == station_id)
        for table in _OF_RUN:
            sent += _copy(local, connection, table, table.c.run_id.in_(runs))
        sent += _copy(
            local, connection, schema.photo_data, schema.photo_data.c.photo_id.in_(photos)
        )
        blocks = schema.recording_block
        # Blocks are joined when a run ends: those that are no more would be samples twice.
        there = sa.select(schema.recording.c.id).where(schema.recording.c.run_id.in_(runs))
        connection.execute(sa.delete(blocks).where(blocks.c.recording_id.in_(there)))
        sent += _copy(
            local, connection, blocks, blocks.c.recording_id.in_(recordings), _BLOCKS_AT_ONCE
        )
    return sent


def _copy(
    local: sa.Connection,
    connection: sa.Connection,
    table: sa.Table,
    condition: Any,
    at_once: int = _ROWS_AT_ONCE,
) -> int:
    """Rows of a table from the yard's file into the archive, some at a time."""
    query = sa.select(table).where(condition).order_by(*table.primary_key.columns)
    count = 0
    found = local.execute(query, execution_options={"yield_per": at_once})
    for part in found.mappings().partitions():
        count += _put(connection, table, [dict(row) for row in part])
    return count


def _put(connection: sa.Connection, table: sa.Table, rows: list[dict[str, Any]]) -> int:
    _upsert(connection, table, [{k: _plain(v) for k, v in row.items()} for row in rows])
    return len(rows)


def _upsert(connection: sa.Connection, table: sa.Table, rows: list[dict[str, Any]]) -> None:
    """Insert rows, or replace those of the same keys."""
    if not rows:
        return
    keys = [column.name for column in table.primary_key.columns]
    statement = insert(table)
    others = {c.name: statement.excluded[c.name] for c in table.columns if c.name not in keys}
    changed = (
        statement.on_conflict_do_update(index_elements=keys, set_=others)
        if others
        else statement.on_conflict_do_nothing()
    )
    connection.execute(changed, rows)


def _plain(value: Any) -> Any:
    """A text without the one sign that the server cannot keep."""
    return value.replace("\x00", "\ufffd") if isinstance(value, str) else value


def _why(error: sa.exc.DBAPIError) -> str:
    """The server's own first line."""
    return str(error.orig).strip().splitlines()[0][:160] if str(error.orig).strip() else "no answer"
