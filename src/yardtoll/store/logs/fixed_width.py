"""Cells of one width, read sign by sign for all of them at once.

A meter writes a million cells in the same shape. Where all have it they are read as an array of
bytes, many times faster than one by one; where one has another shape nothing is read here.
"""

from collections.abc import Iterator

import numpy as np
import polars as pl
from numpy.typing import NDArray

Signs = NDArray[np.uint8]

_WIDEST = 40
_ROWS = 16_384
"""So many at a time stay in the processor's cache."""
_HIGHEST_FIGURE = 9


def parts(there: pl.Series) -> Iterator[tuple[int, pl.Series]]:
    """Some cells at a time, none of them missing, and the number of the first of them."""
    start = 0
    for chunk in there.get_chunks():
        for first in range(0, chunk.len(), _ROWS):
            part = chunk.slice(first, _ROWS)
            yield start, part
            start += part.len()


def widths(part: pl.Series) -> tuple[int, int]:
    """The least and the most bytes of a cell."""
    found = part.str.len_bytes()
    return int(found.min() or 0), int(found.max() or 0)  # type: ignore[arg-type]


def filled_up(part: pl.Series) -> pl.Series | None:
    """Cells with zeros before the shorter ones, as 9:59 before 10:00; None where one is long."""
    least, most = widths(part)
    if most > _WIDEST:
        return None
    return part if least == most else part.str.pad_start(most, "0")


def signs_of(part: pl.Series, like: str, *, same_from: int | None = None) -> Signs:
    """(width, n) bytes of n cells of one width, figures as 0 to 9.

    None of the cells come where one has a figure where the pattern has none, or another sign.

    Args:
        like: a cell of that width, as all are written.
        same_from: from this place on figures too are the same in all.
    """
    first = like.encode()
    text = part.str.join("").cast(pl.Binary).item()
    if len(text) != part.len() * len(first):  # a sign of several bytes was counted as one
        return np.empty((len(first), 0), dtype=np.uint8)
    # By place, not by cell: then all that follows goes over bytes that lie side by side.
    signs = np.frombuffer(text, dtype=np.uint8).reshape(-1, len(first)).T.copy("C")
    for place, sign in enumerate(first):
        is_figure = ord("0") <= sign <= ord("9")
        if is_figure and (same_from is None or place < same_from):
            signs[place] -= np.uint8(ord("0"))  # what is below "0" comes out above 9
            continue
        if (signs[place] != sign).any():
            return signs[:, :0]
        signs[place] = 0
    return signs if signs.max() <= _HIGHEST_FIGURE else signs[:, :0]


def number_of(figures: Signs) -> NDArray[np.unsignedinteger]:
    """The numbers of (places, n) figures, in the narrowest type that holds them; 0 of no places."""
    if figures.shape[0] == 0:
        return np.zeros(figures.shape[1], dtype=np.uint8)
    # Two figures fit into a byte, of which the processor adds up many at once.
    narrow = figures.shape[0] <= 2
    total: NDArray[np.unsignedinteger] = figures[0].astype(np.uint8 if narrow else np.uint32)
    for place in figures[1:]:
        total *= 10
        total += place
    return total
