"""Samples in the yard file, in blocks: column after column, time first."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import sqlalchemy as sa

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.timebase import clean_time
from yardtoll.core.electrical.trace import ClockBasis, Code, FloatArray, Notice, Trace
from yardtoll.core.formatting import counted
from yardtoll.store.blocks import checksum, from_bytes, is_sound, to_bytes
from yardtoll.store.records import Recording
from yardtoll.store.schema import recording as recording_table
from yardtoll.store.schema import recording_block as block_table

Columns = Mapping[Quantity, FloatArray]

ROWS_A_BLOCK = 1_000_000
"""Merged blocks are cut here: SQLite holds at most a gigabyte in one cell."""


# Made once: several meters at ten samples a second have a block kept twenty times a second.
_OF_RECORDING = sa.bindparam("recording_id", type_=sa.Integer)
_QUANTITIES = sa.select(recording_table.c.quantities).where(recording_table.c.id == _OF_RECORDING)
_LAST_SEQ = sa.select(sa.func.max(block_table.c.seq)).where(
    block_table.c.recording_id == _OF_RECORDING
)
_INSERT = sa.insert(block_table)


def described(recording: Recording, trace: Trace) -> Recording:
    """A recording with what a trace says of itself."""
    return replace(
        recording,
        name=trace.name,
        quantities=tuple(q.value for q in trace.columns),
        clock_s=trace.clock_s,
        clock_basis=trace.clock_basis.value if trace.clock_basis else None,
        notices=tuple((n.code.value, n.message) for n in trace.notices),
    )


@dataclass(frozen=True, kw_only=True)
class Kept:
    """When a block was kept.

    Attributes:
        at_s: s since 1970, by the computer's clock.
        boot_s: s since the computer was started, which no change of the clock moves; None for
            samples that came from a file.
        boot_id: of that start of the computer.
    """

    at_s: float
    boot_s: float | None = None
    boot_id: str | None = None


def append_block(
    connection: sa.Connection,
    recording_id: int,
    time_s: FloatArray,
    columns: Columns,
    kept: Kept,
) -> None:
    """Add samples after the last block."""
    quantities = _quantities(connection, recording_id)
    missing = np.full(time_s.size, np.nan)
    table = [time_s, *(columns.get(q, missing) for q in quantities)]
    last = connection.execute(_LAST_SEQ, {"recording_id": recording_id}).scalar()
    _insert(connection, recording_id, 0 if last is None else last + 1, table, kept)


def merge_blocks(connection: sa.Connection, recording_id: int) -> None:
    """Replace a recording's many blocks by few, the samples unchanged; not with damage in them."""
    table, damaged = _read_all(connection, recording_id)
    kept = last_kept(connection, recording_id)
    if table is None or kept is None or damaged:
        return
    connection.execute(sa.delete(block_table).where(block_table.c.recording_id == recording_id))
    for seq, start in enumerate(range(0, table.shape[1], ROWS_A_BLOCK)):
        _insert(connection, recording_id, seq, table[:, start : start + ROWS_A_BLOCK], kept)


def load(connection: sa.Connection, recording: Recording) -> Trace | None:
    """All samples of a recording with time from its first one; None when there are none.

    Times that do not rise, as a meter's restart leaves them, are repaired and reported; damaged
    blocks and samples without a time are left out and reported.
    """
    assert recording.id is not None
    table, damaged = _read_all(connection, recording.id)
    if table is None or table.shape[1] == 0:
        return None
    name = recording.name or "live"
    notices = [Notice(code=Code(code), message=message) for code, message in recording.notices]
    if damaged:
        message = f"{name}: {counted(damaged, 'block')} of samples damaged in the file, left out"
        notices.append(Notice(code=Code.GAP, message=message))
    timed = np.isfinite(table[0])
    if not timed.all():
        table = table[:, timed]
        count = counted(int(np.count_nonzero(~timed)), "sample")
        notices.append(
            Notice(code=Code.MISSING_VALUES, message=f"{name}: {count} without a time left out")
        )
        if not table.shape[1]:
            return None
    time_s = table[0] - table[0][0]
    columns = table[1:]
    if not np.all(np.diff(time_s) > 0):
        clean = clean_time(table[0])
        time_s = clean.time_s
        columns = columns if clean.keep is None else columns[:, clean.keep]
        message = f"{name}: sample times that did not rise were put in order"
        notices.append(Notice(code=Code.TIME_NOT_MONOTONIC, message=message))
    return Trace(
        name=name,
        time_s=time_s,
        columns=dict(zip(map(Quantity, recording.quantities), columns, strict=True)),
        clock_s=recording.clock_s,
        clock_basis=ClockBasis(recording.clock_basis) if recording.clock_basis else None,
        notices=tuple(notices),
    )


