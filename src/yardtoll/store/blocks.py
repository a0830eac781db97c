"""One block of samples as bytes, and back: bare while a run goes, packed when it has ended.

Bare is little-endian float64, column after column. Packed is each column by itself as a Blosc chunk
(bits of the same weight side by side, then Zstandard), where that is shorter: a column that does
not change takes next to nothing. What comes back is the same to the last bit.
"""

import struct
import zlib

import numpy as np

from yardtoll.core.electrical.trace import FloatArray

MAGIC = b"YTB1"
_FLOAT = np.dtype("<f8")
_FEWEST_ROWS = 256
"""Fewer are not worth packing: a block of a second while it is recorded."""
_MOST_ROWS = 16_000_000
"""More are in no block of ours; a chunk that claims so many is not unpacked."""
_CHUNK_HEAD = struct.Struct("<4B3I")
"""Of a Blosc chunk: versions, flags, type size; bytes unpacked, of a block, and packed."""


def to_bytes(table: FloatArray) -> bytes:
    """(columns, n) float64 as a block's bytes."""
    bare = np.ascontiguousarray(table, dtype=_FLOAT)
    if bare.shape[1] < _FEWEST_ROWS:
        return bare.tobytes()
    # Loaded where samples are packed or unpacked, not with every command of the shell.
    from numcodecs.blosc import BITSHUFFLE, Blosc  # noqa: PLC0415

    packer = Blosc(cname="zstd", clevel=1, shuffle=BITSHUFFLE)
    chunks = [bytes(packer.encode(column)) for column in bare]
    packed = b"".join([MAGIC, *(struct.pack("<I", len(chunk)) for chunk in chunks), *chunks])
    return packed if len(packed) < bare.nbytes else bare.tobytes()


def from_bytes(data: bytes, row_count: int, width: int) -> FloatArray:
    """(width, row_count) float64 of a block that is sound.

    Raises:
        ValueError: it is not.
    """
    if len(data) == row_count * width * _FLOAT.itemsize:
        return np.frombuffer(data, dtype=_FLOAT).reshape(width, row_count)
    chunks = _chunks(data, row_count, width)
    if chunks is None:
        raise ValueError("no block of so many rows")
    from numcodecs.blosc import Blosc  # noqa: PLC0415

    unpacker = Blosc()
    table = np.empty((width, row_count), dtype=_FLOAT)
    for column, chunk in zip(table, chunks, strict=True):
        try:
            unpacker.decode(chunk, out=column)
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
    whole = whole or _chunks(data, row_count, width) is not None
    return whole and (known is None or known == checksum(data))


def _chunks(data: bytes, row_count: int, width: int) -> list[bytes] | None:
    """The columns' chunks, each of as many rows as it should be; None where they are not."""
    head = len(MAGIC) + 4 * width
    if row_count > _MOST_ROWS or not data.startswith(MAGIC) or len(data) < head:
        return None
    sizes = struct.unpack_from(f"<{width}I", data, len(MAGIC))
    if head + sum(sizes) != len(data):
        return None
    chunks, at = [], head
    for size in sizes:
        chunk = data[at : at + size]
        at += size
        if size < _CHUNK_HEAD.size:
            return None
        *_, unpacked, _, packed = _CHUNK_HEAD.unpack_from(chunk)
        if unpacked != row_count * _FLOAT.itemsize or packed != size:
            return None
        chunks.append(chunk)
    return chunks
