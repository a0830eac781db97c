"""What a station's figures rest on, as one short word for each: it changes when any of it does."""

import hashlib
from collections import defaultdict

import sqlalchemy as sa

from yardtoll.store import schema
from yardtoll.store.yard_file import YardFile

_OF_ALL = (
    schema.yard, schema.site, schema.meter, schema.load, schema.solar_array, schema.score_point,
)  # fmt: skip
_OF_STATION = (schema.claim, schema.receiving, schema.observation, schema.price, schema.run)
_OF_RUN = (schema.mark, schema.reading, schema.entry, schema.recording)


def content_hashes(yard: YardFile) -> dict[int, str]:
    """A word for each station, of all its rows and of those that hold for every station."""
    common: list[str] = []
    words: dict[int, list[str]] = defaultdict(list)
    with yard.reading() as connection:
        for table in _OF_ALL:
            rows = connection.execute(sa.select(table).order_by(table.c.id))
            common += [repr(tuple(row)) for row in rows]
        for row in connection.execute(sa.select(schema.station).order_by(schema.station.c.id)):
            words[row.id].append(repr(tuple(row)))
        for table in _OF_STATION:
            for row in connection.execute(sa.select(table).order_by(table.c.id)):
                words[row.station_id].append(f"{table.name}{tuple(row)!r}")
        runs = connection.execute(sa.select(schema.run.c.id, schema.run.c.station_id))
        station_of = {row.id: row.station_id for row in runs}
        for table in _OF_RUN:
            for row in connection.execute(sa.select(table).order_by(table.c.id)):
                words[station_of[row.run_id]].append(f"{table.name}{tuple(row)!r}")
        for run_id, blocks, rows in connection.execute(_BLOCKS):
            words[station_of[run_id]].append(f"{run_id} {blocks} {rows}")
    shared = _word(common)
    return {id_: f"{_word(rows)}{shared}" for id_, rows in words.items()}


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
