"""What the Run view shows beside the figures: marks by key, paces, steps, spans of the clock."""

from datetime import datetime

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.store.shown_region import clock

# One bare key a mark.
MARK_KEYS: tuple[tuple[str, str], ...] = (
    ("F", "Fan on"),
    ("G", "Fan off"),
    ("W", "Warning"),
    ("H", "Hot, smell"),
    ("E", "Error code"),
    ("X", "Odd"),
)
END_KEY = "C"
"""Marks the moment a station shut off, or was full; there while the meter is read by eye."""
NOTE_KEY = "N"
SPEEDS = (1, 10, 60, 600, 3600)


def in_steps(time_s: FloatArray, power_w: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Means between readings as steps: each stretch flat at its mean, nothing made up inside."""
    if time_s.size < 2:
        return time_s, power_w
    edges = np.repeat(time_s, 2)[1:-1]
    # Times must rise; a millisecond is not seen.
    edges[2::2] += 1e-3
    return edges, np.repeat(power_w[1:], 2)


def clock_range(soon: datetime, late: datetime) -> str:
    """Like "16:31–16:46", or one time when both fall into one minute."""
    first, last = clock(soon), clock(late)
    return first if first == last else f"{first}–{last}"
