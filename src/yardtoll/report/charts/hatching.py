"""Lines over a colour, so that colour is never alone: the same in the window and on paper."""

from enum import Enum

import numpy as np

_LINES_APART = 5.0
Segment = tuple[float, float, float, float]
"""A line from (x, y) to (x, y)."""


class Hatch(Enum):
    """Lines over a colour."""

    NONE = "none"
    RISING = "rising"
    LEVEL = "level"
    UPRIGHT = "upright"
    CROSSED = "crossed"


def hatching(left: float, top: float, right: float, bottom: float, hatch: Hatch) -> list[Segment]:
    """Lines on one grid for the whole picture, cut to a box: lines of neighbours meet."""
    lines: list[Segment] = []
    if hatch is Hatch.UPRIGHT:
        lines = [(x, top, x, bottom) for x in _grid(left, right)]
    elif hatch is Hatch.LEVEL:
        lines = [(left, y, right, y) for y in _grid(top, bottom)]
    if hatch in (Hatch.RISING, Hatch.CROSSED):  # x + y = c
        for c in _grid(left + top, right + bottom):
            x0, x1 = max(left, c - bottom), min(right, c - top)
            lines.append((x0, c - x0, x1, c - x1))
    if hatch is Hatch.CROSSED:  # x − y = c
        for c in _grid(left - bottom, right - top):
            x0, x1 = max(left, c + top), min(right, c + bottom)
            lines.append((x0, x0 - c, x1, x1 - c))
    return lines


def _grid(low: float, high: float) -> list[float]:
    first = np.ceil(low / _LINES_APART) * _LINES_APART
    return [float(at) for at in np.arange(first, high, _LINES_APART)]
