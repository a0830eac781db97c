"""Where a condition holds without a break."""

import numpy as np


def stretches(flags: np.ndarray) -> list[tuple[int, int]]:
    """(first, stop) of every run of True in (n,) flags, in order."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], flags.astype(np.int8), [0]])))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
