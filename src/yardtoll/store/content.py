"""What a station's figures rest on, as one short word for each: it changes when any of it does."""

import hashlib
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import sqlalchemy as sa

from yardtoll.store import schema
from yardtoll.store.yard_file import YardFile

_OF_ALL = (
    schema.yard, schema.site, schema.meter, schema.load, schema.solar_array, schema.score_point,
)  # fmt: skip
_OF_STATION = (schema.claim, schema.receiving, schema.observation, schema.price, schema.run)
_OF_RUN = (schema.mark, schema.reading, schema.entry, schema.recording)


def content_hashes(
    yard: YardFile, only: int | None = None, further: Sequence[sa.Table] = ()
) -> dict[int, str]:
    """A word for each station, of all its rows and of those that hold for every station.

    Args:
        only: the one station that is asked for; None for all.
        further: tables of stations on which no figure rests.
    """
    words: dict[int, list[str]] = defaultdict(list)
    runs, blocks = sa.select(schema.run.c.id, schema.run.c.station_id), _BLOCKS
    own: dict[str, Any] = {}
    if only is not None:
        runs = runs.where(schema.run.c.station_id == only)
        of_runs = runs.with_only_columns(schema.run.c.id)
        blocks = blocks.where(schema.recording.c.run_id.in_(of_runs))
        own = {"id": [only], "station_id": [only], "run_id": of_runs}
    with yard.reading() as connection:
        common = [repr(row) for table in _OF_ALL for row in _rows(connection, table)]
        for station in _rows(connection, schema.station, "id", own):
            words[station.id].append(repr(station))
        for table in (*_OF_STATION, *further):
            for row in _rows(connection, table, "station_id", own):
                words[row.station_id].append(f"{table.name}{row!r}")
        station_of = {row.id: row.station_id for row in connection.execute(runs)}
        for table in _OF_RUN:
            for row in _rows(connection, table, "run_id", own):
                words[station_of[row.run_id]].append(f"{table.name}{row!r}")
        for run_id, count, kept in connection.execute(blocks):
            words[station_of[run_id]].append(f"{run_id} {count} {kept}")
    shared = _word(common)
    return {id_: f"{_word(parts)}{shared}" for id_, parts in words.items()}


def _rows(
    connection: sa.Connection, table: sa.Table, key: str = "", own: Mapping[str, Any] | None = None
) -> Iterable[sa.Row[Any]]:
    """A table's rows in their order; of one station where ``own`` says which."""
    query = sa.select(table).order_by(table.c.id)
    if own:
        query = query.where(table.c[key].in_(own[key]))
    return connection.execute(query)


def _word(rows: list[str]) -> str:
    return hashlib.blake2b("\n".join(rows).encode(), digest_size=16).hexdigest()


_BLOCKS = (
    sa.select(
        schema.recording.c.run_id,
        sa.func.count(schema.recording_block.c.seq),
        sa.func.sum(schema.recording_block.c.row_count),
    )
    .join(schema.recording_block, schema.recording_block.c.recording_id == schema.recording.c.id)
    .group_by(schema.recording.c.run_id)
    .order_by(schema.recording.c.run_id)
)
