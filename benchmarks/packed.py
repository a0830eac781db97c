"""Samples in the file, against the same as bare numbers; and reading them back."""

import numpy as np
from made_yards import _charge_and_discharge
from rows import Row, at_least, at_most, median_ms, show

from yardtoll.store.blocks import from_bytes, to_bytes

COUNT = 1_000_000


def rows() -> list[Row]:
    """How much smaller, and how much slower to read than a copy of the bare bytes with its sum."""
    import zlib

    _, trace, _ = _charge_and_discharge(0, COUNT)
    table = np.stack([trace.time_s, *trace.columns.values()])
    data, bare = to_bytes(table), table.tobytes()
    packed_ms = median_ms(lambda: (zlib.crc32(data), from_bytes(data, COUNT, 4)))
    bare_ms = median_ms(
        lambda: (zlib.crc32(bare), from_bytes(bytes(bytearray(bare)), COUNT, 4).copy())
    )
    return [
        at_least("samples in the file, times smaller", table.nbytes / len(data), 4, "×", 1),
        at_most("reading a million of them ÷ bare ones", packed_ms / bare_ms, 1, "×"),
    ]


if __name__ == "__main__":
    show(rows())
