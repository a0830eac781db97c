"""Samples in the yard file: blocks of little-endian float64, column after column, time first."""

from collections.abc import Mapping, Sequence

import numpy as np
import sqlalchemy as sa

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.timebase import clean_time
from yardtoll.core.electrical.trace import ClockBasis, Code, FloatArray, Notice, Trace
from yardtoll.store.schema import trace as header_table
from yardtoll.store.schema import trace_block

Columns = Mapping[Quantity, FloatArray]

ROWS_A_BLOCK = 1_000_000
"""Merged blocks are cut here: SQLite holds at most a gigabyte in one cell."""
_FLOAT = np.dtype("<f8")


def insert_header(
    connection: sa.Connection, run_id: int, quantities: Sequence[Quantity], trace: Trace | None
) -> None:
    """One row that says what the blocks hold."""
    connection.execute(
        sa.insert(header_table).values(
            run_id=run_id,
            quantities=[q.value for q in quantities],
            name=trace.name if trace else "",
            clock_s=trace.clock_s if trace else None,
            clock_basis=trace.clock_basis.value if trace and trace.clock_basis else None,
            notices=[[n.code.value, n.message] for n in trace.notices] if trace else [],
        )
    )


def append_block(
    connection: sa.Connection,
    run_id: int,
    time_s: FloatArray,
    columns: Columns,
    kept_at_s: float,
) -> None:
    """Add samples after the last block, kept at a moment in s since 1970."""
    quantities = _quantities(connection, run_id)
    missing = np.full(time_s.size, np.nan)
    table = np.stack([time_s, *(columns.get(q, missing) for q in quantities)])
    last = connection.execute(
        sa.select(sa.func.max(trace_block.c.seq)).where(trace_block.c.run_id == run_id)
    ).scalar()
    _insert(connection, run_id, 0 if last is None else last + 1, table, kept_at_s)


def merge_blocks(connection: sa.Connection, run_id: int) -> None:
    """Replace a run's many blocks by few, the samples unchanged."""
    table = _read_all(connection, run_id)
    kept_at_s = last_kept_at_s(connection, run_id)
    if table is None or kept_at_s is None:
        return
    connection.execute(sa.delete(trace_block).where(trace_block.c.run_id == run_id))
    for seq, start in enumerate(range(0, table.shape[1], ROWS_A_BLOCK)):
        _insert(connection, run_id, seq, table[:, start : start + ROWS_A_BLOCK], kept_at_s)


def load(connection: sa.Connection, run_id: int) -> Trace | None:
    """All samples of a run with time from its first one; None when there are none.

    Times that do not rise, as a meter's restart leaves them, are repaired and told.
    """
    header = connection.execute(
        sa.select(header_table).where(header_table.c.run_id == run_id)
    ).one_or_none()
    table = _read_all(connection, run_id)
    if header is None or table is None or table.shape[1] == 0:
        return None
    name = header.name or "live"
    notices = [Notice(code=Code(code), message=message) for code, message in header.notices]
    time_s = table[0] - table[0][0]
    columns = table[1:]
    if not np.all(np.diff(time_s) > 0):
        clean = clean_time(table[0])
        time_s, columns = clean.time_s, columns[:, clean.keep]
        message = f"{name}: sample times that did not rise were put in order"
        notices.append(Notice(code=Code.TIME_NOT_MONOTONIC, message=message))
    return Trace(
        name=name,
        time_s=time_s,
        columns=dict(zip(map(Quantity, header.quantities), columns, strict=True)),
        clock_s=header.clock_s,
        clock_basis=ClockBasis(header.clock_basis) if header.clock_basis else None,
        notices=tuple(notices),
    )


def raw(
    connection: sa.Connection, run_id: int
) -> tuple[FloatArray, dict[Quantity, FloatArray]] | None:
    """(times, columns) as recorded, nothing repaired; None when there are no samples."""
    table = _read_all(connection, run_id)
    if table is None:
        return None
    return table[0], dict(zip(_quantities(connection, run_id), table[1:], strict=True))


def first_and_last(connection: sa.Connection, run_id: int) -> tuple[float, float] | None:
    """First and last sample time as recorded, reading only the two blocks they stand in."""
    ends = []
    for order in (trace_block.c.seq.asc(), trace_block.c.seq.desc()):
        row = connection.execute(
            sa.select(trace_block.c.row_count, trace_block.c.data)
            .where(trace_block.c.run_id == run_id)
            .order_by(order)
            .limit(1)
        ).one_or_none()
        if row is None:
            return None
        ends.append(np.frombuffer(row.data, dtype=_FLOAT, count=row.row_count))
    return float(ends[0][0]), float(ends[1][-1])


def last_kept_at_s(connection: sa.Connection, run_id: int) -> float | None:
    """When the newest samples were kept, s since 1970; None without samples."""
    return connection.execute(
        sa.select(sa.func.max(trace_block.c.kept_at_s)).where(trace_block.c.run_id == run_id)
    ).scalar()


def _quantities(connection: sa.Connection, run_id: int) -> list[Quantity]:
    found = connection.execute(
        sa.select(header_table.c.quantities).where(header_table.c.run_id == run_id)
    ).scalar_one()
    return [Quantity(name) for name in found]


def _read_all(connection: sa.Connection, run_id: int) -> FloatArray | None:
    """(1 + columns, n) float64 of all blocks in order; None when there is no block."""
    rows = connection.execute(
        sa.select(trace_block.c.row_count, trace_block.c.data)
        .where(trace_block.c.run_id == run_id)
        .order_by(trace_block.c.seq)
    )
    blocks = [
        np.frombuffer(row.data, dtype=_FLOAT).reshape(-1, row.row_count)
        for row in rows
        if row.row_count
    ]
    if not blocks:
        return None
    return np.concatenate(blocks, axis=1) if len(blocks) > 1 else blocks[0]


def _insert(
    connection: sa.Connection, run_id: int, seq: int, table: FloatArray, kept_at_s: float
) -> None:
    data = np.ascontiguousarray(table, dtype=_FLOAT).tobytes()
    connection.execute(
        sa.insert(trace_block).values(
            run_id=run_id, seq=seq, row_count=table.shape[1], kept_at_s=kept_at_s, data=data
        )
    )