def raw(
    connection: sa.Connection, recording_id: int
) -> tuple[FloatArray, dict[Quantity, FloatArray]] | None:
    """(times, columns) as recorded, nothing repaired; None when there are no samples."""
    table, _ = _read_all(connection, recording_id)
    if table is None:
        return None
    return table[0], dict(zip(_quantities(connection, recording_id), table[1:], strict=True))


def first_and_last(connection: sa.Connection, recording_id: int) -> tuple[float, float] | None:
    """First and last sample time as recorded, reading the first and the last sound block."""
    width = 1 + len(_quantities(connection, recording_id))
    ends = []
    for order in (block_table.c.seq.asc(), block_table.c.seq.desc()):
        rows = connection.execute(
            sa.select(block_table.c.row_count, block_table.c.data, block_table.c.checksum)
            .where(block_table.c.recording_id == recording_id)
            .order_by(order)
        )
        sound = (r for r in rows if is_sound(r.row_count, width, r.data, r.checksum))
        row = next(sound, None)
        rows.close()
        if row is None:
            return None
        ends.append(from_bytes(row.data, row.row_count, width)[0])
    return float(ends[0][0]), float(ends[1][-1])


def last_kept(connection: sa.Connection, recording_id: int) -> Kept | None:
    """When the newest samples were kept; None without samples."""
    columns = block_table.c
    row = connection.execute(
        sa.select(columns.kept_at_s, columns.kept_boot_s, columns.boot_id)
        .where(columns.recording_id == recording_id)
        .order_by(columns.seq.desc())
        .limit(1)
    ).one_or_none()
    if row is None:
        return None
    return Kept(at_s=row.kept_at_s, boot_s=row.kept_boot_s, boot_id=row.boot_id)


def _quantities(connection: sa.Connection, recording_id: int) -> list[Quantity]:
    found = connection.execute(_QUANTITIES, {"recording_id": recording_id}).scalar_one()
    return [Quantity(name) for name in found]


def _read_all(connection: sa.Connection, recording_id: int) -> tuple[FloatArray | None, int]:
    """(1 + columns, n) float64 of all sound blocks in order, and how many blocks are damaged."""
    width = 1 + len(_quantities(connection, recording_id))
    rows = connection.execute(
        sa.select(block_table.c.row_count, block_table.c.data, block_table.c.checksum)
        .where(block_table.c.recording_id == recording_id)
        .order_by(block_table.c.seq)
    )
    blocks, damaged = [], 0
    for row in rows:
        if is_sound(row.row_count, width, row.data, row.checksum):
            try:
                blocks.append(from_bytes(row.data, row.row_count, width))
            except ValueError:
                damaged += 1
        elif row.row_count or row.data:
            damaged += 1
    if not blocks:
        return None, damaged
    return (np.concatenate(blocks, axis=1) if len(blocks) > 1 else blocks[0]), damaged


def _insert(
    connection: sa.Connection,
    recording_id: int,
    seq: int,
    table: FloatArray | Sequence[FloatArray],
    kept: Kept,
) -> None:
    data = to_bytes(table)
    row = {
        "recording_id": recording_id,
        "seq": seq,
        "row_count": table[0].size,
        "kept_at_s": kept.at_s,
        "kept_boot_s": kept.boot_s,
        "boot_id": kept.boot_id,
        "checksum": checksum(data),
        "data": data,
    }
    connection.execute(_INSERT, row)
