"""Whole tables, samples and pictures in and out of a yard, without a record for each row."""

import time
from collections.abc import Iterable
from typing import Any

import sqlalchemy as sa

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.store import traces
from yardtoll.store.schema import photo_data
from yardtoll.store.schema import trace as trace_table
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


def samples_of(yard: YardFile, run_id: int) -> tuple[FloatArray, dict[Quantity, FloatArray]] | None:
    """(times, columns) of a run as recorded; None where it has none."""
    with yard.reading() as connection:
        return traces.raw(connection, run_id)


def runs_with_traces(yard: YardFile) -> list[int]:
    """The ids of runs that have a trace."""
    with yard.reading() as connection:
        return list(
            connection.execute(sa.select(trace_table.c.run_id).order_by("run_id")).scalars()
        )


def put_samples(
    yard: YardFile, run_id: int, time_s: FloatArray, columns: dict[Quantity, FloatArray]
) -> None:
    """The samples of a run whose trace is there already."""
    now_s = time.time()
    with yard.changing() as connection:
        for start in range(0, time_s.size, traces.ROWS_A_BLOCK):
            part = slice(start, start + traces.ROWS_A_BLOCK)
            block = {quantity: values[part] for quantity, values in columns.items()}
            traces.append_block(connection, run_id, time_s[part], block, now_s)


def put_picture(yard: YardFile, photo_id: int, data: bytes) -> None:
    """A picture's bytes."""
    with yard.changing() as connection:
        connection.execute(sa.insert(photo_data).values(photo_id=photo_id, data=data))
