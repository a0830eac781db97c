"""Whole tables, samples and pictures in and out of a yard, without a record for each row."""

import time
from collections.abc import Iterable
from typing import Any

import sqlalchemy as sa

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.store import recordings
from yardtoll.store.schema import photo_data
from yardtoll.store.schema import recording as recording_table
from yardtoll.store.yard_file import YardFile


def rows_of(yard: YardFile, table: sa.Table) -> list[dict[str, Any]]:
    """Every row of a table, removed and withdrawn ones too, in the order of its key."""
    with yard.reading() as connection:
        found = connection.execute(sa.select(table).order_by(*table.primary_key.columns))
        return [dict(row) for row in found.mappings()]


def put_rows(yard: YardFile, table: sa.Table, rows: Iterable[dict[str, Any]]) -> None:
    """Insert rows as they are, keys included."""
    values = list(rows)
    if values:
        with yard.changing() as connection:
            connection.execute(sa.insert(table), values)


def samples_of(
    yard: YardFile, recording_id: int
) -> tuple[FloatArray, dict[Quantity, FloatArray]] | None:
    """(times, columns) as recorded; None where there are none."""
    with yard.reading() as connection:
        return recordings.raw(connection, recording_id)


def recording_ids(yard: YardFile) -> list[int]:
    """The ids of all recordings, withdrawn ones too."""
    with yard.reading() as connection:
        return list(
            connection.execute(
                sa.select(recording_table.c.id).order_by(recording_table.c.id)
            ).scalars()
        )


def put_samples(
    yard: YardFile, recording_id: int, time_s: FloatArray, columns: dict[Quantity, FloatArray]
) -> None:
    """The samples of a recording that is there already."""
    now = recordings.Kept(at_s=time.time())
    with yard.changing() as connection:
        for start in range(0, time_s.size, recordings.ROWS_A_BLOCK):
            part = slice(start, start + recordings.ROWS_A_BLOCK)
            block = {quantity: values[part] for quantity, values in columns.items()}
            recordings.append_block(connection, recording_id, time_s[part], block, now)


def put_picture(yard: YardFile, photo_id: int, data: bytes) -> None:
    """A picture's bytes."""
    with yard.changing() as connection:
        connection.execute(sa.insert(photo_data).values(photo_id=photo_id, data=data))
