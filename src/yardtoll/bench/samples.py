"""What a meter hands over at once, and what of it can be used."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.quantities import NO_READING, Quantity
from yardtoll.core.electrical.trace import FloatArray


@dataclass(frozen=True, kw_only=True)
class SampleBlock:
    """Samples in the order they were taken.

    Attributes:
        time_s: (n,) s on the meter's own time, or since the driver was opened.
        columns: quantity → (n,) in its fixed unit.
    """

    time_s: FloatArray
    columns: Mapping[Quantity, FloatArray]


def usable(block: SampleBlock) -> tuple[SampleBlock, int]:
    """A block without samples that have no time, and NaN where a meter gave no reading.

    Returns:
        The block, and how many samples had no time or a figure that is none.
    """
    if all(_is_reading(values) for values in (block.time_s, *block.columns.values())):
        return block, 0  # as nearly every one
    timed = np.isfinite(block.time_s) & (np.abs(block.time_s) < NO_READING)
    odd = ~timed
    columns = {}
    for quantity, values in block.columns.items():
        no_reading = np.isinf(values) | (np.abs(values) >= NO_READING)
        odd = odd | no_reading
        columns[quantity] = np.where(no_reading, np.nan, values)[timed]
    return SampleBlock(time_s=block.time_s[timed], columns=columns), int(np.count_nonzero(odd))


def _is_reading(values: FloatArray) -> bool:
    """Whether all are figures that a meter can have measured."""
    return bool((np.abs(values) < NO_READING).all())


def joined(blocks: Sequence[SampleBlock]) -> SampleBlock:
    """Blocks as one, in their order; NaN where a block has not a column of another."""
    if len(blocks) == 1:
        return blocks[0]
    quantities = dict.fromkeys(quantity for block in blocks for quantity in block.columns)
    return SampleBlock(
        time_s=np.concatenate([block.time_s for block in blocks]),
        columns={
            quantity: np.concatenate(
                [
                    block.columns.get(quantity, np.full(block.time_s.size, np.nan))
                    for block in blocks
                ]
            )
            for quantity in quantities
        },
    )
