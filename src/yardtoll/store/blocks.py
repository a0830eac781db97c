"""One block of samples as bytes, and back: bare while a run goes, packed when it has ended.

Bare is little-endian float64, column after column. Packed is each column by itself as a Blosc chunk
(bits of the same weight side by side, then Zstandard), where that is shorter. A meter writes
figures with some decimals: where all of a column come back exactly from whole numbers, those are
packed. A column that does not change takes next to nothing; what comes back is the same to the last
bit.
"""

import struct
import zlib
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from yardtoll.core.electrical.trace import FloatArray

MAGIC = b"YTB1"
_FLOAT = np.dtype("<f8")
_WHOLE = np.dtype("<i4")
_AS_IT_IS = 255
"""In place of a column's decimals: it is packed as float64."""
_MOST_DECIMALS = 6
_LOOKED_AT = 2048
_ROWS_AT_A_TIME = 16_384
"""They stay in the processor's cache."""
_FEWEST_ROWS = 256
"""Fewer are not worth packing: a block of a second while it is recorded."""
_MOST_ROWS = 16_000_000
"""More are in no block of ours; a chunk that claims so many is not unpacked."""
_COLUMN = struct.Struct("<IB")
"""Of each column: bytes of its chunk, and its decimals."""
_CHUNK_HEAD = struct.Struct("<4B3I")
"""Of a Blosc chunk: versions, flags, type size; bytes unpacked, of a block, and packed."""


def to_bytes(table: FloatArray | Sequence[FloatArray]) -> bytes:
    """A block's bytes of its columns, each (n,) float64."""
    bare = [np.ascontiguousarray(column, dtype=_FLOAT) for column in table]
    if bare[0].size < _FEWEST_ROWS:
        return b"".join(column.tobytes() for column in bare)
    # Loaded where samples are packed or unpacked, not with every command of the shell.
    from numcodecs.blosc import BITSHUFFLE, Blosc  # noqa: PLC0415

    packer = Blosc(cname="zstd", clevel=1, shuffle=BITSHUFFLE)
    heads, chunks = [], []
    for column in bare:
        whole, decimals = _whole_numbers(column)
        chunks.append(bytes(packer.encode(column if whole is None else whole)))
        heads.append(_COLUMN.pack(len(chunks[-1]), decimals))
    packed = b"".join([MAGIC, *heads, *chunks])
    if len(packed) < sum(column.nbytes for column in bare):
        return packed
    return b"".join(column.tobytes() for column in bare)


def from_bytes(data: bytes, row_count: int, width: int) -> FloatArray:
    """(width, row_count) float64 of a block that is sound.

    Raises:
        ValueError: it is not.
    """
    if len(data) == row_count * width * _FLOAT.itemsize:
        return np.frombuffer(data, dtype=_FLOAT).reshape(width, row_count)
    columns = _columns(data, row_count, width)
    if columns is None:
        raise ValueError("no block of so many rows")
    from numcodecs.blosc import Blosc  # noqa: PLC0415

    unpacker = Blosc()
    table = np.empty((width, row_count), dtype=_FLOAT)
    for values, (chunk, decimals) in zip(table, columns, strict=True):
        try:
            if decimals == _AS_IT_IS:
                unpacker.decode(chunk, out=values)
            else:
                whole = np.frombuffer(unpacker.decode(chunk), dtype=_WHOLE)
                np.divide(whole, 10.0**decimals, out=values)
        except RuntimeError as error:
            raise ValueError("a column cannot be unpacked") from error
    return table


def checksum(data: bytes) -> int:
    """CRC-32 of a block, as zlib, PNG and Ethernet have it."""
    return zlib.crc32(data)


def is_sound(row_count: object, width: int, data: object, known: object) -> bool:
    """Whether a block is what was written: its length, and its checksum where it has one.

    In a damaged file any of the cells may be of any type.
    """
    if not isinstance(row_count, int) or not isinstance(data, bytes) or row_count <= 0:
        return False
    whole = len(data) == row_count * width * _FLOAT.itemsize
    whole = whole or _columns(data, row_count, width) is not None
    return whole and (known is None or known == checksum(data))


def _whole_numbers(column: FloatArray) -> tuple[NDArray[np.int32] | None, int]:
    """A column times a power of ten, and which, where it comes back from that to the last bit."""
    some = np.ascontiguousarray(column[:: max(1, column.size // _LOOKED_AT)])
    with np.errstate(invalid="ignore", over="ignore"):
        for decimals in range(_MOST_DECIMALS + 1):
            if _all_whole(some, decimals) is None:
                continue
            whole = _all_whole(column, decimals)
            if whole is not None:
                return whole, decimals
    return None, _AS_IT_IS


def _all_whole(column: FloatArray, decimals: int) -> NDArray[np.int32] | None:
    """Whole numbers that give the column back to the last bit, as it is unpacked; None if none do.

    A number too large, no number, and a zero below zero become others, which do not.
    """
    whole = np.empty(column.size, dtype=_WHOLE)
    room = np.empty(min(column.size, _ROWS_AT_A_TIME))
    for start in range(0, column.size, _ROWS_AT_A_TIME):
        part = column[start : start + _ROWS_AT_A_TIME]
        found, scaled = whole[start : start + part.size], room[: part.size]
        np.multiply(part, 10.0**decimals, out=scaled)
        np.copyto(found, np.rint(scaled, out=scaled), casting="unsafe")
        back = np.divide(found, 10.0**decimals, out=scaled)
        if not np.array_equal(back.view(np.int64), part.view(np.int64)):
            return None
    return whole


def _columns(data: bytes, row_count: int, width: int) -> list[tuple[bytes, int]] | None:
    """Each column's chunk and decimals; None where one has not as many rows as it should."""
    at = len(MAGIC) + _COLUMN.size * width
    if row_count > _MOST_ROWS or not data.startswith(MAGIC) or len(data) < at:
        return None
    found = []
    for number in range(width):
        size, decimals = _COLUMN.unpack_from(data, len(MAGIC) + _COLUMN.size * number)
        chunk = data[at : at + size]
        at += size
        if len(chunk) < max(size, _CHUNK_HEAD.size):
            return None
        *_, unpacked, _, packed = _CHUNK_HEAD.unpack_from(chunk)
        item = _FLOAT.itemsize if decimals == _AS_IT_IS else _WHOLE.itemsize
        known = decimals <= _MOST_DECIMALS or decimals == _AS_IT_IS
        if not known or unpacked != row_count * item or packed != size:
            return None
        found.append((chunk, decimals))
    return found if at == len(data) else None
